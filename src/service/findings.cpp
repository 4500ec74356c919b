#include "service/checked_parts.h"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <numeric>
#include <string_view>
#include <unordered_map>

#include "geo/amounts.h"
#include "geo/edge_index.h"
#include "geo/ellipsoid.h"
#include "geo/local_frame.h"

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, 20> kNames{"records_set_aside", "records_flawed", "cut_off_pieces", "gaps",           "unreal_roads",   "roads_on_water", "one_way_roads",
                                                  "swapped_axes",      "wrong_crs",      "outside",        "no_road_near",   "cut_off_places", "one_way_places",
                                                  "on_motorway",       "far_from_road",  "stacked",        "ids",            "weights",        "idle_sites",
                                                  "road_words"};

constexpr Millimetres kFar = Millimetres::metres(100);           // an off-road leg worth a look
constexpr Millimetres kUnrealSegment = Millimetres::metres(2000);  // a road without a bend for so long
constexpr std::size_t kStack = 5;                                // places on one point
constexpr std::size_t kMostJoins = 30;                           // cut-off pieces for which the nearest road is looked up
constexpr double kOutsideMargin = 0.05;                          // degrees round the roads' extent

std::string plural(std::uint64_t n, const char* one, const char* many) {
    return fmt::format("{} {}", describe(Weight(static_cast<std::int64_t>(n) * 1'000'000)), n == 1 ? one : many);
}

/// A length for reading, not for reckoning.
std::string rough(Millimetres l) { return l < Millimetres::metres(1000) ? fmt::format("{:.0f} m", l.metres()) : fmt::format("{:.2f} km", l.kilometres()); }

/// A set as the telling needs it, whether of demand or of sites; nothing is copied.
class View {
public:
    View(const DemandIn& d, const Checked& c) : name(d.set->name), is_demand(true), origin(&d.origin), attaching(&d.set->attaching), attached(attached_of(c.demand, name)), demand_(d.set.get()) {}
    View(const SitesIn& s, const Checked& c, SiteUse use) : name(s.set->name), origin(&s.origin), attaching(&s.set->attaching), attached(attached_of(c.sites, name)), sites_(s.set.get()), use_(use) {}

    [[nodiscard]] SetKind kind() const { return is_demand ? SetKind::demand : SetKind::sites; }
    [[nodiscard]] SetName set_name() const { return {kind(), name}; }
    [[nodiscard]] std::uint32_t count() const { return demand_ ? demand_->count() : sites_->count(); }
    [[nodiscard]] const std::optional<geo::LonLat>& position(std::uint32_t i) const { return demand_ ? demand_->places[i].position : sites_->sites[i].position; }
    [[nodiscard]] const std::string& id(std::uint32_t i) const { return demand_ ? demand_->places[i].id : sites_->sites[i].id; }
    [[nodiscard]] const std::string& called(std::uint32_t i) const { return demand_ ? demand_->places[i].id : label(sites_->sites[i]); }
    /// A demand place counts its weight, a site nothing.
    [[nodiscard]] Weight weight(std::uint32_t i) const { return demand_ ? demand_->places[i].weight : Weight(); }
    [[nodiscard]] bool in_use(std::uint32_t i) const {
        const auto state = sites_->sites[i].state;
        return state == places::SiteState::open || (use_ == SiteUse::open_and_candidate && state == places::SiteState::candidate);
    }

    std::string name;
    bool is_demand = false;
    const Origin* origin;
    const places::Attaching* attaching;
    const std::vector<std::optional<places::Attachment>>* attached;  ///< null while there are no roads

private:
    static const std::vector<std::optional<places::Attachment>>* attached_of(const std::map<std::string, CheckedSet>& all, const std::string& set) {
        const auto at = all.find(set);
        return at == all.end() ? nullptr : &at->second.attached;
    }
    const places::DemandSet* demand_ = nullptr;
    const places::SiteSet* sites_ = nullptr;
    SiteUse use_ = SiteUse::open;
};

void sort_items(Finding& f) {
    std::stable_sort(f.items.begin(), f.items.end(), [](const FindingItem& a, const FindingItem& b) { return a.weight > b.weight; });
    if (f.items.size() > Finding::kMostItems) f.items.resize(Finding::kMostItems);
}

