#include "service/own_limit_values.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <tuple>

#include "service/access_legs.h"
#include "service/reach.h"

namespace otoro::service {
namespace {

constexpr double kSame = 1e-6;  // ms or mm

double along(double from, double to, double value_from, double value_to, double x) {
    return to > from ? value_from + (value_to - value_from) * (x - from) / (to - from) : value_from;
}

}  // namespace

OwnLimitValues::OwnLimitValues(Asked asked, const Searching& searching, const Task& task) : asked_(std::move(asked)) {
    std::vector<std::uint32_t> in_use;
    for (std::uint32_t i = 0; i < asked_.sites.size(); ++i)
        if (asked_.sites[i].planned.in_use && asked_.sites[i].attachment) in_use.push_back(i);
    if (in_use.size() > 1 && asked_.ready->question.off_road_speed)
        refuse("",
               "where legs off the road count, ground of several sites with limits of their own cannot be laid "
               "together",
               "Ask for the areas of each site, or do not count off-road legs");
    places_.resize(asked_.ready->inputs.demand.count());
    std::vector<std::uint32_t> without;
    for (std::size_t k = 0; k < in_use.size(); ++k) {
        task.at("searching from each site", static_cast<double>(k) / static_cast<double>(in_use.size()));
        if (asked_.limits[in_use[k]])
            add_sites(std::array{in_use[k]}, searching, task);
        else
            without.push_back(in_use[k]);
    }
    if (!without.empty()) add_sites(without, searching, task);
    // What lies beyond one site alone its own search has told.
    if (in_use.size() > 1) add_nearest(searching, task);
    std::sort(parts_.begin(), parts_.end(), [](const Part& a, const Part& b) {
        return std::tie(a.link, a.site, a.from) < std::tie(b.link, b.site, b.from);
    });
    const bool by_time = is_by_time();
    std::sort(at_nodes_.begin(), at_nodes_.end(), [by_time](const AtNode& a, const AtNode& b) {
        return a.node != b.node ? a.node < b.node
                                : std::pair(by_time ? a.time : a.distance, a.site) <
                                      std::pair(by_time ? b.time : b.distance, b.site);
    });
    at_nodes_.erase(std::unique(at_nodes_.begin(), at_nodes_.end(),
                                [](const AtNode& a, const AtNode& b) { return a.node == b.node; }),
                    at_nodes_.end());
}

void OwnLimitValues::add_sites(std::span<const std::uint32_t> of, const Searching& searching, const Task& task) {
    const Ready& whole = *asked_.ready;
    // A question of their own: they alone, with their limit for the limit.
    auto ready = std::make_shared<Ready>(whole);
    ready->question.own_limits = false;
    ready->question.limit = asked_.limits[of.front()];
    auto sites = asked_.sites;
    for (auto& s : sites) s.planned.in_use = false;
    for (const std::uint32_t s : of) sites[s].planned.in_use = true;
    const auto seeds = seeds_of(*ready, *asked_.costed, sites);
    const auto& limit = ready->question.limit;
    const bool bounded = limit && std::holds_alternative<Millis>(*limit) == is_by_time();
    const auto most =
        bounded ? static_cast<std::uint32_t>(std::clamp<std::int64_t>(
                      std::visit([](auto v) { return std::int64_t{v.count()}; }, *limit), 0, routing::kFar - 1))
                : routing::kFar - 1;
    const auto labels = std::make_shared<const Labels>(searching.labels_within(seeds, most, task));
    const RoadValues time(ready, asked_.costed, sites, labels, ValueOf::time, false);
    const RoadValues distance(ready, asked_.costed, sites, labels, ValueOf::distance, false);
    const auto& network = *whole.inputs.network;
    std::vector<reach::Stretch> of_time, of_distance;
    for (const LinkId link : (is_by_time() ? time : distance).touched(searching.graph(), most)) {
        time.stretches(link, of_time);
        distance.stretches(link, of_distance);
        // The same ways, cut at the same points.
        for (std::size_t k = 0; k < of_time.size(); ++k)
            parts_.push_back({link, of_time[k].owner, of_time[k].from, of_time[k].to, of_time[k].value_from,
                              of_time[k].value_to, of_distance[k].value_from, of_distance[k].value_to});
        const auto ends = network.ends(link);
        for (const bool at_end : {false, true}) {
            const Millimetres offset = at_end ? network.length(link) : Millimetres(0);
            const auto ms = time.at(link, offset), mm = distance.at(link, offset);
            if (ms && mm) at_nodes_.push_back({at_end ? ends.to : ends.from, ms->owner, ms->value, mm->value});
        }
    }
    add_places(time.at_places());
}

/// Whoever is within the site's limit goes to it if it is the nearest so far.
void OwnLimitValues::add_places(const PlaceOutcomes& found) {
    const auto cost = [this](const PlaceOutcome& p) { return is_by_time() ? p.time.count() : p.distance.count(); };
    const auto& limit = asked_.ready->question.limit;
    for (std::size_t i = 0; i < found.size(); ++i) {
        PlaceOutcome& now = places_[i];
        if (!found[i].served()) {
            if (!now.site) now.status = found[i].status;
            continue;
        }
        if (now.site && std::pair(cost(now), *now.site) <= std::pair(cost(found[i]), *found[i].site)) continue;
        now = found[i];
        if (is_beyond(now.time, now.distance, limit)) now.status = Status::beyond_limit;
    }
}

/// Others are beyond the limit of their nearest.
void OwnLimitValues::add_nearest(const Searching& searching, const Task& task) {
    if (places_.empty()) return;
    const Ready& ready = *asked_.ready;
    const auto seeds = seeds_of(ready, *asked_.costed, asked_.sites);
    const auto nearest =
        places_of(ready, *asked_.costed, asked_.sites, by_link(asked_.sites), searching.labels(seeds, task).first);
    for (std::size_t i = 0; i < places_.size(); ++i) {
        if (places_[i].site) continue;
        places_[i] = nearest[i];
        if (places_[i].site) places_[i].status = Status::beyond_limit;
    }
}

std::span<const OwnLimitValues::Part> OwnLimitValues::of(LinkId link) const {
    const auto less = [](const Part& p, LinkId l) { return p.link < l; };
    const auto first = std::lower_bound(parts_.begin(), parts_.end(), link, less);
    const auto end = std::find_if(first, parts_.end(), [&](const Part& p) { return p.link != link; });
    return {first, end};
}

double OwnLimitValues::value(std::uint32_t site, double time, double distance) const {
    return (asked_.value == ValueOf::time ? time : distance) - (asked_.shifts.empty() ? 0 : asked_.shifts[site]);
}

bool OwnLimitValues::within_the_question(double time, double distance) const {
    const auto& limit = asked_.ready->question.limit;
    if (!limit) return true;
    if (const auto* most = std::get_if<Millis>(&*limit)) return time <= static_cast<double>(most->count());
    return distance <= static_cast<double>(std::get<Millimetres>(*limit).count());
}

void OwnLimitValues::stretches(LinkId link, std::vector<reach::Stretch>& out) const {
    out.clear();
    const auto parts = of(link);
    if (parts.empty()) return;
    const bool by_time = is_by_time();
    const auto cost = [&](const Part& p, double x) {
        return by_time ? along(p.from, p.to, p.time_from, p.time_to, x)
                       : along(p.from, p.to, p.distance_from, p.distance_to, x);
    };
    const auto less = [&](const Part& a, const Part& b, double x) {
        const double ca = cost(a, x), cb = cost(b, x);
        if (std::abs(ca - cb) > kSame) return ca < cb;
        // Of equals the one that is lower a little farther on.
        const double end = std::min(a.to, b.to), ea = cost(a, end), eb = cost(b, end);
        return std::abs(ea - eb) > kSame ? ea < eb : a.site < b.site;
    };
    double x = 0;
    while (true) {
        const Part* now = nullptr;
        double start = std::numeric_limits<double>::infinity();
        for (const Part& p : parts) {
            if (p.from > x) start = std::min(start, p.from);
            if (p.from <= x && x < p.to && (now == nullptr || less(p, *now, x))) now = &p;
        }
        if (now == nullptr) {
            if (std::isinf(start)) break;
            x = start;
            continue;
        }
        double end = now->to;
        for (const Part& p : parts) {
            const double a = std::max(x, p.from), b = std::min(end, p.to);
            if (&p == now || b <= a) continue;
            const double before = cost(p, a) - cost(*now, a), after = cost(p, b) - cost(*now, b);
            if (a > x && before < -kSame)
                end = a;
            else if (after < -kSame && before >= -kSame)
                end = std::max(a + (b - a) * std::max(0.0, before) / (before - after), a > x ? a : x);
        }
        if (end <= x) end = std::nextafter(x, std::numeric_limits<double>::infinity());
        // As far as the question's own limit.
        const auto time = [&](double v) { return along(now->from, now->to, now->time_from, now->time_to, v); };
        const auto distance = [&](double v) {
            return along(now->from, now->to, now->distance_from, now->distance_to, v);
        };
        double begin = x, stop = end;
        if (const auto& limit = asked_.ready->question.limit)
            std::tie(begin, stop) = std::holds_alternative<Millis>(*limit)
                                        ? reach::part_within(time, count_of(*limit), x, end)
                                        : reach::part_within(distance, count_of(*limit), x, end);
        if (begin < stop)
            out.push_back({begin, stop, value(now->site, time(begin), distance(begin)),
                           value(now->site, time(stop), distance(stop)), asked_.merged ? 0 : now->site});
        x = end;
    }
}

std::optional<reach::PointValue> OwnLimitValues::at(LinkId link, Millimetres offset) const {
    const auto& network = *asked_.ready->inputs.network;
    const auto told = [&](std::uint32_t site, double time, double distance) -> std::optional<reach::PointValue> {
        if (!within_the_question(time, distance)) return std::nullopt;
        return reach::PointValue{value(site, time, distance), asked_.merged ? 0 : site};
    };
    if (offset.count() == 0 || offset == network.length(link)) {
        const auto ends = network.ends(link);
        const NodeId node = offset.count() == 0 ? ends.from : ends.to;
        const auto at = std::lower_bound(at_nodes_.begin(), at_nodes_.end(), node,
                                         [](const AtNode& a, NodeId n) { return a.node < n; });
        if (at == at_nodes_.end() || at->node != node) return std::nullopt;
        return told(at->site, at->time, at->distance);
    }
    const auto x = static_cast<double>(offset.count());
    std::optional<AtNode> best;
    for (const Part& p : of(link)) {
        if (x < p.from || x > p.to) continue;
        const AtNode here{NodeId(), p.site, std::round(along(p.from, p.to, p.time_from, p.time_to, x)),
                          std::round(along(p.from, p.to, p.distance_from, p.distance_to, x))};
        const double cost = is_by_time() ? here.time : here.distance;
        if (!best || cost < (is_by_time() ? best->time : best->distance)) best = here;
    }
    return best ? told(best->site, best->time, best->distance) : std::nullopt;
}

std::vector<LinkId> OwnLimitValues::touched(const routing::Graph&, double) const {
    std::vector<LinkId> out;
    for (const Part& p : parts_)
        if (out.empty() || out.back() != p.link) out.push_back(p.link);
    return out;
}

bool has_own_limits(const Ready& ready, const std::vector<SiteOutcome>& sites) {
    return ready.question.own_limits && std::any_of(sites.begin(), sites.end(), [](const SiteOutcome& s) {
               return s.planned.in_use && s.attachment && s.planned.site.limit;
           });
}

std::shared_ptr<const SiteValues> values_within_own_limits(std::shared_ptr<const Ready> ready,
                                                           std::shared_ptr<const CostedNetwork> costed,
                                                           std::vector<SiteOutcome> sites, ValueOf value,
                                                           const Searching& searching, const Task& task) {
    std::vector<std::optional<Amount>> limits;
    for (const SiteOutcome& s : sites) limits.push_back(s.planned.site.limit);
    return std::make_shared<const OwnLimitValues>(
        OwnLimitValues::Asked{
            std::move(ready), std::move(costed), std::move(sites), std::move(limits), {}, value, false},
        searching, task);
}

}  // namespace otoro::service
