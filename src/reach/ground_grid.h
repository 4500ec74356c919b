#pragma once
/// \file
/// Ground as a grid of spots: which point of which road each is nearest to.
///
/// \par Problem
/// A picture or a raster asks the same of a million spots: where would a place there be attached? Asking one by one
/// takes a search of the roads each.
///
/// \par Method
/// Spots are divided as a quadtree is. A square of spots keeps the roads that may be nearest to any of its spots: those
/// that are no farther from its middle than the nearest one by more than its width. Few squares are divided far before
/// a handful is left, and those are looked at spot by spot. Where roads are many for so few spots, as in a town under
/// coarse cells, they are put in buckets instead, and each spot looks about itself (line_buckets.h). Distances are
/// worked out many at a time in single precision to find those few lines that are worth an exact look.
///
/// \par Exact
/// The nearest road of every spot by lengths in the plane (plane.h), ties to the link first in file order, as places
/// are attached. Nothing is interpolated but the spots' own positions, within millimetres, between corners of blocks of
/// 16 x 16.
///
/// \par Cost
/// Roads near the grid once, then some 200 ns a spot where it has a road of its own, less where several share one; 12
/// bytes a spot.
#include <functional>
#include <vector>

#include "reach/along_roads.h"
#include "reach/ground_lines.h"

namespace otoro::reach {

/// Where a spot would be attached.
struct GridSpot {
    static constexpr std::uint32_t kNone = 0xffffffff;
    std::uint32_t link = kNone;
    std::uint32_t offset_mm = 0;  ///< along the link
    float off_metres = 0;         ///< to the road
    [[nodiscard]] bool attached() const { return link != kNone; }
};

struct GroundGrid {
    std::uint32_t width = 0, height = 0;
    std::vector<GridSpot> spots;  ///< row by row
    [[nodiscard]] const GridSpot& at(std::uint32_t x, std::uint32_t y) const {
        return spots[std::size_t{y} * width + x];
    }
};

/// \param place_of the middle of a spot, by column and row; asked of corners of blocks only, with fractions \param
/// limit spots farther from every road are attached nowhere \throws Stopped
GroundGrid ground_grid(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                       Millimetres limit, std::uint32_t width, std::uint32_t height,
                       const std::function<geo::LonLat(double column, double row)>& place_of, const Task& task);

/// What it takes at a spot, and whose it is.
struct GridValue {
    /// As the stretches', legs off the road included; infinite where no site reaches it, NaN where no road is near.
    float value = 0;
    std::uint32_t owner = kNobody;
};

/// Values at all spots. Cost: every road once, and some nanoseconds a spot. \param per_metre_off_road see `Bands`
std::vector<GridValue> grid_values(const GroundGrid& grid, const roads::Network& network, const AlongRoads& along,
                                   double per_metre_off_road);

}  // namespace otoro::reach