/// A finding about some places of a set, each with a reason.
template <class Reason>
Finding of_places(FindingKind kind, const View& v, const std::vector<std::uint32_t>& which, std::string sentence, Reason&& reason) {
    Finding f;
    f.kind = kind;
    f.about = v.name;
    f.of = v.kind();
    f.count = static_cast<std::uint32_t>(which.size());
    f.sentence = std::move(sentence);
    if (v.is_demand) f.places = f.count;
    for (const std::uint32_t i : which) {
        f.weight += v.weight(i);
        if (which.size() > 10 * Finding::kMostItems && f.items.size() >= Finding::kMostItems) continue;  // of so many, the first are told
        f.items.push_back({fmt::format("{}: {}", v.called(i).empty() ? fmt::format("record {}", i) : v.called(i), reason(i)), v.position(i), i, v.weight(i), std::nullopt});
    }
    sort_items(f);
    return f;
}

// ------------------------------------------------------------------------------------------------------------- reading

void tell_flaws(std::vector<Finding>& out, const Origin& origin, const SetName& about, const View* demand) {
    Finding aside, flawed;
    aside.kind = FindingKind::records_set_aside;
    flawed.kind = FindingKind::records_flawed;
    for (const Flaw& f : origin.flaws) {
        if (f.kind == FlawKind::id_missing || f.kind == FlawKind::id_duplicate || f.kind == FlawKind::weight || f.kind == FlawKind::word) continue;  // told on their own, below
        Finding& to = f.set_aside ? aside : flawed;
        to.count += static_cast<std::uint32_t>(records_of(f));
        const Weight w = demand && f.place && *f.place < demand->count() ? demand->weight(*f.place) : Weight();
        if (f.place && demand) {
            ++to.places;
            to.weight += w;
        }
        to.items.push_back({fmt::format("record {}{}: {}", f.record, f.id.empty() ? "" : " (" + f.id + ")", f.wrong), std::nullopt, f.place, w, std::nullopt});
        if (f.more > 0) to.items.push_back({fmt::format("... and {} later ones of the same kind", plural(static_cast<std::uint64_t>(f.more), "record", "records")), std::nullopt, std::nullopt, {}, std::nullopt});
    }
    for (Finding* f : {&aside, &flawed}) {
        if (f->count == 0) continue;
        f->about = about.kind == SetKind::roads ? "roads" : about.name;
        f->of = about.kind;
        f->sentence = fmt::format("{} of {} {}", plural(f->count, "record", "records"), about.kind == SetKind::roads ? "the roads" : about.name, f == &aside ? "set aside" : "kept, with something put right");
        sort_items(*f);
        out.push_back(std::move(*f));
    }
}

/// Words of the roads that mean nothing here.
void tell_road_words(std::vector<Finding>& out, const Origin& origin) {
    Finding f;
    f.kind = FindingKind::road_words;
    f.about = "roads";
    std::uint64_t records = 0;
    for (const Flaw& flaw : origin.flaws) {
        if (flaw.kind != FlawKind::word) continue;
        records += static_cast<std::uint64_t>(records_of(flaw));
        f.items.push_back({flaw.wrong, std::nullopt, std::nullopt, {}, std::nullopt});
    }
    f.count = static_cast<std::uint32_t>(f.items.size());
    if (f.count == 0) return;
    // What it comes to, without what can be done about it.
    const std::string& first = f.items.front().text;
    f.sentence = f.items.size() == 1 ? first.substr(0, first.find(':')) : fmt::format("{} have a class, a one-way rule or something else that is missing or not known here, in {} words", plural(records, "road", "roads"), f.items.size());
    out.push_back(std::move(f));
}

void tell_weights(std::vector<Finding>& out, const View& v) {
    std::vector<std::uint32_t> which;
    std::map<std::uint32_t, std::string> why;
    std::uint64_t more = 0;
    for (const Flaw& f : v.origin->flaws) {
        if (f.kind != FlawKind::weight || !f.place || *f.place >= v.count()) continue;
        which.push_back(*f.place);
        why[*f.place] = f.wrong;
        more += static_cast<std::uint64_t>(f.more);
    }
    if (which.empty()) return;
    auto f = of_places(FindingKind::weights, v, which, fmt::format("{} of the {} {} no usable weight and {} as 0", plural(which.size() + more, "place", "places"), v.name, which.size() == 1 ? "has" : "have",
                                                                   which.size() == 1 ? "counts" : "count"),
                       [&](std::uint32_t i) { return why[i]; });
    f.mend = GiveWeight{v.set_name(), which, Weight::one()};
    f.count += static_cast<std::uint32_t>(more);
    f.mend_label = more > 0 ? fmt::format("Count the first {} as 1", describe(Weight(static_cast<std::int64_t>(which.size()) * 1'000'000))) : std::string("Count as 1");
    out.push_back(std::move(f));
}

