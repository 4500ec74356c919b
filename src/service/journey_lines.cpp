#include "service/journey_lines.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <numeric>

#include "service/drawn_journey.h"
#include "service/searching.h"

namespace otoro::service {

std::vector<std::vector<geo::LonLat>> journey_lines(const Ready& ready, const Outcome& outcome,
                                                    std::span<const Journey> journeys, const Task& task) {
    std::vector<std::vector<geo::LonLat>> out(journeys.size());
    // Journeys of one site together.
    std::vector<std::uint32_t> order(journeys.size());
    std::iota(order.begin(), order.end(), 0U);
    const auto site_of = [&](std::uint32_t i) { return journeys[i].site.value(); };
    std::stable_sort(order.begin(), order.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return site_of(a) < site_of(b); });
    std::vector<std::span<const std::uint32_t>> of_site;
    for (std::size_t begin = 0; begin < order.size();) {
        std::size_t end = begin;
        while (end < order.size() && site_of(order[end]) == site_of(order[begin])) ++end;
        of_site.emplace_back(order.data() + begin, end - begin);
        begin = end;
    }
    const Searching searching(ready, outcome);
    const bool by_time = ready.question.measure() == routing::Measure::time;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, of_site.size(), 1), [&](const auto& range) {
        for (std::size_t s = range.begin(); s != range.end(); ++s) {
            std::int64_t farthest = 0;
            for (const std::uint32_t i : of_site[s])
                farthest = std::max(farthest, by_time ? journeys[i].time.count() : journeys[i].distance.count());
            const SearchFromSite from(ready, outcome, searching, journeys[of_site[s].front()].site,
                                      static_cast<std::uint32_t>(farthest), task);
            tbb::parallel_for(tbb::blocked_range<std::size_t>(0, of_site[s].size(), 64), [&](const auto& some) {
                task.check();
                for (std::size_t k = some.begin(); k != some.end(); ++k) {
                    const std::uint32_t i = of_site[s][k];
                    out[i] = from.read(journeys[i].place).route;
                }
            });
        }
    });
    return out;
}

}  // namespace otoro::service
