#include "service/surface.h"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

#include "geo/wording.h"
#include "reach/ground_grid.h"

namespace otoro::service {
namespace {

constexpr std::uint32_t kTile = 256;  // rows at once, and columns of one thread's work

double per_unit(ValueOf measure) { return measure == ValueOf::time ? 60'000.0 : 1000.0; }

}  // namespace

void surface(const SiteValues& values, ValueOf measure, const SurfaceGrid& grid, const SurfaceRows& use,
             const Task& task) {
    if (grid.cells() > kMostCells)
        throw InputError({"", std::nullopt,
                          fmt::format("the surface would have {} cells; at most {} can be held",
                                      said_whole(static_cast<std::int64_t>(grid.cells())),
                                      said_whole(static_cast<std::int64_t>(kMostCells))),
                          "Choose larger cells or a smaller extent"});
    const Ready& ready = values.ready();
    const auto& ground = *ready.ground;
    const double off = per_metre_off_road(ready.question, measure);
    std::vector<float> cells;
    for (std::uint32_t row = 0; row < grid.rows; row += kTile) {
        task.at("working out the surface", static_cast<double>(row) / grid.rows);
        const std::uint32_t rows = std::min(kTile, grid.rows - row);
        cells.assign(std::size_t{rows} * grid.columns, kNoValue);
        tbb::parallel_for(std::uint32_t{0}, (grid.columns + kTile - 1) / kTile, [&](std::uint32_t tile) {
            if (task.stop_requested()) return;
            const std::uint32_t column = tile * kTile, columns = std::min(kTile, grid.columns - column);
            const auto part = reach::ground_grid(
                ground.network(), ground.use(), ground.plane(), ground.limit(), columns, rows,
                [&](double c, double r) { return grid.place_of(column + c, row + r); }, Task());
            const auto found = grid_values(part, ground.network(), values, off);
            for (std::uint32_t r = 0; r < rows; ++r)
                for (std::uint32_t c = 0; c < columns; ++c)
                    if (const float value = found[std::size_t{r} * columns + c].value; std::isfinite(value))
                        cells[std::size_t{r} * grid.columns + column + c] =
                            static_cast<float>(static_cast<double>(value) / per_unit(measure));
        });
        task.check();
        use(row, rows, cells);
    }
}

std::vector<float> surface_at(const SiteValues& values, ValueOf measure,
                              const std::vector<std::optional<geo::LonLat>>& spots, const Task& task) {
    const Ready& ready = values.ready();
    const auto& ground = *ready.ground;
    const double off = per_metre_off_road(ready.question, measure);
    std::vector<float> out(spots.size(), kNoValue);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, spots.size(), 256), [&](const auto& range) {
        std::vector<reach::Stretch> stretches;
        for (std::size_t i = range.begin(); i != range.end(); ++i) {
            if (task.stop_requested()) return;
            if (!spots[i]) continue;
            const auto a = places::attach(ground.network(), ground.use(), *spots[i], ground.limit());
            if (!a) continue;
            const auto value = values.at(a->link, a->offset);
            if (value) out[i] = static_cast<float>((value->value + off * a->off_road.metres()) / per_unit(measure));
        }
    });
    task.check();
    return out;
}

}  // namespace otoro::service
