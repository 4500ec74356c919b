#pragma once
/// \file
/// Sums over many rows, on all processors, that are the same on any number of them.
#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <numeric>
#include <vector>

namespace otoro::optimise {

inline constexpr std::size_t kRowsTogether = 2048;

/// Calls `use(first, last, sums)` for stretches of rows. \tparam Sums made empty by each thread, added up by `add`:
/// whole numbers, so that the order does not matter
template <class Sums, class Use, class Add>
void over_rows(std::size_t rows, const Sums& none, Use&& use, Add&& add) {
    tbb::enumerable_thread_specific<Sums> each(none);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, (rows + kRowsTogether - 1) / kRowsTogether, 1),
                      [&](const auto& range) {
                          Sums& sums = each.local();
                          for (std::size_t at = range.begin(); at != range.end(); ++at)
                              use(at * kRowsTogether, std::min(rows, (at + 1) * kRowsTogether), sums);
                      });
    for (const Sums& sums : each) add(sums);
}

/// Sum of what `of(first, last)` gives for stretches of rows, added up in their order.
template <class Of>
double sum_over_rows(std::size_t rows, Of&& of) {
    std::vector<double> parts((rows + kRowsTogether - 1) / kRowsTogether);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, parts.size(), 1), [&](const auto& range) {
        for (std::size_t at = range.begin(); at != range.end(); ++at)
            parts[at] = of(at * kRowsTogether, std::min(rows, (at + 1) * kRowsTogether));
    });
    return std::accumulate(parts.begin(), parts.end(), 0.0);
}

}  // namespace otoro::optimise
