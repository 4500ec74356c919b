#pragma once
/// \file
/// Lines between strips, cut off at the sides of their tile.
#include <array>
#include <span>
#include <vector>

#include "reach/strips.h"

namespace otoro::reach {

/// Takes the lines of a tile one by one and makes the tile of them.
class TileCutter {
public:
    /// \param limit in units of the plane \pre `cells` outlives this
    TileCutter(const Rectangle& tile, const StripCells& cells, double limit)
        : tile_(tile), cells_(cells), limit_(limit) {}

    /// What of a broken line is in the tile, on the grid.
    void add(std::span<const Spot> line, std::uint32_t left, std::uint32_t right);
    /// The tile, with all sides sewn. To be asked once.
    Strips finish();

private:
    struct Piece {
        Point a, b;
        std::uint32_t left, right;
    };
    /// Where a line meets a side, with the cells along that side, ascending.
    struct Crossing {
        std::int32_t at = 0;
        double exact = 0;
        std::uint32_t before = kNoCell, after = kNoCell;
    };
    void add_piece(Point a, Point b, std::uint32_t left, std::uint32_t right);
    void cut(Point a, Point b, bool a_in, bool b_in, std::uint32_t left, std::uint32_t right);
    void cross_side(Side side, Point p, double exact, std::uint32_t left, std::uint32_t right);
    void sew();
    [[nodiscard]] std::uint32_t cell_at(Spot at) const;
    void close_slits();
    void pack();

    Rectangle tile_;
    const StripCells& cells_;
    double limit_;
    std::vector<Point> rounded_;
    std::vector<Piece> pieces_;
    std::array<std::vector<Crossing>, 4> crossings_;
    Strips out_;
};

}  // namespace otoro::reach
