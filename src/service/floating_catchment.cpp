#include "service/floating_catchment.h"

#include <algorithm>
#include <bit>
#include <numeric>

#include "geo/error.h"
#include "service/site_blocks.h"

namespace otoro::service {

FloatingCatchment floating_catchment(const Ready& ready, const Outcome& outcome, const Amount& within,
                                     const Task& task) {
    const bool by_time = ready.question.measure() == routing::Measure::time;
    if (std::holds_alternative<Millis>(within) != by_time)
        throw InputError({"", std::nullopt,
                          std::string("the catchment is said in ") + (by_time ? "length" : "time") +
                              ", and the question goes by the other",
                          by_time ? "Say it in minutes, such as 15min" : "Say it as a length, such as 2km"});
    FloatingCatchment out;
    out.within = within;
    std::vector<std::size_t> row_of(outcome.sites.size(), 0);
    out.by_capacity = true;
    for (std::uint32_t i = 0; i < outcome.sites.size(); ++i) {
        const auto& planned = outcome.sites[i].planned;
        if (!planned.in_use) continue;
        row_of[i] = out.sites.size();
        out.sites.push_back({SiteIndex(i), 0, {}, 0});
        out.by_capacity = out.by_capacity && planned.site.capacity.has_value();
    }
    for (SiteSupply& s : out.sites)
        s.supply = out.by_capacity ? outcome.sites[s.site.value()].planned.site.capacity->value() : 1;

    // Of every place a bit for each site within its catchment.
    constexpr std::size_t kBits = 64;
    const std::size_t words = (out.sites.size() + kBits - 1) / kBits;
    std::vector<std::uint32_t> all(outcome.places.size());
    std::iota(all.begin(), all.end(), 0U);
    const SiteBlocks blocks(ready, outcome.traces->costed, outcome.sites, task);
    const auto together = blocks.put_together(all);
    std::vector<std::uint64_t> near(words * all.size(), 0);
    const std::int64_t limit = std::visit([](auto v) { return std::int64_t{v.count()}; }, within);
    const auto bound = static_cast<std::uint32_t>(std::clamp<std::int64_t>(limit + 1, 0, routing::kFar));
    blocks.each(
        together, {}, SiteBlocks::Bounds(all.size(), bound),
        [&](std::size_t at, std::span<const ReachableSite> found) {
            for (const ReachableSite& r : found)
                if (r.cost < bound)
                    near[together[at] * words + row_of[r.site] / kBits] |= std::uint64_t{1} << (row_of[r.site] % kBits);
        },
        [](std::span<const std::uint32_t>) {}, task);
    const auto each_near = [&](std::uint32_t place, auto&& use) {
        for (std::size_t w = 0; w < words; ++w)
            for (std::uint64_t left = near[place * words + w]; left != 0; left &= left - 1)
                use(out.sites[w * kBits + static_cast<std::size_t>(std::countr_zero(left))]);
    };
    task.at("sharing places", 0.8);
    for (const std::uint32_t i : all) each_near(i, [&](SiteSupply& s) { s.demand += outcome.weights[i]; });
    for (SiteSupply& s : out.sites)
        if (s.demand.count() > 0) s.a_head = s.supply / s.demand.value();
    out.access.assign(outcome.places.size(), 0);
    double sum = 0;
    for (const std::uint32_t i : all) {
        bool any = false;
        each_near(i, [&](const SiteSupply& s) {
            out.access[i] += s.a_head;
            any = true;
        });
        sum += out.access[i] * outcome.weights[i].value();
        if (any) continue;
        ++out.none.places;
        out.none.weight += outcome.weights[i];
    }
    if (outcome.all.weight.count() > 0) out.mean = sum / outcome.all.weight.value();
    return out;
}

}  // namespace otoro::service
