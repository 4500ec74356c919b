#pragma once
/// \file
/// How far spots are from many short lines: in single precision many at a time, to find those few that are worth an
/// exact look.
#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "reach/plane.h"

namespace otoro::reach {

/// A line relative to some origin, in units of the plane.
struct PlacedLine {
    double ax, ay, dx, dy;
    double per_squared;  ///< one over its length squared; 0 for a point
};

/// The point of a line that is nearest to a spot: how far, squared, and where along the line, 0 to 1.
struct Foot {
    double squared, along;
};
inline Foot foot(const PlacedLine& l, double x, double y) {
    const double px = x - l.ax, py = y - l.ay;
    const double t = std::min(std::max((px * l.dx + py * l.dy) * l.per_squared, 0.0), 1.0);
    const double ex = px - t * l.dx, ey = py - t * l.dy;
    return {ex * ex + ey * ey, t};
}

/// The nearest line so far. Of lines that are as near the one with the smaller number is taken.
struct NearestLine {
    static constexpr std::uint32_t kNone = 0xffffffff;
    std::uint32_t number = kNone;
    Foot at{0, 0};
    void offer(std::uint32_t other, const Foot& f) {
        if (f.squared < at.squared || (f.squared == at.squared && other < number)) {
            number = other;
            at = f;
        }
    }
};

/// Lines in single precision, column by column, with their numbers.
class LineColumns {
public:
    /// Behind the last line there is room to be read, and never taken for a line.
    static constexpr std::size_t kRoom = 64;

    void clear(std::size_t room_for);
    /// \pre `clear` made room
    void add(const PlacedLine& line, std::uint32_t number);
    void add(const LineColumns& from, std::size_t line);
    void put(std::size_t at, const PlacedLine& line, std::uint32_t number);
    /// So many lines, to be put where they belong.
    void resize(std::size_t lines);
    [[nodiscard]] std::size_t size() const { return size_; }
    [[nodiscard]] std::uint32_t number(std::size_t line) const { return numbers_[line]; }
    [[nodiscard]] std::array<const float*, 5> columns() const {
        return {columns_[0].data(), columns_[1].data(), columns_[2].data(), columns_[3].data(), columns_[4].data()};
    }

private:
    std::array<std::vector<float>, 5> columns_;  // as PlacedLine's
    std::vector<std::uint32_t> numbers_;
    std::size_t size_ = 0;
};

/// By how much a distance in single precision may be wrong where no coordinate is larger than this.
inline double single_precision_error(double most) { return most * 2e-6 + 2; }

/// Squared distances of all lines. \param out room for `size() + kRoom` \returns the least
float squared_distances(const LineColumns& lines, float x, float y, float* out);

/// The positions of the lines in [from, to) whose squared distance is at most this. \param out room for `to - from +
/// kRoom` \returns how many
std::size_t near_lines(const LineColumns& lines, std::size_t from, std::size_t to, float x, float y, float most,
                       std::uint32_t* out);

}  // namespace otoro::reach
