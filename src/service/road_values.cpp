#include "service/road_values.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "service/own_limit_values.h"
#include "service/searching.h"

namespace otoro::service {

using routing::LinkWay;

/// One way to be served along a part of a road: what it takes at both ends of the part.
struct RoadValues::Way {
    double cost_from = 0, cost_to = 0;
    double other_from = 0, other_to = 0;
    std::uint32_t source = 0;
};

double per_metre_off_road(const Question& question, ValueOf value) {
    if (!question.off_road_speed) return 0;
    if (value == ValueOf::distance) return 1000;
    return 3.6e6 * 1000 / static_cast<double>(question.off_road_speed->mm_per_hour());
}

RoadValues::RoadValues(std::shared_ptr<const Ready> ready, std::shared_ptr<const CostedNetwork> costed,
                       std::vector<SiteOutcome> sites, std::shared_ptr<const Labels> labels, ValueOf value, bool merged)
    : ready_(std::move(ready)),
      costed_(std::move(costed)),
      sites_(std::move(sites)),
      on_link_(by_link(sites_)),
      labels_(std::move(labels)),
      value_is_cost_((value == ValueOf::time) == (ready_->question.measure() == routing::Measure::time)),
      merged_(merged) {
    if (const auto& limit = ready_->question.limit) {
        limit_ = std::visit([](auto v) { return static_cast<double>(v.count()); }, *limit);
        limit_is_cost_ =
            std::holds_alternative<Millis>(*limit) == (ready_->question.measure() == routing::Measure::time);
    }
}

std::shared_ptr<const SiteValues> values_of(const std::shared_ptr<const Ready>& ready, const Outcome& outcome,
                                            ValueOf value, const Task& task) {
    const auto& traces = outcome.traces;
    if (has_own_limits(*ready, outcome.sites))
        return values_within_own_limits(ready, traces->costed, outcome.sites, value, Searching(*ready, outcome), task);
    return std::make_shared<const RoadValues>(ready, traces->costed, outcome.sites,
                                              std::shared_ptr<const Labels>(traces, &traces->labels), value, false);
}

std::shared_ptr<const RoadValues> values_from(const std::shared_ptr<const Ready>& ready, const Outcome& outcome,
                                              geo::LonLat spot, ValueOf value) {
    SiteOutcome site;
    site.planned.site.id = "spot";
    site.planned.site.position = spot;
    site.planned.in_use = true;
    site.attachment = attach_site(*ready, spot, 0, 0);
    std::vector<SiteOutcome> sites{std::move(site)};
    const auto seeds = seeds_of(*ready, *outcome.traces->costed, sites);
    auto labels = std::make_shared<const Labels>(Searching(*ready, outcome).labels(seeds, Task()).first);
    return std::make_shared<const RoadValues>(ready, outcome.traces->costed, std::move(sites), std::move(labels), value,
                                              false);
}

void RoadValues::stretches(LinkId link, std::vector<reach::Stretch>& out) const {
    out.clear();
    if (on_link_.contains(link.value()) || !roads::restrictions_of(costed_->restrictions, link).empty())
        return with_cuts(link, out);
    const auto& network = *ready_->inputs.network;
    const travel::TraversalTime whole = costed_->traversal_times[link.value()];
    const auto length = static_cast<double>(network.length(link).count());
    const bool outward = ready_->question.towards == Towards::demand;
    const bool measured_by_time = ready_->question.measure() == routing::Measure::time;
    std::array<Way, 2> ways;
    std::size_t count = 0;
    for (const LinkWay way : {LinkWay::along(link), LinkWay::against(link)}) {
        const std::uint64_t ms = way.is_against() ? whole.against : whole.along;
        if (ms == travel::kNotAllowed) continue;
        const routing::Label label = labels_->at(network, way, outward);
        if (!label.reached()) continue;
        const double cost = measured_by_time ? static_cast<double>(ms) : length;
        const double other = measured_by_time ? length : static_cast<double>(ms);
        // From which end the way counts: outward from where it begins, inward from where it ends.
        const bool from_start = outward != way.is_against();
        Way& w = ways[count++];
        w.source = label.source;
        w.cost_from = label.cost + (from_start ? 0 : cost);
        w.cost_to = label.cost + (from_start ? cost : 0);
        w.other_from = label.other + (from_start ? 0 : other);
        w.other_to = label.other + (from_start ? other : 0);
    }
    if (count == 0) return;
    thread_local std::vector<Way> list;
    list.assign(ways.begin(), ways.begin() + static_cast<std::ptrdiff_t>(count));
    even(link, 0, length, list, out);
}

/// The lower of all ways, part by part.
void RoadValues::even(LinkId, double from, double to, const std::vector<Way>& ways,
                      std::vector<reach::Stretch>& out) const {
    const double length = to - from;
    const auto at = [&](const Way& w, double x) { return w.cost_from + (w.cost_to - w.cost_from) * x / length; };
    const auto less = [&](const Way& a, const Way& b, double x) {
        const double ca = at(a, x), cb = at(b, x);
        // Of equals the one that is lower a little farther on.
        if (std::abs(ca - cb) > 1e-6) return ca < cb;
        const double ra = a.cost_to - a.cost_from, rb = b.cost_to - b.cost_from;
        if (std::abs(ra - rb) > 1e-6) return ra < rb;
        return std::tie(a.source, a.other_from) < std::tie(b.source, b.other_from);
    };
    if (length <= 0) return;
    double x = 0;
    const Way* now = nullptr;
    for (const Way& w : ways)
        if (now == nullptr || less(w, *now, 0)) now = &w;
    while (now != nullptr && x < length) {
        double end = length;
        const Way* next = nullptr;
        for (const Way& w : ways) {
            const double faster = (now->cost_to - now->cost_from) - (w.cost_to - w.cost_from);
            if (&w == now || faster <= 1e-9) continue;
            const double meet = (w.cost_from - now->cost_from) * length / faster;
            if (meet <= x || meet > end) continue;
            if (meet < end || next == nullptr || less(w, *next, meet)) {
                if (meet >= length) continue;
                end = meet;
                next = &w;
            }
        }
        const auto cost = [&](double v) { return at(*now, v); };
        const auto other = [&](double v) { return now->other_from + (now->other_to - now->other_from) * v / length; };
        const double most = static_cast<double>(routing::kFar);
        double begin = x, stop = end;
        if (limit_)
            std::tie(begin, stop) =
                limit_is_cost_ ? reach::part_within(cost, *limit_, x, end) : reach::part_within(other, *limit_, x, end);
        if (begin < stop && cost(begin) < most && cost(stop) < most) {
            const auto value = [&](double v) { return (value_is_cost_ ? cost(v) : other(v)); };
            out.push_back({from + begin, from + stop, value(begin), value(stop), merged_ ? 0 : now->source});
        }
        x = end;
        now = next;
    }
}

namespace {

/// Whether two parts a millimetre apart differ by no more than that and rounding: nothing happens between them.
bool goes_on(const Part& a, const Part& b) {
    constexpr std::uint32_t kRounding = 2;
    const auto near = [](std::uint32_t x, std::uint32_t y) { return x > y ? x - y <= kRounding : y - x <= kRounding; };
    // The slowest believed speed makes 36 ms of a millimetre.
    return near(a.mm, b.mm) && (a.ms > b.ms ? a.ms - b.ms : b.ms - a.ms) <= 37;
}

}  // namespace

void RoadValues::with_cuts(LinkId link, std::vector<reach::Stretch>& out) const {
    const auto& network = *ready_->inputs.network;
    const bool outward = ready_->question.towards == Towards::demand;
    const auto measure = ready_->question.measure();
    const SplitLink split = split_link(network, *costed_, link);
    const std::int64_t length = network.length(link).count();
    std::vector<std::int64_t> cuts{0, length};
    for (const auto& r : roads::restrictions_of(costed_->restrictions, link)) {
        cuts.push_back(r.begin.count());
        cuts.push_back(r.end.count());
        cuts.push_back((r.begin.count() + r.end.count()) / 2);
        cuts.push_back((r.begin.count() + r.end.count() + 1) / 2);
    }
    const auto here = on_link_.find(link.value());
    if (here != on_link_.end())
        for (const std::uint32_t site : here->second) cuts.push_back(sites_[site].attachment->offset.count());
    std::sort(cuts.begin(), cuts.end());
    cuts.erase(std::unique(cuts.begin(), cuts.end()), cuts.end());
    std::vector<Way> ways;
    for (std::size_t i = 0; i + 1 < cuts.size(); ++i) {
        const std::int64_t from = cuts[i], to = cuts[i + 1];
        // A little inside, where nothing changes; at the cuts themselves where nothing does there either, and where
        // there is nothing inside: a road has no gap of a millimetre.
        const bool has_inside = to - from >= 2;
        const std::int64_t inner_a = has_inside ? from + 1 : from,
                           inner_b = has_inside ? std::max(inner_a, to - 1) : to;
        ways.clear();
        const auto add = [&](auto&& part, const routing::Label& label) {
            if (!label.reached()) return;
            auto at_a = part(inner_a), at_b = part(inner_b);
            if (!at_a || !at_b) return;
            // A delay that is paid within a millimetre is paid behind it, from whichever side one comes.
            if (!has_inside && !goes_on(*at_a, *at_b))
                at_a = at_b = at_a->in(measure).cost < at_b->in(measure).cost ? at_a : at_b;
            std::int64_t a = inner_a, b = inner_b;
            if (const auto exact = part(from); exact && goes_on(*exact, *at_a))
                std::tie(a, at_a) = std::tuple(from, exact);
            if (const auto exact = part(to); exact && goes_on(*exact, *at_b)) std::tie(b, at_b) = std::tuple(to, exact);
            const auto p = at_a->in(measure), q = at_b->in(measure);
            const double steps = static_cast<double>(std::max<std::int64_t>(b - a, 1));
            const double cost_slope = (double(q.cost) - p.cost) / steps,
                         other_slope = (double(q.other) - p.other) / steps;
            const auto span = static_cast<double>(to - from);
            Way w;
            w.source = label.source;
            const auto before = static_cast<double>(a - from);
            w.cost_from = label.cost + p.cost - cost_slope * before;
            w.cost_to = w.cost_from + cost_slope * span;
            w.other_from = label.other + p.other - other_slope * before;
            w.other_to = w.other_from + other_slope * span;
            ways.push_back(w);
        };
        for (const LinkWay way : {LinkWay::along(link), LinkWay::against(link)}) {
            const auto part = [&](std::int64_t x) {
                return outward ? split.onto(way.is_against(), Millimetres(x))
                               : split.off(Millimetres(x), way.is_against());
            };
            add(part, labels_->at(network, way, outward));
        }
        if (here != on_link_.end())
            for (const std::uint32_t site : here->second) {
                const places::Attachment& at = *sites_[site].attachment;
                const auto part = [&](std::int64_t x) -> std::optional<Part> {
                    const auto p =
                        outward ? split.between(at.offset, Millimetres(x)) : split.between(Millimetres(x), at.offset);
                    if (!p) return std::nullopt;
                    return *p + before_road(ready_->question, at);
                };
                add(part, routing::Label{0, site, 0, LinkWay::none()});
            }
        even(link, static_cast<double>(from), static_cast<double>(to), ways, out);
    }
}

std::optional<reach::PointValue> RoadValues::at(LinkId link, Millimetres offset) const {
    const auto& network = *ready_->inputs.network;
    const bool outward = ready_->question.towards == Towards::demand;
    const Searched searched(*ready_, *costed_, sites_, on_link_,
                            one_label([&](LinkWay way) { return labels_->at(network, way, outward); }));
    const AccessLeg leg = searched.best_leg({link, offset, Millimetres(0), {}});
    if (leg.cost >= routing::kFar) return std::nullopt;
    if (limit_ && (limit_is_cost_ ? leg.cost : leg.other) > *limit_) return std::nullopt;
    return reach::PointValue{static_cast<double>(value_is_cost_ ? leg.cost : leg.other), merged_ ? 0 : leg.source};
}

std::vector<LinkId> RoadValues::touched(const routing::Graph& graph, double most) const {
    std::vector<LinkId> out;
    const auto& network = *ready_->inputs.network;
    const bool outward = ready_->question.towards == Towards::demand;
    const auto reached = [&](const routing::Label& l) {
        return l.reached() && static_cast<double>(value_is_cost_ ? l.cost : l.other) <= most;
    };
    std::vector<bool> seen(network.link_count(), false);
    const auto add = [&](LinkId link) {
        if (seen[link.value()]) return;
        seen[link.value()] = true;
        out.push_back(link);
    };
    if (labels_->of_ways()) {
        for (std::uint32_t i = 0; i < network.link_count(); ++i)
            if (reached(labels_->at(network, LinkWay::along(LinkId(i)), outward)) ||
                reached(labels_->at(network, LinkWay::against(LinkId(i)), outward)))
                add(LinkId(i));
    } else {
        for (std::uint32_t n = 0; n < graph.node_count(); ++n)
            if (reached(labels_->at(n)))
                for (const auto& arc : graph.arcs_of(n)) add(arc.way.link());
        // Roads that are shut somewhere are no arcs, and are reached up to there.
        for (const auto& r : costed_->restrictions) add(r.link);
    }
    for (const auto& s : sites_)
        if (s.planned.in_use && s.attachment) add(s.attachment->link);
    std::sort(out.begin(), out.end());
    return out;
}

PlaceOutcomes RoadValues::at_places() const {
    if (ready_->inputs.demand.count() == 0) return {};
    return places_of(*ready_, *costed_, sites_, on_link_, *labels_);
}

}  // namespace otoro::service
