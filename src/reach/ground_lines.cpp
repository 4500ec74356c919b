#include "reach/ground_lines.h"

#include <algorithm>
#include <cmath>

#include "geo/ellipsoid.h"
#include "geo/local_frame.h"

namespace otoro::reach {
namespace {

constexpr double kLongestMetres = 1000;  // straight in degrees is straight in the plane to 2 cm over this length

bool touches(const Rectangle& r, Point a, Point b) {
    return std::min(a.x, b.x) < r.high.x && std::max(a.x, b.x) >= r.low.x && std::min(a.y, b.y) < r.high.y &&
           std::max(a.y, b.y) >= r.low.y;
}

}  // namespace

geo::Box box_of(const Plane& plane, const Rectangle& rectangle) {
    geo::Box box;
    constexpr int kSteps = 8;
    for (int i = 0; i <= kSteps; ++i)
        for (int j = 0; j <= kSteps; ++j) {
            if (i != 0 && i != kSteps && j != 0 && j != kSteps) continue;
            const auto at = [](std::int32_t low, std::int32_t high, int k) {
                return low + (static_cast<double>(high) - low) * k / kSteps;
            };
            box.add(
                plane.place(Spot{at(rectangle.low.x, rectangle.high.x, i), at(rectangle.low.y, rectangle.high.y, j)}));
        }
    const double more_lon = (box.east - box.west) * 0.01 + 1e-6, more_lat = (box.north - box.south) * 0.01 + 1e-6;
    return {box.west - more_lon, box.south - more_lat, box.east + more_lon, box.north + more_lat};
}

namespace {

template <class Project>
std::vector<GroundLine> lines_by(const roads::Network& network, const std::vector<bool>& use, const geo::Box& box,
                                 const Project& plane, const Rectangle& where, const Task& task) {
    std::vector<roads::Run> runs;
    network.runs_touching(box, runs);
    std::vector<GroundLine> out;
    std::size_t seen = 0;
    LinkId last(network.link_count());
    std::uint32_t done = 0;  // segments of `last` before this one are in already
    for (const roads::Run& run : runs) {
        if ((++seen & 1023U) == 0) task.check();
        if (!use[run.link.value()]) continue;
        if (run.link != last) done = 0;
        last = run.link;
        const auto shape = network.shape(run.link);
        const std::uint32_t first = std::max(run.first, done);
        if (first >= run.last) continue;
        done = run.last;
        const Millimetres length = network.length(run.link);
        double metres = network.metres_to(run.link, first);
        Point a = plane.point(shape[first]);
        Millimetres from = std::min(Millimetres::from_metres(metres), length);
        for (std::uint32_t i = first; i < run.last; ++i) {
            const double step = geo::distance_metres(shape[i], shape[i + 1]);
            const Point b = plane.point(shape[i + 1]);
            const Millimetres to =
                i + 2 == shape.size() ? length : std::min(Millimetres::from_metres(metres + step), length);
            if (touches(where, a, b)) {
                const int parts = std::max(1, static_cast<int>(std::ceil(step / kLongestMetres)));
                Point p = a;
                Millimetres at = from;
                for (int k = 1; k <= parts; ++k) {
                    const double t = static_cast<double>(k) / parts;
                    const Point q = k == parts ? b : plane.point(geo::between(shape[i], shape[i + 1], t));
                    const Millimetres next =
                        k == parts ? to : std::min(Millimetres::from_metres(metres + step * t), length);
                    if (touches(where, p, q) && (p != q || shape.size() == 2))
                        out.push_back({p, q, run.link, at, next});
                    p = q;
                    at = next;
                }
            }
            metres += step;
            a = b;
            from = to;
        }
    }
    return out;
}

}  // namespace

std::vector<GroundLine> ground_lines(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                                     const Rectangle& where, const Task& task) {
    return lines_by(network, use, box_of(plane, where), plane, where, task);
}

std::vector<GroundLine> ground_lines(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                                     const PlanePatch& patch, const Rectangle& where, const Task& task) {
    return lines_by(network, use, box_of(plane, where), patch, where, task);
}

}  // namespace otoro::reach
