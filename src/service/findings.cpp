#include <array>
#include <string_view>

#include "service/telling.h"

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, 23> kFindingNames{
    "records_set_aside", "records_flawed", "cut_off_pieces", "gaps",          "unreal_roads", "roads_on_water",
    "one_way_roads",     "swapped_axes",   "wrong_crs",      "outside",       "no_road_near", "cut_off_places",
    "one_way_places",    "on_motorway",    "far_from_road",  "stacked",       "ids",          "weights",
    "idle_sites",        "road_words",     "not_recorded",   "unknown_pairs", "stated_times"};

/// Calls `use` with every set of the study.
template <class Use>
void each_set(const Study& study, const Checked& c, Use&& use) {
    for (const auto& d : study.demand) use(View(d, c));
    for (const auto& s : study.sites) use(View(s, c, study.question().use));
}

}  // namespace

std::vector<Finding> standing_findings(const Study& study, const Checked& c, const Task& task) {
    std::vector<Finding> out;
    if (study.roads) {
        tell_flaws(out, study.roads->origin, {}, nullptr);
        tell_road_words(out, study.roads->origin);
    }
    if (c.network) {
        tell_one_way_roads(out, c);
        tell_unreal_roads(out, c, PieceLoads(study, c));
        tell_stated_times(out, study, c, task);
        if (study.water) tell_roads_on_water(out, *study.water->areas, c, task);
    }
    each_set(study, c, [&](const View& v) {
        tell_flaws(out, *v.origin, v.set_name(), v.is_demand ? &v : nullptr);
        tell_ids(out, v);
        if (v.is_demand) tell_weights(out, v);
        if (c.network) tell_outside(out, v, c);
        tell_stacked(out, v);
    });
    for (const auto& d : study.demand) tell_recorded(out, study, *d.set, View(d, c));
    if (study.pairs) {
        tell_flaws(out, study.pairs->origin, {SetKind::pairs, "the table of pairs"}, nullptr);
        tell_pairs(out, study);
    }
    return out;
}

void add_joins(const Study& study, Checked& c) {
    auto wanted = cut_off_pieces(c, PieceLoads(study, c));
    if (wanted.size() > kMostJoins) wanted.resize(kMostJoins);
    if (wanted.empty()) return;
    const auto found = nearest_joins(*c.network, c.roads.as_pieces(), wanted);
    for (std::size_t i = 0; i < wanted.size(); ++i)
        if (found[i]) c.joins[wanted[i]] = *found[i];
}

void keep_joins(Checked& c, std::uint32_t stays, std::uint32_t gone) {
    std::optional<roads::Gap> best;
    for (const std::uint32_t p : {stays, gone}) {
        const auto at = c.joins.find(p);
        if (at == c.joins.end()) continue;
        const bool leads_out = c.merged[at->second.piece] != c.merged[at->second.other_piece];
        if (leads_out && (!best || at->second.distance < best->distance)) best = at->second;
        c.joins.erase(at);
    }
    if (best && stays != c.main) c.joins[stays] = *best;
}

std::string_view name(FindingKind k) { return kFindingNames[static_cast<std::size_t>(k)]; }

std::vector<Finding> findings_of(const Study& study, const Checked& c) {
    std::vector<Finding> out = c.standing ? *c.standing : std::vector<Finding>{};
    if (c.network) {
        const PieceLoads loads(study, c);
        tell_pieces(out, c, loads);
        tell_gaps(out, study, c, loads);
        each_set(study, c, [&](const View& v) {
            tell_attaching(out, study, v, c);
            if (!v.is_demand) tell_idle_sites(out, v, c);
        });
    }
    for (Finding& f : out) {
        auto a = study.accepted.find(f.key());
        if (a == study.accepted.end()) a = study.accepted.find(f.earlier_key());
        f.accepted = a == study.accepted.end() ? std::nullopt : std::optional(a->second);
    }
    std::stable_sort(out.begin(), out.end(), [](const Finding& a, const Finding& b) {
        return a.open() != b.open() ? a.open() : a.weight > b.weight;
    });
    return out;
}

std::uint32_t count_open(const std::vector<Finding>& findings) {
    return static_cast<std::uint32_t>(
        std::count_if(findings.begin(), findings.end(), [](const Finding& f) { return f.open(); }));
}

}  // namespace otoro::service
