#include "files/preview.h"

#include <ogrsf_frmts.h>

#include <algorithm>

namespace otoro::files {
namespace {

constexpr std::int64_t kMostLookedAt = 20'000;
constexpr int kMostVertices = 80;

/// A line or a ring, thinned, in longitude and latitude; empty if it is off the globe.
std::vector<geo::LonLat> thinned(Source& source, const OGRSimpleCurve& line) {
    const int n = line.getNumPoints();
    const int step = std::max(1, n / kMostVertices);
    std::vector<double> x, y;
    for (int i = 0; i < n; i += step) {
        x.push_back(line.getX(i));
        y.push_back(line.getY(i));
    }
    if (n > 1 && (n - 1) % step != 0) {
        x.push_back(line.getX(n - 1));
        y.push_back(line.getY(n - 1));
    }
    if (x.empty() || !source.to_lon_lat(x.size(), x.data(), y.data())) return {};
    std::vector<geo::LonLat> out;
    for (std::size_t i = 0; i < x.size(); ++i) out.push_back({x[i], y[i]});
    return out;
}

/// Every line and outer ring of a shape. The depth is bounded: shapes of shapes are two deep at most.
void collect(Source& source, const OGRGeometry& shape, std::vector<std::vector<geo::LonLat>>& out) {
    const auto take = [&](const OGRSimpleCurve& line) {
        if (auto part = thinned(source, line); !part.empty()) out.push_back(std::move(part));
    };
    switch (wkbFlatten(shape.getGeometryType())) {
        case wkbLineString:
            return take(*shape.toLineString());
        case wkbPolygon:
            if (const auto* ring = shape.toPolygon()->getExteriorRing()) take(*ring);
            return;
        case wkbMultiLineString:
            for (const auto* line : *shape.toMultiLineString()) take(*line);
            return;
        case wkbMultiPolygon:
            for (const auto* polygon : *shape.toMultiPolygon())
                if (const auto* ring = polygon->getExteriorRing()) take(*ring);
            return;
        default:
            return;
    }
}

}  // namespace

Preview preview(const LayerChoice& choice, Shape wanted, std::size_t rows, std::size_t shapes, const Task& task) {
    Source source(choice, wanted, task);
    Preview out;
    out.fields = source.fields();
    // Nobody knows how many records a table has before its end: whenever there are too many shapes, every second goes,
    // and from there on half as many are taken.
    std::int64_t step = 1;
    for (std::int64_t i = 0; i < kMostLookedAt; ++i) {
        if (i % 1024 == 0) task.check();
        const auto record = source.next();
        if (!record) break;
        if (out.rows.size() < rows) {
            std::vector<std::string> row;
            for (int f = 0; f < static_cast<int>(out.fields.size()); ++f) row.push_back(source.text(*record, f));
            out.rows.push_back(std::move(row));
        }
        if (i % step != 0) continue;
        if (out.shapes.size() >= shapes && shapes > 0) {
            for (std::size_t k = 1; 2 * k < out.shapes.size(); ++k) out.shapes[k] = std::move(out.shapes[2 * k]);
            out.shapes.resize((out.shapes.size() + 1) / 2);
            step *= 2;
            if (i % step != 0) continue;
        }
        const OGRGeometry* shape = wanted == Shape::point ? nullptr : source.shape(*record);
        if (shape != nullptr) {
            collect(source, *shape, out.shapes);
        } else if (wanted == Shape::point) {
            std::string wrong;
            if (const auto at = source.point(*record, wrong))
                out.shapes.push_back({*at});
            else if (out.wrong.empty())
                out.wrong = wrong;
        }
    }
    return out;
}

}  // namespace otoro::files
