#pragma once
/// \file
/// What the tellers of findings share, a file a family: of reading, of roads, of places. Not for others.
#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <vector>

#include "geo/amounts.h"
#include "service/checked_parts.h"
#include "service/sentence.h"

namespace otoro::service {

inline constexpr std::size_t kMostJoins = 30;  // cut-off pieces for which the nearest road is looked up

inline std::string plural(std::uint64_t n, const char* one, const char* many) {
    return fmt::format("{} {}", describe(Weight(static_cast<std::int64_t>(n) * 1'000'000)), n == 1 ? one : many);
}

/// A length for reading, not for reckoning.
inline std::string rough(Millimetres l) {
    return l < Millimetres::metres(1000) ? fmt::format("{:.0f} m", l.metres())
                                         : fmt::format("{:.2f} km", l.kilometres());
}

/// A set as the telling needs it, whether of demand or of sites; nothing is copied.
class View {
public:
    View(const DemandIn& d, const Checked& c)
        : name(d.set->name),
          is_demand(true),
          origin(&d.origin),
          attaching(&d.set->attaching),
          attached(attached_of(c.demand, name)),
          demand_(d.set.get()) {}
    View(const SitesIn& s, const Checked& c, SiteUse use)
        : name(s.set->name),
          origin(&s.origin),
          attaching(&s.set->attaching),
          attached(attached_of(c.sites, name)),
          sites_(s.set.get()),
          use_(use) {}

    [[nodiscard]] SetKind kind() const { return is_demand ? SetKind::demand : SetKind::sites; }
    [[nodiscard]] SetName set_name() const { return {kind(), name}; }
    [[nodiscard]] std::uint32_t count() const { return demand_ ? demand_->count() : sites_->count(); }
    [[nodiscard]] const std::optional<geo::LonLat>& position(std::uint32_t i) const {
        return demand_ ? demand_->places[i].position : sites_->sites[i].position;
    }
    [[nodiscard]] const std::string& id(std::uint32_t i) const {
        return demand_ ? demand_->places[i].id : sites_->sites[i].id;
    }
    [[nodiscard]] const std::string& called(std::uint32_t i) const {
        return demand_ ? demand_->places[i].id : label(sites_->sites[i]);
    }
    /// A demand place counts its weight, a site nothing.
    [[nodiscard]] Weight weight(std::uint32_t i) const { return demand_ ? demand_->places[i].weight : Weight(); }
    [[nodiscard]] bool in_use(std::uint32_t i) const {
        const auto state = sites_->sites[i].state;
        return state == places::SiteState::open ||
               (use_ == SiteUse::open_and_candidate && state == places::SiteState::candidate);
    }

    std::string name;
    bool is_demand = false;
    const Origin* origin;
    const places::Attaching* attaching;
    const std::vector<std::optional<places::Attachment>>* attached;  ///< null while there are no roads

private:
    static const std::vector<std::optional<places::Attachment>>* attached_of(
        const std::map<std::string, CheckedSet>& all, const std::string& set) {
        const auto at = all.find(set);
        return at == all.end() ? nullptr : &at->second.attached;
    }
    const places::DemandSet* demand_ = nullptr;
    const places::SiteSet* sites_ = nullptr;
    SiteUse use_ = SiteUse::open;
};

inline void sort_items(Finding& f) {
    std::stable_sort(f.items.begin(), f.items.end(),
                     [](const FindingItem& a, const FindingItem& b) { return a.weight > b.weight; });
    if (f.items.size() > Finding::kMostItems) f.items.resize(Finding::kMostItems);
}

/// A finding about some places of a set, each with a reason.
template <class Reason>
Finding of_places(FindingKind kind, const View& v, const std::vector<std::uint32_t>& which, std::string sentence,
                  Reason&& reason) {
    Finding f;
    f.kind = kind;
    f.about = v.name;
    f.of = v.kind();
    f.count = static_cast<std::uint32_t>(which.size());
    f.sentence = std::move(sentence);
    if (v.is_demand) f.places = f.count;
    for (const std::uint32_t i : which) {
        f.weight += v.weight(i);
        if (which.size() > 10 * Finding::kMostItems && f.items.size() >= Finding::kMostItems)
            continue;  // of so many, the first are told
        f.items.push_back(
            {fmt::format("{}: {}", v.called(i).empty() ? fmt::format("record {}", i + 1) : v.called(i), reason(i)),
             v.position(i), i, v.weight(i), std::nullopt});
    }
    sort_items(f);
    return f;
}

/// Demand and sites of the question, by piece.
struct PieceLoads {
    std::vector<Tally> demand;
    std::vector<std::uint32_t> sites;  ///< in use
    bool any_site = false;
    std::uint32_t main = 0;
    std::string weight_name = "weight";

