#include "service/people_over.h"

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <map>

#include "service/drawn_journey.h"
#include "service/searching.h"

namespace otoro::service {
namespace {

void add(Tally& to, Weight weight) {
    ++to.places;
    to.weight += weight;
}
void add(Tally& to, const Tally& more) {
    to.places += more.places;
    to.weight += more.weight;
}

}  // namespace

PeopleOver people_over(const Ready& ready, const Outcome& o, const Journeyers& whose, const RoadGroups& groups,
                       const Task& task) {
    std::map<std::uint32_t, std::vector<std::uint32_t>> of_site;
    for (std::uint32_t i = 0; i < o.places.size(); ++i)
        if (o.places[i].served() && (!whose.limit || is_within(o.places[i], *whose.limit)) &&
            (!whose.only || o.places[i].site == *whose.only))
            of_site[o.places[i].site->value()].push_back(i);
    const Searching searching(ready, o);
    const bool by_time = ready.question.measure() == routing::Measure::time;
    const PeopleOver nobody{std::vector<Tally>(groups.count), {}};
    tbb::enumerable_thread_specific<PeopleOver> each(nobody);
    std::size_t done = 0;
    for (const auto& entry : of_site) {
        task.at("following journeys", static_cast<double>(done++) / static_cast<double>(of_site.size()));
        const auto& places = entry.second;
        std::int64_t farthest = 0;
        for (const std::uint32_t i : places)
            farthest = std::max(farthest, by_time ? o.places[i].time.count() : o.places[i].distance.count());
        const SearchFromSite from(ready, o, searching, SiteIndex(entry.first), static_cast<std::uint32_t>(farthest),
                                  task);
        tbb::parallel_for(tbb::blocked_range<std::size_t>(0, places.size(), 64), [&](const auto& range) {
            task.check();
            PeopleOver& sums = each.local();
            std::vector<LinkId> passed;
            std::vector<std::uint32_t> met;
            for (std::size_t k = range.begin(); k != range.end(); ++k) {
                passed.clear();
                met.clear();
                from.middles_passed(DemandIndex(places[k]), passed);
                for (const LinkId link : passed)
                    if (const auto group = groups.of_link[link.value()]; group != RoadGroups::kNone)
                        met.push_back(group);
                std::sort(met.begin(), met.end());
                met.erase(std::unique(met.begin(), met.end()), met.end());
                for (const std::uint32_t group : met) add(sums.of_group[group], o.weights[places[k]]);
                if (!met.empty()) add(sums.any, o.weights[places[k]]);
            }
        });
    }
    PeopleOver out = nobody;
    for (const auto& sums : each) {
        for (std::uint32_t g = 0; g < groups.count; ++g) add(out.of_group[g], sums.of_group[g]);
        add(out.any, sums.any);
    }
    return out;
}

}  // namespace otoro::service