void tell_ids(std::vector<Finding>& out, const View& v) {
    std::unordered_map<std::string_view, std::uint32_t> first;
    first.reserve(v.count());
    std::vector<std::uint32_t> which;
    for (std::uint32_t i = 0; i < v.count(); ++i)
        if (v.id(i).empty() || !first.try_emplace(v.id(i), i).second) which.push_back(i);
    if (which.empty()) return;
    auto f = of_places(FindingKind::ids, v, which, fmt::format("{} of the {} {} no id of {} own", plural(which.size(), "record", "records"), v.name, which.size() == 1 ? "has" : "have", which.size() == 1 ? "its" : "their"),
                       [&](std::uint32_t i) { return v.id(i).empty() ? std::string("its id is empty") : fmt::format("its id is also that of record {}", first.at(v.id(i))); });
    f.mend = MakeIdsDistinct{v.set_name()};
    f.mend_label = "Make ids distinct";
    out.push_back(std::move(f));
}

// --------------------------------------------------------------------------------------------------------------- roads

/// Demand and sites of the question, by piece.
struct PieceLoads {
    std::vector<Tally> demand;
    std::vector<std::uint32_t> sites;  ///< in use
    bool any_site = false;
    std::uint32_t main = 0;
    std::string weight_name = "weight";

    PieceLoads(const Study& study, const Checked& c) : demand(c.roads.pieces.size()), sites(c.roads.pieces.size()), main(c.main) {
        if (const auto* d = study.find_demand(study.question.demand)) {
            const auto& attached = c.demand.at(d->set->name).attached;
            if (study.question.by_weight && !d->set->weight_name.empty()) weight_name = d->set->weight_name;
            for (std::uint32_t i = 0; i < attached.size(); ++i) {
                if (!attached[i]) continue;
                Tally& t = demand[c.piece(attached[i]->link)];
                t.places += 1;
                t.weight += study.question.by_weight ? d->set->places[i].weight : Weight::one();
            }
        }
        if (const auto* s = study.find_sites(study.question.sites)) {
            const View v(*s, c, study.question.use);
            for (std::uint32_t i = 0; i < v.count(); ++i)
                if (v.in_use(i) && (*v.attached)[i]) {
                    ++sites[c.piece((*v.attached)[i]->link)];
                    any_site = true;
                }
        }
    }
    /// Whether people on the piece can get at service: there is a site on it; or it is the largest, while there are no sites yet.
    [[nodiscard]] bool served(std::uint32_t piece) const { return any_site ? sites[piece] > 0 : piece == main; }
};

std::string effect_of(const roads::Gap& g, const Checked& c, const PieceLoads& loads, Weight& gained) {
    const std::uint32_t a = c.merged[g.piece], b = c.merged[g.other_piece];
    gained = {};
    if (a == b) return "shortens ways; no piece is joined";
    for (const auto& [mine, other] : {std::pair{a, b}, std::pair{b, a}})
        if (!loads.served(mine) && loads.served(other)) gained += loads.demand[mine].weight;
    if (gained.count() > 0) return fmt::format("joins 2 pieces, {} {} come within reach", describe(gained), loads.weight_name);
    return loads.served(a) || loads.served(b) ? "joins 2 pieces, on one of which nobody lives" : "joins 2 pieces, neither of which has a site";
}

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
        item.text = fmt::format("{:.1f} m{}: {}", g.distance.metres(), road.empty() ? "" : " from " + road, effect);
        item.where = g.from;
        item.weight = gained;
        item.mend = CloseGaps{{g.closing}};
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
    f.sentence = fmt::format("{} under {} between roads", plural(f.count, "gap", "gaps"), describe(study.gap_tolerance));
    if (joins > 0) f.sentence += fmt::format("; closing all joins {} pieces", joins + 1);
    if (f.weight.count() > 0) f.sentence += fmt::format(", {} {} come within reach", describe(f.weight), loads.weight_name);
    f.mend = std::move(all);
    f.mend_label = fmt::format("Close all {}", f.count);
    sort_items(f);
    out.push_back(std::move(f));
}

