#pragma once
/// \file
/// The ground around all roads, tile by tile, found where it is asked for and kept.
///
/// \par Problem
/// Strips of ground depend on roads and on how places are attached, not on sites, limits or plans. They are costly to
/// find and quick to walk.
///
/// \par Method
/// The plane is cut into squares of some thousand segments each. A square is divided when it is first asked for, on as
/// many threads as there are; the least recently used are let go of when all take more memory than allowed. Boundaries
/// of neighbouring squares are sewn together along their common side, so that no gap and no sliver is left there
/// however either was rounded.
///
/// \par Example
/// \code
///   Ground ground(network, usable, Millimetres::metres(250));
///   const auto found = ground.boundaries(along, {{480'000.0}}, box, task);     // within 8 minutes
///   for (const Region& r : regions(ground.plane(), found, 0, task)) ...
/// \endcode
#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <span>
#include <utility>
#include <vector>

#include "reach/boundaries.h"
#include "reach/rim.h"

namespace otoro::reach {

class Ground {
public:
    /// \param use which links places may be attached to
    Ground(std::shared_ptr<const roads::Network> network, std::shared_ptr<const std::vector<bool>> use,
           Millimetres limit, std::size_t most_bytes = kMostBytes);

    [[nodiscard]] const Plane& plane() const { return plane_; }
    [[nodiscard]] const roads::Network& network() const { return *network_; }
    [[nodiscard]] const std::vector<bool>& use() const { return *use_; }
    [[nodiscard]] Millimetres limit() const { return limit_; }

    /// A square of the plane, by column and row.
    struct Tile {
        std::int32_t column = 0, row = 0;
        auto operator<=>(const Tile&) const = default;
    };
    /// Squares that have ground within the limit of something in this box, or in any of these, ascending; none where
    /// the limit leaves no ground.
    [[nodiscard]] std::vector<Tile> tiles_around(const geo::Box& box) const;
    [[nodiscard]] std::vector<Tile> tiles_around(std::span<const geo::Box> boxes) const;
    [[nodiscard]] Rectangle rectangle(Tile tile) const;
    /// The strips of one square. \throws Stopped
    [[nodiscard]] std::shared_ptr<const Strips> strips(Tile tile, const Task& task) const;
    /// Whether they are there already.
    [[nodiscard]] bool has(Tile tile) const;
    /// Bytes of all strips that are kept.
    [[nodiscard]] std::size_t bytes() const;

    /// The boundaries of all classes on the ground around the roads in these boxes, outside of which nothing is
    /// reached. \throws Stopped
    [[nodiscard]] std::vector<Boundary> boundaries(const AlongRoads& along, const Bands& bands,
                                                   std::span<const geo::Box> boxes, const Task& task) const;

    /// The same with every tile drawn anew (faces.h): slower, and sound whatever was rounded how. `boundaries` does so
    /// by itself with tiles in which what it found does not close. \throws Stopped \param attempt from 0; each takes
    /// limits a little otherwise between whole numbers
    [[nodiscard]] std::vector<Boundary> boundaries_anew(const AlongRoads& along, const Bands& bands,
                                                        std::span<const geo::Box> boxes, int attempt,
                                                        const Task& task) const;
    static constexpr int kAttempts = 4;

    /// Where roads end at the rim of what was read. Found once.
    [[nodiscard]] const std::vector<OpenEnd>& rim() const;

    /// A limit that is less leaves no ground: its edges could not be told apart.
    static constexpr Millimetres kLeastLimit{10};
    static constexpr std::size_t kMostBytes = std::size_t{1} << 30U;

private:
    [[nodiscard]] std::vector<TileBoundaries> walked(const AlongRoads& along, const Bands& bands,
                                                     const std::vector<Tile>& tiles, const Task& task) const;
    [[nodiscard]] TileBoundaries anew(Tile tile, const TileBoundaries& walked, const AlongRoads& along,
                                      const Bands& bands, const Task& task) const;
    /// Everything, with the lines along which tiles differ at their common sides.
    [[nodiscard]] std::vector<Boundary> sewn(const std::vector<Tile>& tiles,
                                             const std::vector<TileBoundaries>& found) const;
    /// The corners of a box in the plane, as much farther out as the limit.
    [[nodiscard]] std::pair<Spot, Spot> around(const geo::Box& box) const;
    std::shared_ptr<const roads::Network> network_;
    std::shared_ptr<const std::vector<bool>> use_;
    Millimetres limit_;
    Plane plane_;
    std::int32_t size_ = 0, shift_ = 0;  ///< of the squares, and where one begins
    Spot low_, high_;                    ///< of the plane, around all roads and the ground within the limit of them
    std::size_t most_bytes_;
    struct Kept {
        std::shared_ptr<const Strips> strips;
        std::list<Tile>::iterator used;
    };
    mutable std::mutex mutex_;
    mutable std::map<Tile, Kept> kept_;
    mutable std::list<Tile> used_;  ///< the most recent first
    mutable std::size_t bytes_ = 0;
    mutable std::once_flag rim_found_;
    mutable std::vector<OpenEnd> rim_;
};

}  // namespace otoro::reach
