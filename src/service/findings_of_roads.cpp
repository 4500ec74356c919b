#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <numeric>
#include <string_view>
#include <unordered_map>

#include "geo/edge_index.h"
#include "geo/ellipsoid.h"
#include "geo/local_frame.h"
#include "geo/wording.h"
#include "service/telling.h"

namespace otoro::service {
namespace {

constexpr Millimetres kUnrealSegment = Millimetres::metres(2000);  // a road without a bend for so long
std::string effect_of(const roads::Gap& g, const Checked& c, const PieceLoads& loads, Weight& gained) {
    const std::uint32_t a = c.merged[g.piece], b = c.merged[g.other_piece];
    gained = {};
    if (a == b) return "shortens ways; no piece is joined";
    for (const auto& [mine, other] : {std::pair{a, b}, std::pair{b, a}})
        if (!loads.served(mine) && loads.served(other)) gained += loads.demand[mine].weight;
    if (gained.count() > 0)
        return fmt::format("joins 2 pieces, {} {} come within reach", describe(gained), loads.weight_name);
    return loads.served(a) || loads.served(b) ? "joins 2 pieces, on one of which nobody lives"
                                              : "joins 2 pieces, neither of which has a site";
}

}  // namespace

void tell_gaps(std::vector<Finding>& out, const Study& study, const Checked& c, const PieceLoads& loads) {
    if (c.gaps.empty()) return;
    Finding f;
    f.kind = FindingKind::gaps;
    f.about = "roads";
    f.count = static_cast<std::uint32_t>(c.gaps.size());
    CloseGaps all;
    // What closing all of them joins, counted on a copy.
    std::vector<std::uint32_t> piece(c.roads.pieces.size());
    std::iota(piece.begin(), piece.end(), 0U);
    const auto root = [&](std::uint32_t p) {
        p = c.merged[p];
        while (piece[p] != p) p = piece[p];
        return p;
    };
    std::uint32_t joins = 0;
    for (const roads::Gap& g : c.gaps) {
        FindingItem item;
        Weight gained;
        const std::string effect = effect_of(g, c, loads, gained);
        const std::string& road = c.network->name(g.link);
        item.text =
            fmt::format("{} m{}: {}", said(g.distance.metres(), 1), road.empty() ? "" : " from " + road, effect);
        item.where = g.from;
        item.weight = gained;
        item.fix = CloseGaps{{g.closing}};
        f.items.push_back(std::move(item));
        all.gaps.push_back(g.closing);
        const std::uint32_t a = root(g.piece), b = root(g.other_piece);
        if (a == b) continue;
        piece[std::max(a, b)] = std::min(a, b);
        ++joins;
    }
    std::vector<bool> reached(piece.size());
    for (std::uint32_t p = 0; p < piece.size(); ++p)
        if (c.merged[p] == p && loads.served(p)) reached[root(p)] = true;
    for (std::uint32_t p = 0; p < piece.size(); ++p) {
        if (c.merged[p] != p || loads.served(p) || !reached[root(p)]) continue;
        f.weight += loads.demand[p].weight;
        f.places += loads.demand[p].places;
    }
    f.sentence =
        fmt::format("{} under {} between roads", plural(f.count, "gap", "gaps"), describe(study.gap_tolerance));
    if (joins > 0) f.sentence += fmt::format("; closing all joins {} pieces", joins + 1);
    if (f.weight.count() > 0)
        f.sentence += fmt::format(", {} {} come within reach", describe(f.weight), loads.weight_name);
    f.fix = std::move(all);
    f.fix_label = fmt::format("Close all {}", f.count);
    sort_items(f);
    out.push_back(std::move(f));
}

/// Pieces other than the largest, those with most weight first.
std::vector<std::uint32_t> cut_off_pieces(const Checked& c, const PieceLoads& loads) {
    std::vector<std::uint32_t> out;
    for (std::uint32_t p = 0; p < c.roads.pieces.size(); ++p)
        if (c.merged[p] == p && p != c.main) out.push_back(p);
    std::stable_sort(out.begin(), out.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return loads.demand[a].weight > loads.demand[b].weight; });
    return out;
}