/// Pieces other than the largest, those with most weight first.
std::vector<std::uint32_t> cut_off_pieces(const Checked& c, const PieceLoads& loads) {
    std::vector<std::uint32_t> out;
    for (std::uint32_t p = 0; p < c.roads.pieces.size(); ++p)
        if (c.merged[p] == p && p != c.main) out.push_back(p);
    std::stable_sort(out.begin(), out.end(), [&](std::uint32_t a, std::uint32_t b) { return loads.demand[a].weight > loads.demand[b].weight; });
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
        if (const auto p = c.roads.piece_of_link[i]; p != roads::kNoPiece && sample[c.merged[p]] == roads::kNoPiece) sample[c.merged[p]] = i;
    CloseGaps all;
    for (std::size_t n = 0; n < cut_off.size(); ++n) {
        const std::uint32_t p = cut_off[n];
        f.places += loads.demand[p].places;
        f.weight += loads.demand[p].weight;
        FindingItem item;
        item.weight = loads.demand[p].weight;
        item.where = c.network->shape(LinkId(sample[p])).front();
        item.text = fmt::format("{}, {}", plural(c.roads.pieces[p].links, "road", "roads"), rough(c.roads.pieces[p].length));
        if (loads.demand[p].places > 0) item.text += fmt::format(", {} with {} {}", plural(loads.demand[p].places, "place", "places"), describe(loads.demand[p].weight), loads.weight_name);
        if (const auto join = c.joins.find(p); join != c.joins.end()) {
            item.text += fmt::format("; the nearest other road is {:.1f} m off", join->second.distance.metres());
            item.where = join->second.from;
            item.mend = CloseGaps{{join->second.closing}};
            all.gaps.push_back(join->second.closing);
        } else if (n < kMostJoins) {
            item.text += "; no other road within 500 m";
        }
        f.items.push_back(std::move(item));
    }
    f.sentence = f.count == 1 ? std::string("A piece of the roads is cut off from the rest") : fmt::format("{} pieces of the roads are cut off from the rest", f.count);
    if (f.weight.count() > 0) f.sentence += fmt::format("; {} {} stand by {}", describe(f.weight), loads.weight_name, f.count == 1 ? "it" : "them");
    if (!all.gaps.empty()) {
        f.mend_label = all.gaps.size() == 1 ? "Join it where it is nearest" : "Join each where it is nearest";
        f.mend = std::move(all);
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
            f.items.push_back({fmt::format("{} ({}, {})", c.network->name(LinkId(i)).empty() ? "a road without a name" : c.network->name(LinkId(i)), name(c.network->attributes(LinkId(i)).road_class),
                                           rough(c.network->length(LinkId(i)))),
                               c.network->shape(LinkId(i)).front(), std::nullopt, {}, std::nullopt});
    }
    if (f.count == 0) return;
    f.sentence = fmt::format("{} can be entered and not left again, or left and not entered, by the one-way rules", plural(f.count, "road", "roads"));
    out.push_back(std::move(f));
}

/// Roads without a bend for kilometres, and pieces that no other road comes near.
void tell_unreal_roads(std::vector<Finding>& out, const Checked& c, const PieceLoads& loads) {
    Finding f;
    f.kind = FindingKind::unreal_roads;
    f.about = "roads";
    for (std::uint32_t i = 0; i < c.network->link_count(); ++i) {
        const LinkId link(i);
        if (c.network->shape(link).size() != 2 || c.network->length(link) < kUnrealSegment || c.network->attributes(link).road_class == roads::RoadClass::ferry) continue;
        ++f.count;
        if (f.items.size() < Finding::kMostItems)
            f.items.push_back({fmt::format("{}: {} without a bend", c.network->name(link).empty() ? std::string(name(c.network->attributes(link).road_class)) : c.network->name(link), rough(c.network->length(link))),
                               c.network->shape(link).front(), std::nullopt, {}, std::nullopt});
    }
    const std::uint32_t straight = f.count;
    const auto cut_off = cut_off_pieces(c, loads);
    for (std::size_t n = 0; n < std::min(cut_off.size(), kMostJoins); ++n) {
        if (c.joins.contains(cut_off[n])) continue;
        const auto at = static_cast<std::uint32_t>(std::find(c.roads.piece_of_link.begin(), c.roads.piece_of_link.end(), cut_off[n]) - c.roads.piece_of_link.begin());
        ++f.count;
        f.items.push_back({fmt::format("{}, {}: no other road within 500 m", plural(c.roads.pieces[cut_off[n]].links, "road", "roads"), rough(c.roads.pieces[cut_off[n]].length)),
                           c.network->shape(LinkId(at)).front(), std::nullopt, {}, std::nullopt});
    }
    if (f.count == 0) return;
    if (straight > 0) f.sentence = fmt::format("{} straight for {} or more without a vertex between: drawn in haste, or no road", plural(straight, "road is", "roads are"), describe(kUnrealSegment));
    if (f.count > straight) f.sentence += fmt::format("{}{} far from any other road", straight > 0 ? "; " : "", plural(f.count - straight, "piece of the roads lies", "pieces of the roads lie"));
    out.push_back(std::move(f));
}

