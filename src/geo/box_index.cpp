#include "geo/box_index.h"

#include <algorithm>
#include <boost/geometry.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <boost/iterator/function_output_iterator.hpp>
#include <cmath>
#include <limits>
#include <utility>

namespace otoro::geo {
namespace {
namespace bg = boost::geometry;
using Point = bg::model::point<float, 2, bg::cs::cartesian>;
using FloatBox = bg::model::box<Point>;
using Entry = std::pair<FloatBox, std::uint32_t>;

float down(double v) {
    const auto f = static_cast<float>(v);
    return static_cast<double>(f) <= v ? f : std::nextafter(f, -std::numeric_limits<float>::infinity());
}
float up(double v) {
    const auto f = static_cast<float>(v);
    return static_cast<double>(f) >= v ? f : std::nextafter(f, std::numeric_limits<float>::infinity());
}
FloatBox outward(const Box& b) { return {Point(down(b.west), down(b.south)), Point(up(b.east), up(b.north))}; }
}  // namespace

struct BoxIndex::Tree {
    bg::index::rtree<Entry, bg::index::linear<32>> rtree;
};

BoxIndex::BoxIndex(std::uint32_t count, const std::function<Box(std::uint32_t)>& box_of)
    : tree_(std::make_unique<Tree>()) {
    std::vector<Entry> entries;
    entries.reserve(count);
    for (std::uint32_t i = 0; i < count; ++i)
        if (const Box b = box_of(i); !b.empty()) entries.emplace_back(outward(b), i);
    tree_->rtree = bg::index::rtree<Entry, bg::index::linear<32>>(entries);
}

BoxIndex::BoxIndex(BoxIndex&&) noexcept = default;
BoxIndex& BoxIndex::operator=(BoxIndex&&) noexcept = default;
BoxIndex::~BoxIndex() = default;

void BoxIndex::touching(const Box& area, std::vector<std::uint32_t>& found) const {
    found.clear();
    tree_->rtree.query(bg::index::intersects(outward(area)),
                       boost::make_function_output_iterator([&](const Entry& e) { found.push_back(e.second); }));
}

void BoxIndex::nearest_first(LonLat from, const std::function<bool(std::uint32_t, double)>& look) const {
    constexpr double kHair = 1e-5;  // of single precision at 180 degrees
    const Point at(static_cast<float>(from.lon), static_cast<float>(from.lat));
    const auto& tree = tree_->rtree;
    for (auto it =
             tree.qbegin(bg::index::nearest(at, static_cast<unsigned>(std::min<std::size_t>(tree.size(), 0x7fffffff))));
         it != tree.qend(); ++it)
        if (!look(it->second, std::max(0.0, static_cast<double>(bg::distance(at, it->first)) - 2 * kHair))) return;
}

}  // namespace otoro::geo