    PieceLoads(const Study& study, const Checked& c)
        : demand(c.roads.pieces.size()), sites(c.roads.pieces.size()), main(c.main) {
        const Question& q = study.question();
        const auto asked = study.demand_of(q);
        if (const auto named = service::weight_name(asked); q.by_weight && !named.empty()) weight_name = named;
        for (const auto& set : asked.sets()) {
            const auto& attached = c.demand.at(set->name).attached;
            for (std::uint32_t i = 0; i < attached.size(); ++i) {
                if (!attached[i]) continue;
                Tally& t = demand[c.piece(attached[i]->link)];
                t.places += 1;
                t.weight += q.by_weight ? set->places[i].weight : Weight::one();
            }
        }
        for (const auto& set : study.sites_of(q).sets()) {
            const View v(*study.find_sites(set->name), c, q.use);
            for (std::uint32_t i = 0; i < v.count(); ++i)
                if (v.in_use(i) && (*v.attached)[i]) {
                    ++sites[c.piece((*v.attached)[i]->link)];
                    any_site = true;
                }
        }
    }
    /// Whether people on the piece can get at service: there is a site on it; or it is the largest, while there are no
    /// sites yet.
    [[nodiscard]] bool served(std::uint32_t piece) const { return any_site ? sites[piece] > 0 : piece == main; }
};

/// Of reading. Each adds its finding, if there is one.
void tell_flaws(std::vector<Finding>& out, const Origin& origin, const SetName& about, const View* demand);
void tell_road_words(std::vector<Finding>& out, const Origin& origin);
void tell_weights(std::vector<Finding>& out, const View& v);
void tell_ids(std::vector<Finding>& out, const View& v);

/// Of who serves whom. Each adds its finding, if there is one.
void tell_recorded(std::vector<Finding>& out, const Study& study, const places::DemandSet& set, const View& v);
void tell_pairs(std::vector<Finding>& out, const Study& study);

/// Of roads. Each adds its finding, if there is one.
void tell_gaps(std::vector<Finding>& out, const Study& study, const Checked& c, const PieceLoads& loads);
std::vector<std::uint32_t> cut_off_pieces(const Checked& c, const PieceLoads& loads);
void tell_pieces(std::vector<Finding>& out, const Checked& c, const PieceLoads& loads);
void tell_one_way_roads(std::vector<Finding>& out, const Checked& c);
void tell_unreal_roads(std::vector<Finding>& out, const Checked& c, const PieceLoads& loads);
void tell_stated_times(std::vector<Finding>& out, const Study& study, const Checked& c, const Task& task);
void tell_roads_on_water(std::vector<Finding>& out, const std::vector<geo::Area>& water, const Checked& c,
                         const Task& task);

/// Of places. Each adds its finding, if there is one.
void tell_outside(std::vector<Finding>& out, const View& v, const Checked& c);
void tell_attaching(std::vector<Finding>& out, const Study& study, const View& v, const Checked& c);
void tell_stacked(std::vector<Finding>& out, const View& v);
void tell_idle_sites(std::vector<Finding>& out, const View& v, const Checked& c);

}  // namespace otoro::service