/// Roads of which most runs over water, though they are neither ferries nor bridges.
void tell_roads_on_water(std::vector<Finding>& out, const std::vector<geo::Area>& water, const Checked& c, const Task& task) {
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
                f.items.push_back({fmt::format("{} ({}, {})", n.empty() ? "a road without a name" : n, name(a.road_class), rough(c.network->length(link))), geo::between(shape.front(), shape.back(), 0.5), std::nullopt, {}, std::nullopt});
        }
    }
    if (f.count == 0) return;
    f.sentence = fmt::format("{} over water without being a bridge or a ferry in the file", plural(f.count, "road runs", "roads run"));
    out.push_back(std::move(f));
}

// -------------------------------------------------------------------------------------------------------------- places

geo::Box widened(geo::Box b) { return {b.west - kOutsideMargin, b.south - kOutsideMargin, b.east + kOutsideMargin, b.north + kOutsideMargin}; }

/// Places that lie outside the roads' extent: turned round they may lie inside, else the coordinate system may be wrong, else they are just outside.
void tell_outside(std::vector<Finding>& out, const View& v, const Checked& c) {
    const geo::Box box = widened(c.network->extent());
    std::vector<std::uint32_t> swapped, outside;
    std::uint32_t located = 0;
    for (std::uint32_t i = 0; i < v.count(); ++i) {
        const auto& p = v.position(i);
        if (!p) continue;
        ++located;
        if (box.contains(c.network->near(*p))) continue;
        const geo::LonLat turned{p->lat, p->lon};
        (on_the_globe(turned) && box.contains(c.network->near(turned)) ? swapped : outside).push_back(i);
    }
    if (!swapped.empty()) {
        auto f = of_places(FindingKind::swapped_axes, v, swapped, fmt::format("{} of the {} {} latitude and longitude the wrong way round", plural(swapped.size(), "place", "places"), v.name, swapped.size() == 1 ? "has" : "have"),
                           [&](std::uint32_t i) { return fmt::format("{:.5f}, {:.5f} lies among the roads when turned", v.position(i)->lon, v.position(i)->lat); });
        f.mend = SwapAxes{v.set_name(), swapped};
        f.mend_label = swapped.size() == 1 ? "Turn it" : fmt::format("Turn all {}", swapped.size());
        out.push_back(std::move(f));
    }
    if (outside.empty()) return;
    const bool nearly_all = outside.size() * 5 >= std::size_t{located} * 4;
    const auto where = [&](std::uint32_t i) { return fmt::format("at {:.5f}, {:.5f}", v.position(i)->lon, v.position(i)->lat); };
    auto f = nearly_all ? of_places(FindingKind::wrong_crs, v, outside, fmt::format("The {} lie nowhere near the roads: their coordinate system is probably not the one they were read with", v.name), where)
                        : of_places(FindingKind::outside, v, outside, fmt::format("{} of the {} {} outside the roads\u2019 extent", plural(outside.size(), "place", "places"), v.name, outside.size() == 1 ? "lies" : "lie"), where);
    out.push_back(std::move(f));
}

/// The nearest usable road however far, up to some kilometres.
std::optional<places::Attachment> nearest_anyway(const Checked& c, geo::LonLat p) {
    std::vector<bool> usable(c.roads.piece_of_link.size());
    for (std::uint32_t i = 0; i < usable.size(); ++i) usable[i] = c.roads.piece_of_link[i] != roads::kNoPiece;
    return places::attach(*c.network, usable, p, Millimetres::metres(5000));
}