void tell_pieces(std::vector<Finding>& out, const Checked& c, const PieceLoads& loads) {
    const auto cut_off = cut_off_pieces(c, loads);
    if (cut_off.empty()) return;
    Finding f;
    f.kind = FindingKind::cut_off_pieces;
    f.about = "roads";
    f.count = static_cast<std::uint32_t>(cut_off.size());
    std::vector<std::uint32_t> sample(c.roads.pieces.size(), roads::kNoPiece);
    for (std::uint32_t i = 0; i < c.roads.piece_of_link.size(); ++i)
        if (const auto p = c.roads.piece_of_link[i]; p != roads::kNoPiece && sample[c.merged[p]] == roads::kNoPiece)
            sample[c.merged[p]] = i;
    CloseGaps all;
    for (std::size_t n = 0; n < cut_off.size(); ++n) {
        const std::uint32_t p = cut_off[n];
        f.places += loads.demand[p].places;
        f.weight += loads.demand[p].weight;
        FindingItem item;
        item.weight = loads.demand[p].weight;
        item.where = c.network->shape(LinkId(sample[p])).front();
        item.text =
            fmt::format("{}, {}", plural(c.roads.pieces[p].links, "road", "roads"), rough(c.roads.pieces[p].length));
        if (loads.demand[p].places > 0)
            item.text += fmt::format(", {} with {} {}", plural(loads.demand[p].places, "place", "places"),
                                     describe(loads.demand[p].weight), loads.weight_name);
        if (const auto join = c.joins.find(p); join != c.joins.end()) {
            item.text += fmt::format("; the nearest other road is {} m off", said(join->second.distance.metres(), 1));
            item.where = join->second.from;
            item.fix = CloseGaps{{join->second.closing}};
            all.gaps.push_back(join->second.closing);
        } else if (n < kMostJoins) {
            item.text += "; no other road within 500 m";
        }
        f.items.push_back(std::move(item));
    }
    f.sentence = f.count == 1 ? std::string("A piece of the roads is cut off from the rest")
                              : fmt::format("{} pieces of the roads are cut off from the rest", f.count);
    if (f.weight.count() > 0)
        f.sentence +=
            fmt::format("; {} {} stand by {}", describe(f.weight), loads.weight_name, f.count == 1 ? "it" : "them");
    if (!all.gaps.empty()) {
        f.fix_label = all.gaps.size() == 1 ? "Join it where it is nearest" : "Join each where it is nearest";
        f.fix = std::move(all);
    }
    if (f.items.size() > Finding::kMostItems) f.items.resize(Finding::kMostItems);
    out.push_back(std::move(f));
}

void tell_one_way_roads(std::vector<Finding>& out, const Checked& c) {
    Finding f;
    f.kind = FindingKind::one_way_roads;
    f.about = "roads";
    for (std::uint32_t i = 0; i < c.both_ways.size(); ++i) {
        if (c.both_ways[i]) continue;
        ++f.count;
        if (f.items.size() < Finding::kMostItems)
            f.items.push_back(
                {fmt::format("{} ({}, {})",
                             c.network->name(LinkId(i)).empty() ? "a road without a name" : c.network->name(LinkId(i)),
                             name(c.network->attributes(LinkId(i)).road_class), rough(c.network->length(LinkId(i)))),
                 c.network->shape(LinkId(i)).front(),
                 std::nullopt,
                 {},
                 std::nullopt});
    }
    if (f.count == 0) return;
    f.sentence = fmt::format("{} can be entered and not left again, or left and not entered, by the one-way rules",
                             plural(f.count, "road", "roads"));
    out.push_back(std::move(f));
}

