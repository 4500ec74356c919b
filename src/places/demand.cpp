#include "places/demand.h"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cctype>
#include <string_view>

#include "geo/digest.h"
#include "geo/ellipsoid.h"
#include "geo/error.h"

namespace otoro::places {
namespace {

/// How far from the point set by hand a road is looked for.
constexpr Millimetres kHandReach = Millimetres::metres(5000);

constexpr std::array<std::string_view, 3> kStates{"open", "candidate", "closed"};

void add(Digest& d, const std::optional<geo::LonLat>& p) {
    d.value(static_cast<std::uint8_t>(p.has_value()));
    if (p) d.value(p->lon).value(p->lat);
}

void add(Digest& d, const Attaching& a) {
    d.value(a.rule.limit ? a.rule.limit->count() : std::int64_t{-1})
        .value(a.rule.classes)
        .value(a.rule.ramps)
        .value(a.rule.least_piece.count());
    for (const auto& [place, at] : a.by_hand) d.value(place).value(at.lon).value(at.lat);
    for (const auto& road : a.road_names) d.text(road);
}

/// A column counts only where there is one, so that digests of sets without one stay what they were.
void add(Digest& d, const TextColumn& column) {
    if (column.empty()) return;
    d.text(column.name());
    for (std::size_t i = 0; i < column.size(); ++i) d.text(column.at(i));
}

}  // namespace

namespace {

Wide sum_of_weights(const DemandSet& set) {
    Wide sum = 0;
    for (const auto& p : set.places) sum += p.weight.count();
    return sum;
}

}  // namespace

void check_sum(Wide millionths, const std::string& what, const std::string& remedy) {
    constexpr std::int64_t kMost = 9'000'000'000'000'000'000, kHundredth = 10'000'000'000'000'000;
    if (millionths <= kMost) return;
    // Rounded up, so that it is seen to be more.
    const auto hundredths = static_cast<std::int64_t>((millionths + kHundredth - 1) / kHundredth);
    throw InputError({"", std::nullopt,
                      fmt::format("{} add up to {}.{:02} million million, more than the nine that can be added up "
                                  "exactly",
                                  what, hundredths / 100, hundredths % 100),
                      remedy});
}

namespace {

void check_weights(Wide sum, const std::string& whose) {
    check_sum(sum, "the weights of the " + whose, "Give them in larger units, such as thousands");
}

}  // namespace

void check_weights(const DemandSet& set) { check_weights(sum_of_weights(set), set.name); }

void check_weights(const std::vector<std::shared_ptr<const DemandSet>>& sets) {
    Wide sum = 0;
    std::string names;
    for (const auto& set : sets) {
        sum += sum_of_weights(*set);
        names += (names.empty() ? "" : " and ") + set->name;
    }
    check_weights(sum, names);
}

std::string_view name(SiteState s) { return kStates[static_cast<std::size_t>(s)]; }

std::optional<SiteState> parse_site_state(std::string_view text) {
    std::string s;
    for (const char c : text)
        if (!std::isspace(static_cast<unsigned char>(c)))
            s += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (s.empty()) return SiteState::open;
    const auto at = std::find(kStates.begin(), kStates.end(), s);
    if (at == kStates.end()) return std::nullopt;
    return static_cast<SiteState>(at - kStates.begin());
}

std::string DemandSet::digest() const {
    Digest d;
    d.text(weight_name);
    for (const auto& p : places) {
        d.text(p.id).value(p.weight.count());
        add(d, p.position);
    }
    add(d, attaching);
    add(d, group);
    add(d, recorded);
    if (!priority.empty()) {
        d.text("priority");
        add(d, priority);
    }
    return d.hex();
}

std::string SiteSet::digest() const {
    Digest d;
    for (const auto& s : sites) {
        d.text(s.id)
            .value(static_cast<std::uint8_t>(s.state))
            .value(s.capacity ? s.capacity->count() : std::int64_t{-1});
        add(d, s.position);
        // What earlier versions did not know counts only where it is there, so that their digests hold.
        if (!s.zone.empty()) d.text("zone").text(s.zone);
        if (s.cost) d.text("cost").value(s.cost->count());
        if (s.least) d.text("least").value(s.least->count());
        if (s.turnout) d.text("turnout").value(s.turnout->count());
        if (s.limit)
            d.text(std::holds_alternative<Millis>(*s.limit) ? "limit in time" : "limit in length")
                .value(std::visit([](auto v) { return v.count(); }, *s.limit));
    }
    add(d, attaching);
    return d.hex();
}

std::optional<Attachment> attach_one(const roads::Network& network, const std::vector<bool>& may, geo::LonLat position,
                                     std::uint32_t index, const Attaching& attaching, Millimetres limit) {
    const Millimetres most = attaching.rule.limit.value_or(limit);
    if (const auto hand = attaching.by_hand.find(index); hand != attaching.by_hand.end()) {
        auto a = attach(network, may, hand->second, kHandReach);
        if (a) a->off_road = geo::distance(position, a->at);
        return a;
    }
    if (index < attaching.road_names.size() && !attaching.road_names[index].empty())
        if (auto named = attach_to_named(network, may, position, attaching.road_names[index], most)) return named;
    return attach(network, may, position, most);
}

std::vector<std::optional<Attachment>> attach_set(const roads::Network& network, const std::vector<bool>& usable,
                                                  const std::vector<std::optional<geo::LonLat>>& positions,
                                                  const Attaching& attaching, Millimetres limit, const Task& task) {
    const auto may = attachable(network, usable, attaching.rule);
    std::vector<std::optional<Attachment>> out(positions.size());
    std::atomic<bool> stop = false;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, positions.size(), 256), [&](const auto& range) {
        if (task.stop_requested()) stop = true;
        if (stop) return;
        for (std::size_t i = range.begin(); i != range.end(); ++i)
            if (positions[i])
                out[i] = attach_one(network, may, *positions[i], static_cast<std::uint32_t>(i), attaching, limit);
    });
    task.check();
    return out;
}

std::vector<std::optional<geo::LonLat>> positions(const DemandSet& demand) {
    std::vector<std::optional<geo::LonLat>> out;
    out.reserve(demand.places.size());
    for (const auto& p : demand.places) out.push_back(p.position);
    return out;
}

std::vector<std::optional<geo::LonLat>> positions(const SiteSet& sites) {
    std::vector<std::optional<geo::LonLat>> out;
    for (const auto& s : sites.sites) out.push_back(s.position);
    return out;
}

}  // namespace otoro::places