void tell_attaching(std::vector<Finding>& out, const Study& study, const View& v, const Checked& c) {
    const geo::Box box = widened(c.network->extent());
    const Millimetres limit = v.attaching->rule.limit.value_or(study.question.attach_limit);
    // What holds of each place, worked out on all threads; nearly always nothing.
    enum Holds : std::uint8_t { kNotNear = 1, kCutOff = 2, kTrapped = 4, kMotorway = 8, kFarOff = 16 };
    std::vector<std::uint8_t> holds(v.count(), 0);
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, v.count(), 4096), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i) {
            if (!v.position(i) || !box.contains(c.network->near(*v.position(i)))) continue;
            const auto& a = (*v.attached)[i];
            if (!a) {
                holds[i] = kNotNear;
                continue;
            }
            unsigned h = 0;
            if (c.piece(a->link) != c.main) h |= kCutOff;
            else if (!c.both_ways[a->link.value()]) h |= kTrapped;
            if (c.network->attributes(a->link).road_class == roads::RoadClass::motorway) h |= kMotorway;
            if (a->off_road > kFar && !v.attaching->by_hand.contains(i)) h |= kFarOff;
            holds[i] = static_cast<std::uint8_t>(h);
        }
    });
    std::vector<std::uint32_t> not_near, cut_off, trapped, motorway, far;
    for (std::uint32_t i = 0; i < holds.size(); ++i) {
        if (holds[i] == 0) continue;
        for (const auto& [flag, list] : {std::pair{kNotNear, &not_near}, std::pair{kCutOff, &cut_off}, std::pair{kTrapped, &trapped}, std::pair{kMotorway, &motorway}, std::pair{kFarOff, &far}})
            if ((holds[i] & flag) != 0) list->push_back(i);
    }
    const auto some = [&](const std::vector<std::uint32_t>& which) { return fmt::format("{} of the {}", plural(which.size(), "place", "places"), v.name); };
    if (!not_near.empty()) {
        AttachAnyway anyway{v.set_name(), {}};
        std::map<std::uint32_t, double> metres;
        const bool few = not_near.size() <= 200;
        for (const std::uint32_t i : not_near)
            if (const auto a = few ? nearest_anyway(c, *v.position(i)) : std::nullopt) {
                anyway.at[i] = a->at;
                metres[i] = a->off_road.metres();
            }
        auto f = of_places(FindingKind::no_road_near, v, not_near, fmt::format("{} {} no road within {} that this traveller may use", some(not_near), not_near.size() == 1 ? "has" : "have", describe(limit)), [&](std::uint32_t i) {
            return metres.contains(i) ? fmt::format("the nearest is {:.0f} m off", metres[i]) : std::string("no road near");
        });
        for (auto& item : f.items)
            if (item.place && anyway.at.contains(*item.place)) item.mend = AttachAnyway{v.set_name(), {{*item.place, anyway.at[*item.place]}}};
        if (!anyway.at.empty()) {
            f.mend = anyway;
            f.mend_label = "Attach to the nearest road";
        }
        out.push_back(std::move(f));
    }
    if (!cut_off.empty())
        out.push_back(of_places(FindingKind::cut_off_places, v, cut_off, fmt::format("{} {} by roads that are cut off from the rest", some(cut_off), cut_off.size() == 1 ? "stands" : "stand"), [&](std::uint32_t i) {
            return fmt::format("on a piece of {}", plural(c.roads.pieces[c.piece((*v.attached)[i]->link)].links, "road", "roads"));
        }));
    if (!trapped.empty())
        out.push_back(of_places(FindingKind::one_way_places, v, trapped, fmt::format("{} {} where one-way rules let nobody both come and go", some(trapped), trapped.size() == 1 ? "stands" : "stand"), [&](std::uint32_t i) {
            return fmt::format("on {}", c.network->name((*v.attached)[i]->link));
        }));
    if (!motorway.empty()) {
        auto f = of_places(FindingKind::on_motorway, v, motorway, fmt::format("{} {} attached to a motorway", some(motorway), motorway.size() == 1 ? "is" : "are"), [&](std::uint32_t i) {
            return fmt::format("{:.0f} m off {}", (*v.attached)[i]->off_road.metres(), c.network->name((*v.attached)[i]->link));
        });
        auto rule = v.attaching->rule;
        rule.classes &= ~(1U << static_cast<unsigned>(roads::RoadClass::motorway));
        f.mend = SetAttachRule{v.set_name(), rule};
        f.mend_label = "Never attach to motorways";
        out.push_back(std::move(f));
    }
    if (!far.empty()) {
        std::sort(far.begin(), far.end(), [&](std::uint32_t a, std::uint32_t b) { return (*v.attached)[a]->off_road > (*v.attached)[b]->off_road || ((*v.attached)[a]->off_road == (*v.attached)[b]->off_road && a < b); });
        auto f = of_places(FindingKind::far_from_road, v, far, fmt::format("{} {} more than {} from the road {} attached to", some(far), far.size() == 1 ? "stands" : "stand", describe(kFar), far.size() == 1 ? "it is" : "they are"),
                                [&](std::uint32_t i) { return fmt::format("{:.1f} m", (*v.attached)[i]->off_road.metres()); });
        // The farthest first.
        std::stable_sort(f.items.begin(), f.items.end(), [&](const FindingItem& a, const FindingItem& b) { return (*v.attached)[*a.place]->off_road > (*v.attached)[*b.place]->off_road; });
        out.push_back(std::move(f));
    }
}