/// Roads without a bend for kilometres, and pieces that no other road comes near.
void tell_unreal_roads(std::vector<Finding>& out, const Checked& c, const PieceLoads& loads) {
    Finding f;
    f.kind = FindingKind::unreal_roads;
    f.about = "roads";
    for (std::uint32_t i = 0; i < c.network->link_count(); ++i) {
        const LinkId link(i);
        if (c.network->shape(link).size() != 2 || c.network->length(link) < kUnrealSegment ||
            c.network->attributes(link).road_class == roads::RoadClass::ferry)
            continue;
        ++f.count;
        if (f.items.size() < Finding::kMostItems)
            f.items.push_back(
                {fmt::format("{}: {} without a bend",
                             c.network->name(link).empty() ? std::string(name(c.network->attributes(link).road_class))
                                                           : c.network->name(link),
                             rough(c.network->length(link))),
                 c.network->shape(link).front(),
                 std::nullopt,
                 {},
                 std::nullopt});
    }
    const std::uint32_t straight = f.count;
    const auto cut_off = cut_off_pieces(c, loads);
    for (std::size_t n = 0; n < std::min(cut_off.size(), kMostJoins); ++n) {
        if (c.joins.contains(cut_off[n])) continue;
        const auto at = static_cast<std::uint32_t>(
            std::find(c.roads.piece_of_link.begin(), c.roads.piece_of_link.end(), cut_off[n]) -
            c.roads.piece_of_link.begin());
        ++f.count;
        f.items.push_back({fmt::format("{}, {}: no other road within 500 m",
                                       plural(c.roads.pieces[cut_off[n]].links, "road", "roads"),
                                       rough(c.roads.pieces[cut_off[n]].length)),
                           c.network->shape(LinkId(at)).front(),
                           std::nullopt,
                           {},
                           std::nullopt});
    }
    if (f.count == 0) return;
    if (straight > 0)
        f.sentence = fmt::format("{} straight for {} or more without a vertex between: drawn in haste, or no road",
                                 plural(straight, "road is", "roads are"), describe(kUnrealSegment));
    if (f.count > straight)
        f.sentence += fmt::format("{}{} far from any other road", straight > 0 ? "; " : "",
                                  plural(f.count - straight, "piece of the roads lies", "pieces of the roads lie"));
    out.push_back(std::move(f));
}

/// Roads of which most runs over water, though they are neither ferries nor bridges.
void tell_roads_on_water(std::vector<Finding>& out, const std::vector<geo::Area>& water, const Checked& c,
                         const Task& task) {
    constexpr double kStep = 25, kMost = 0.6;
    Finding f;
    f.kind = FindingKind::roads_on_water;
    f.about = "roads";
    std::vector<std::uint32_t> near;
    std::vector<bool> looked(c.network->link_count());
    const geo::AreaIndex index(water);
    for (const auto& area : water) {
        task.check();
        c.network->links_touching(area.box, near);
        std::sort(near.begin(), near.end());
        for (const std::uint32_t i : near) {
            const LinkId link(i);
            const auto& a = c.network->attributes(link);
            if (looked[i] || a.road_class == roads::RoadClass::ferry || a.level() > 0) continue;
            const auto shape = c.network->shape(link);
            std::size_t wet = 0, all = 0;
            for (std::size_t v = 0; v + 1 < shape.size(); ++v) {
                const int steps = std::max(1, static_cast<int>(geo::distance_metres(shape[v], shape[v + 1]) / kStep));
                for (int k = 0; k < steps; ++k, ++all) {
                    const auto p = geo::between(shape[v], shape[v + 1], (k + 0.5) / steps);
                    wet += index.any_contains(p) ? 1 : 0;
                }
            }
            looked[i] = true;
            if (static_cast<double>(wet) < kMost * static_cast<double>(all)) continue;
            ++f.count;
            const auto& n = c.network->name(link);
            if (f.items.size() < Finding::kMostItems)
                f.items.push_back({fmt::format("{} ({}, {})", n.empty() ? "a road without a name" : n,
                                               name(a.road_class), rough(c.network->length(link))),
                                   geo::between(shape.front(), shape.back(), 0.5),
                                   std::nullopt,
                                   {},
                                   std::nullopt});
        }
    }
    if (f.count == 0) return;
    f.sentence = fmt::format("{} over water without being a bridge or a ferry in the file",
                             plural(f.count, "road runs", "roads run"));
    out.push_back(std::move(f));
}

}  // namespace otoro::service
