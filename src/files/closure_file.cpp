#include "files/closure_file.h"

#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>

#include "files/source.h"
#include "geo/amounts.h"

namespace otoro::files {
namespace {

/// The vertices of a shape in longitude and latitude, and what shape it is.
bool take_shape(Source& source, const OGRGeometry& g, roads::Closure& c) {
    const auto add = [&](const OGRPoint& p) {
        double x = p.getX(), y = p.getY();
        if (!source.to_lon_lat(1, &x, &y)) return false;
        c.vertices.push_back({x, y});
        return true;
    };
    const auto add_all = [&](const OGRSimpleCurve& line) {
        for (int i = 0; i < line.getNumPoints(); ++i) {
            OGRPoint p;
            line.getPoint(i, &p);
            if (!add(p)) return false;
        }
        return true;
    };
    switch (wkbFlatten(g.getGeometryType())) {
        case wkbPoint:
            c.shape = roads::ClosureShape::point;
            return add(*g.toPoint());
        case wkbLineString:
            c.shape = roads::ClosureShape::line;
            return add_all(*g.toLineString()) && c.vertices.size() >= 2;
        case wkbPolygon:
        case wkbMultiPolygon: {
            c.shape = roads::ClosureShape::area;
            std::vector<const OGRPolygon*> parts;
            if (wkbFlatten(g.getGeometryType()) == wkbPolygon)
                parts.push_back(g.toPolygon());
            else
                for (const auto* part : *g.toMultiPolygon()) parts.push_back(part);
            std::vector<std::vector<geo::LonLat>> rings;
            for (const auto* part : parts)
                for (const auto* ring : *part) {
                    c.vertices.clear();
                    if (!add_all(*ring)) return false;
                    if (c.vertices.size() > 1 && c.vertices.front() == c.vertices.back()) c.vertices.pop_back();
                    if (c.vertices.size() < 3) return false;
                    rings.push_back(std::move(c.vertices));
                }
            if (rings.empty()) return false;
            c.vertices = std::move(rings.front());
            c.more_rings.assign(std::make_move_iterator(rings.begin() + 1), std::make_move_iterator(rings.end()));
            return true;
        }
        default:
            return false;
    }
}

}  // namespace

std::vector<roads::Closure> read_closures(const std::string& path, const Task& task) {
    std::vector<roads::Closure> out;
    for (const auto& layer : describe_file(path, task).layers) {
        if (layer.shape == Shape::none) continue;
        Source source({path, layer.name, ""}, layer.shape, task);
        const auto fields = source.fields();
        const int name = source.field(guess_field(fields, {"name", "title", "id"}));
        const int effect = source.field(guess_field(fields, {"effect"}));
        const int factor = source.field(guess_field(fields, {"factor"}));
        const int delay = source.field(guess_field(fields, {"delay_min", "delay"}));
        source.look_at(std::array{factor, delay});
        while (const auto record = source.next()) {
            task.at("reading closures", 0.0);
            roads::Closure c;
            const auto text = [&](int field) { return source.text(*record, field); };
            const auto number = [&](int field, double least, double most, const char* what) {
                const auto v = source.number(*record, field);
                if (!v || *v < least || *v > most)
                    source.fail(source.record(),
                                fmt::format("its {} '{}' is not between {:g} and {:g}", what, text(field).substr(0, 40),
                                            least, most),
                                "Put it right in the file");
                return *v;
            };
            c.name = text(name).empty() ? fmt::format("closure {}", out.size() + 1) : text(name);
            const std::string word = text(effect);
            if (word == "slowed") {
                c.effect = roads::ClosureEffect::slowed;
                c.factor_per_mille = static_cast<std::uint32_t>(std::llround(number(factor, 1, 1000, "factor") * 1000));
            } else if (word == "delay") {
                c.effect = roads::ClosureEffect::delay;
                c.delay = Millis(std::llround(number(delay, 0, 1000, "delay") * 60'000));
            } else if (!word.empty() && word != "closed" && word != "shut") {
                source.fail(source.record(),
                            fmt::format("its effect '{}' is not closed, slowed or delay", word.substr(0, 40)),
                            "Put it right in the file");
            }
            const auto* g = source.shape(*record);
            const std::unique_ptr<OGRGeometry> straight(g == nullptr ? nullptr : g->getLinearGeometry());
            if (!straight || !take_shape(source, *straight, c))
                source.fail(source.record(), "it is no point, line or polygon that can be placed",
                            "Put it right in the file, or leave it out");
            out.push_back(std::move(c));
        }
    }
    return out;
}

}  // namespace otoro::files
