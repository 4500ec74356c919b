#pragma once
/// \file
/// The nearest of many short lines, asked from spot after spot that lie close together.
#include <cstdint>
#include <vector>

#include "reach/line_distances.h"

namespace otoro::reach {

/// Lines in square buckets: a spot with a bound on how far its nearest line is looks at the few buckets within it. A
/// row's buckets lie one after another, so that empty ones cost nothing, and its lines are looked at many at a time.
class LineBuckets {
public:
    /// Of `numbers` among `lines`, for spots in this box. Costs some ten nanoseconds a line. Storage is used again.
    /// \param error of distances in single precision \pre `lines` stays while it is asked
    void build(const std::vector<PlacedLine>& lines, const LineColumns& which, Spot low, Spot high, double error);
    /// \param best what is known: nearer lines take its place, or as near ones of a smaller number; without a line,
    /// those up to its distance
    void nearest(double x, double y, NearestLine& best);

private:
    [[nodiscard]] std::int32_t column(double x) const;
    [[nodiscard]] std::int32_t row(double y) const;
    /// Calls `use` with the buckets that a line may touch.
    template <class Use>
    void each_bucket(const PlacedLine& line, Use&& use) const;
    const std::vector<PlacedLine>* lines_ = nullptr;
    Spot low_{};
    double side_ = 1, per_side_ = 1, error_ = 0;
    std::int32_t columns_ = 1, rows_ = 1;
    std::vector<std::uint32_t> starts_;
    LineColumns entries_;
    std::vector<std::uint32_t> near_;
};

}  // namespace otoro::reach
