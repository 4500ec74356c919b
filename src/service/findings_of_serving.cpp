#include <unordered_set>

#include "service/telling.h"

namespace otoro::service {
namespace {

std::unordered_set<std::string_view> ids_of_sites(const Study& study) {
    std::unordered_set<std::string_view> out;
    for (const auto& in : study.sites)
        for (const auto& s : in.set->sites) out.insert(s.id);
    return out;
}

}  // namespace

void tell_recorded(std::vector<Finding>& out, const Study& study, const places::DemandSet& set, const View& v) {
    if (set.recorded.empty() || study.sites.empty()) return;
    const auto known = ids_of_sites(study);
    std::vector<bool> names_one;
    for (const auto& value : set.recorded.values()) names_one.push_back(known.count(value) > 0);
    std::vector<std::uint32_t> which;
    std::uint64_t empty = 0;
    for (std::uint32_t i = 0; i < set.count(); ++i)
        if (!names_one[set.recorded.value_of(i)]) {
            which.push_back(i);
            empty += set.recorded.at(i).empty() ? 1 : 0;
        }
    // A column that names none at all means something else, and is not asked about.
    if (which.empty() || which.size() == set.count()) return;
    std::string sentence =
        fmt::format("{} of the {} {} on record by no site of the study", plural(which.size(), "place", "places"),
                    v.name, which.size() == 1 ? "is" : "are");
    if (empty > 0 && empty < which.size())
        sentence += fmt::format(", {} of them without any id", plural(empty, "place", "places"));
    out.push_back(of_places(FindingKind::not_recorded, v, which, std::move(sentence), [&](std::uint32_t i) {
        return set.recorded.at(i).empty() ? std::string("it has no recorded site")
                                          : fmt::format("its recorded site '{}' is no site's id", set.recorded.at(i));
    }));
}

void tell_pairs(std::vector<Finding>& out, const Study& study) {
    if (study.demand.empty() || study.sites.empty()) return;
    const auto& pairs = *study.pairs->values;
    std::unordered_set<std::string_view> demand;
    for (const auto& in : study.demand)
        for (const auto& p : in.set->places) demand.insert(p.id);
    const auto sites = ids_of_sites(study);
    Finding f;
    f.kind = FindingKind::unknown_pairs;
    f.about = "the table of pairs";
    f.of = SetKind::pairs;
    std::unordered_set<std::string_view> told;
    for (std::uint32_t i = 0; i < pairs.count(); ++i) {
        const bool no_demand = demand.count(pairs.demand.at(i)) == 0;
        if (!no_demand && sites.count(pairs.sites.at(i)) > 0) continue;
        ++f.count;
        const std::string& id = no_demand ? pairs.demand.at(i) : pairs.sites.at(i);
        if (f.items.size() < Finding::kMostItems && told.insert(id).second)
            f.items.push_back({fmt::format("'{}' is the id of no {}", id, no_demand ? "demand place" : "site"),
                               std::nullopt,
                               std::nullopt,
                               {},
                               std::nullopt});
    }
    if (f.count == 0) return;
    f.sentence = fmt::format("{} of the table of pairs {} ids that no place or no site of the study has",
                             plural(f.count, "pair", "pairs"), f.count == 1 ? "names" : "name");
    out.push_back(std::move(f));
}

}  // namespace otoro::service
