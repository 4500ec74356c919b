#pragma once
/// \file
/// How long, or how far, from every spot of a raster to its nearest site.
///
/// \par Method
/// Every cell asks as a demand place in its middle would: attached to its nearest road, carried along it. Nothing is
/// interpolated over ground. Cells that no road is near, or that no site reaches, have no value.
///
/// \par Cost
/// See ground_grid.h; strips of rows run on all threads, and only those under way are in memory besides the raster.
#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <vector>

#include "service/reach.h"

namespace otoro::service {

/// Cells of a raster in whatever coordinate system it has.
struct SurfaceGrid {
    std::uint32_t columns = 0, rows = 0;
    /// The middle of a cell by column and row, with fractions; row 0 is the northernmost.
    std::function<geo::LonLat(double column, double row)> place_of;
    [[nodiscard]] std::uint64_t cells() const { return std::uint64_t{columns} * rows; }
};

/// As many cells as one surface may have: 4 bytes each.
inline constexpr std::uint64_t kMostCells = 2'000'000'000;
/// Of a cell without a value.
inline constexpr float kNoValue = std::numeric_limits<float>::quiet_NaN();

/// Takes rows from the north on: the number of the first, and their cells in minutes or metres.
using SurfaceRows = std::function<void(std::uint32_t first_row, std::uint32_t rows, const std::vector<float>& cells)>;

/// \param values to all sites in use \throws InputError for more cells than may be; Stopped
void surface(const SiteValues& values, ValueOf measure, const SurfaceGrid& grid, const SurfaceRows& use,
             const Task& task);

/// The value at any spots, as the surface has it; `kNoValue` where there is none.
std::vector<float> surface_at(const SiteValues& values, ValueOf measure,
                              const std::vector<std::optional<geo::LonLat>>& spots, const Task& task);

}  // namespace otoro::service