void tell_stacked(std::vector<Finding>& out, const View& v) {
    std::vector<std::uint32_t> order;
    for (std::uint32_t i = 0; i < v.count(); ++i)
        if (v.position(i)) order.push_back(i);
    const auto at = [&](std::uint32_t i) { return std::pair(v.position(i)->lon, v.position(i)->lat); };
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) { return at(a) != at(b) ? at(a) < at(b) : a < b; });
    std::vector<std::uint32_t> which;
    std::map<std::uint32_t, std::size_t> size;
    for (std::size_t begin = 0, end = 0; begin < order.size(); begin = end) {
        while (end < order.size() && at(order[end]) == at(order[begin])) ++end;
        if (end - begin < kStack) continue;
        for (std::size_t k = begin; k < end; ++k) {
            which.push_back(order[k]);
            size[order[k]] = end - begin;
        }
    }
    if (which.empty()) return;
    std::sort(which.begin(), which.end());
    out.push_back(of_places(FindingKind::stacked, v, which, fmt::format("{} of the {} stand on one point with others, as a failed address search leaves them", plural(which.size(), "place", "places"), v.name),
                            [&](std::uint32_t i) { return fmt::format("{} places there", size[i]); }));
}

void tell_idle_sites(std::vector<Finding>& out, const View& v, const Checked& c) {
    std::vector<std::uint32_t> which;
    for (std::uint32_t i = 0; i < v.count(); ++i) {
        const auto& a = (*v.attached)[i];
        if (v.in_use(i) && a && !c.both_ways[a->link.value()]) which.push_back(i);
    }
    if (which.empty()) return;
    out.push_back(of_places(FindingKind::idle_sites, v, which, fmt::format("{} of the {}, in use, {} where one-way rules let nobody drive away and come back", plural(which.size(), "site", "sites"), v.name, which.size() == 1 ? "stands" : "stand"),
                            [&](std::uint32_t i) { return fmt::format("on {}", c.network->name((*v.attached)[i]->link)); }));
}

/// Calls `use` with every set of the study.
template <class Use>
void each_set(const Study& study, const Checked& c, Use&& use) {
    for (const auto& d : study.demand) use(View(d, c));
    for (const auto& s : study.sites) use(View(s, c, study.question.use));
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
        if (study.water) tell_roads_on_water(out, *study.water->areas, c, task);
    }
    each_set(study, c, [&](const View& v) {
        tell_flaws(out, *v.origin, v.set_name(), v.is_demand ? &v : nullptr);
        tell_ids(out, v);
        if (v.is_demand) tell_weights(out, v);
        if (c.network) tell_outside(out, v, c);
        tell_stacked(out, v);
    });
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

std::string_view name(FindingKind k) { return kNames[static_cast<std::size_t>(k)]; }

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
    std::stable_sort(out.begin(), out.end(), [](const Finding& a, const Finding& b) { return a.open() != b.open() ? a.open() : a.weight > b.weight; });
    return out;
}

std::uint32_t count_open(const std::vector<Finding>& findings) {
    return static_cast<std::uint32_t>(std::count_if(findings.begin(), findings.end(), [](const Finding& f) { return f.open(); }));
}

}  // namespace otoro::service
