#pragma once
/// \file
/// Bounds of a goal that are linear in the columns, and what they prove together.
///
/// \par Method
/// A goal that is concave in the shares of columns lies below the plane that touches it anywhere; it lies below every
/// mean of such planes too. The highest point under all planes, drawn to the best point known, is where to look next;
/// the mean of planes that stops it there is the dual, and proves the bound (a proximal bundle: Lemarechal 1975, Kiwiel
/// 1990). The dual is found by accelerated projected steps (Beck, Teboulle 2009).
///
/// \par Exact
/// Planes are whole numbers, and so is their mean, rounded up: what it proves holds whatever the steps were.
#include <algorithm>
#include <functional>
#include <vector>

#include "optimise/goal_rows.h"

namespace otoro::optimise {

class Planes {
public:
    /// \param scale about what the goal can gain
    explicit Planes(double scale) : unit_(std::max(1.0, scale)) {}

    /// A plane; of too many the one goes that has had no part in the mean for longest.
    void add(const GoalRows::Slope& at);
    /// How high the goal can be at a point by all planes, scaled.
    [[nodiscard]] double under(const std::vector<double>& x) const;

    struct Peak {
        std::vector<double> at;
        double height;  ///< under all planes, scaled
    };
    /// The highest point under all planes, not far from a centre. \param within the nearest point that is allowed
    using Within = std::function<std::vector<double>(const std::vector<double>&)>;
    [[nodiscard]] Peak peak(const std::vector<double>& centre, double reach, const Within& within);

    /// The mean that stopped the last peak. \pre there is a plane
    [[nodiscard]] GoalRows::Slope mean() const;

private:
    struct Plane {
        Wide rest;
        std::vector<Wide> worth;
        double height;              ///< the same, scaled
        std::vector<double> slope;  ///< likewise
        double part = 0;            ///< of the mean
        int idle = 0;               ///< how often it had no part in it
    };
    [[nodiscard]] static double height_at(const Plane& plane, const std::vector<double>& x);

    static constexpr std::size_t kMost = 80;
    double unit_;
    std::vector<Plane> planes_;
};

}  // namespace otoro::optimise
