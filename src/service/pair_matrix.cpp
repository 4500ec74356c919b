#include "service/pair_matrix.h"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>

#include "geo/error.h"
#include "service/travel_table.h"

namespace otoro::service {
namespace {

/// Of values in any order, which are put in order. \pre there is one at least
Statistics statistics_of(std::vector<std::uint32_t>& values) {
    std::sort(values.begin(), values.end());
    Wide sum = 0;
    for (const std::uint32_t v : values) sum += v;
    // The least value at which at least that share is reached.
    const auto at = [&](std::size_t percent) { return values[(values.size() * percent + 99) / 100 - 1]; };
    return {static_cast<double>(sum) / static_cast<double>(values.size()), at(50), at(90), values.back()};
}

/// \param each calls what it is given with every pair: row and place
template <class Each>
PairStatistics statistics_of_pairs(const PairMatrix& matrix, bool with_itself, Each&& each) {
    PairStatistics out;
    std::vector<std::uint32_t> ms, mm;
    each([&](std::size_t row, std::size_t place) {
        if (with_itself && matrix.sites()[row].value() == place) return;
        if (!matrix.there(row, place)) {
            ++out.without;
            return;
        }
        ms.push_back(static_cast<std::uint32_t>(matrix.time(row, place).count()));
        mm.push_back(static_cast<std::uint32_t>(matrix.distance(row, place).count()));
    });
    out.pairs = ms.size();
    if (ms.empty()) return out;
    out.time = statistics_of(ms);
    out.distance = statistics_of(mm);
    return out;
}

}  // namespace

PairMatrix pair_matrix(const Ready& ready, const Plan& plan, const Task& task) {
    std::vector<SiteIndex> sites;
    const auto planned = sites_under(ready.inputs.sites, plan, ready.question.use);
    for (std::uint32_t i = 0; i < planned.size(); ++i)
        if (planned[i].in_use) sites.emplace_back(i);
    const std::size_t places = ready.inputs.demand.count();
    if (places > 0 && sites.size() > PairMatrix::kMostPairs / places)
        throw InputError({"", std::nullopt,
                          fmt::format("{} by {} are more than the {} million pairs that can be held", sites.size(),
                                      places, PairMatrix::kMostPairs / 1'000'000),
                          "Leave some out, or write the pairs one a row, which are not held"});
    PairMatrix out(std::move(sites), places);
    std::size_t row = 0;
    each_site_to_all(
        ready, plan,
        [&](SiteIndex, std::span<const PlaceOutcome> found) {
            for (std::size_t i = 0; i < found.size(); ++i)
                if (found[i].served()) out.set(row, i, found[i].time, found[i].distance);
            ++row;
        },
        task);
    return out;
}

PairsLeftOut left_out(const PairMatrix& matrix, const Ready& ready, const Plan& plan) {
    PairsLeftOut out(ready, plan);
    for (std::size_t row = 0; row < matrix.rows(); ++row)
        for (std::size_t place = 0; place < matrix.places(); ++place)
            if (!matrix.there(row, place))
                out.add(static_cast<std::uint32_t>(matrix.sites()[row].value()), static_cast<std::uint32_t>(place));
    return out;
}

MatrixStatistics statistics(const PairMatrix& matrix, bool with_itself, const Task& task) {
    task.at("statistics", 0);
    MatrixStatistics out;
    out.by_row.resize(matrix.rows());
    out.by_place.resize(matrix.places());
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, matrix.rows(), 16), [&](const auto& range) {
        task.check();
        for (std::size_t row = range.begin(); row != range.end(); ++row)
            out.by_row[row] = statistics_of_pairs(matrix, with_itself, [&](auto&& use) {
                for (std::size_t place = 0; place < matrix.places(); ++place) use(row, place);
            });
    });
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, matrix.places(), 16), [&](const auto& range) {
        task.check();
        for (std::size_t place = range.begin(); place != range.end(); ++place)
            out.by_place[place] = statistics_of_pairs(matrix, with_itself, [&](auto&& use) {
                for (std::size_t row = 0; row < matrix.rows(); ++row) use(row, place);
            });
    });
    out.all = statistics_of_pairs(matrix, with_itself, [&](auto&& use) {
        for (std::size_t row = 0; row < matrix.rows(); ++row) {
            task.check();
            for (std::size_t place = 0; place < matrix.places(); ++place) use(row, place);
        }
    });
    return out;
}

}  // namespace otoro::service
