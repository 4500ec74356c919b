#include "files/read_areas.h"

#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include "files/read_places.h"
#include "files/read_values.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

/// The rings of a polygon, or of several, in longitude and latitude; false for another shape, or a point off the globe.
bool add_rings(Source& source, const OGRGeometry& g, geo::Area& area) {
    const auto type = wkbFlatten(g.getGeometryType());
    if (type == wkbMultiPolygon) {
        for (const auto* part : *g.toMultiPolygon())
            if (!add_rings(source, *part, area)) return false;
        return true;
    }
    if (type != wkbPolygon) return false;
    for (const auto* ring : *g.toPolygon()) {
        std::vector<geo::LonLat> out;
        for (const auto& p : *ring) {
            double x = p.getX(), y = p.getY();
            if (!source.to_lon_lat(1, &x, &y)) return false;
            out.push_back({x, y});
        }
        if (out.size() >= 3) area.add(std::move(out));
    }
    return true;
}

}  // namespace

ZoneFields guess_zone_fields(const std::vector<std::string>& fields, const std::string& key) {
    const std::string id = guess_field(fields, {"id", "ref", "reference", "code"});
    return {id.empty() ? key : id, guess_field(fields, {"name", "zone", "district", "title"})};
}

AreasRead read_areas(const ZoneChoice& choice, const std::string& what, const Task& task) {
    Source source(choice.layer, Shape::polygon, task);
    AreasRead out;
    out.zones.name = set_name_from(choice.layer.path);
    const auto guessed = guess_zone_fields(source.fields(), source.key());
    out.fields = {resolve(source, choice.id, guessed.id, "the id"),
                  resolve(source, choice.name, guessed.name, "the name")};
    const int id = index_of(source, out.fields.id);
    const int name = index_of(source, out.fields.name);
    const auto expected = static_cast<double>(source.expected_records());
    while (const auto record = source.next()) {
        task.at("reading " + what, expected > 0 ? static_cast<double>(source.record()) / expected : 0.0);
        places::Zone zone{
            id < 0 ? std::to_string(source.record()) : source.text(*record, id), source.text(*record, name), {}};
        const auto* g = source.shape(*record);
        const std::unique_ptr<OGRGeometry> straight(g == nullptr ? nullptr : g->getLinearGeometry());
        if (!straight || !add_rings(source, *straight, zone.area) || zone.area.rings.empty()) {
            out.flaws.push_back({source.path(), source.record(), zone.id, "it is no polygon that can be placed", true,
                                 FlawKind::shape, std::nullopt});
            continue;
        }
        out.zones.zones.push_back(std::move(zone));
    }
    source.check_units();
    if (out.zones.zones.empty())
        source.fail(std::nullopt, "none of its records is a polygon that can be placed", "Add a file of polygons");
    out.left_out = source.left_out();
    return out;
}

}  // namespace otoro::files
