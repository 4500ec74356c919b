/// Saving a study.
#include <ogrsf_frmts.h>

#include <nlohmann/json.hpp>

#include "files/atomic_file.h"
#include "files/gdal_writer.h"
#include "files/study_file.h"
#include "files/study_json.h"
#include "files/study_layers.h"
#include "files/study_layout.h"
#include "files/study_settings.h"

namespace otoro::files {
namespace {
using nlohmann::json;

/// The lines as they were read; what was decided about them is among the settings.
void write_roads(GdalWriter& out, const roads::Lines& lines, const Task& task) {
    std::vector<GdalWriter::Field> fields{{"class", OFTString},
                                          {"ramp", OFTInteger},
                                          {"name", OFTString},
                                          {"one_way", OFTInteger},
                                          {"speed_mm_per_hour", OFTInteger64},
                                          {"fixed_ms", OFTInteger64},
                                          {"barred", OFTInteger},
                                          {"flags", OFTInteger},
                                          {"from_node", OFTInteger64},
                                          {"to_node", OFTInteger64},
                                          {"against_ms", OFTInteger64}};
    auto layer = out.layer("roads", lines.heights.empty() ? wkbLineString : wkbLineString25D, fields, {},
                           GdalWriter::SpatialIndex::none);
    for (std::uint32_t i = 0; i < lines.count(); ++i) {
        if (i % 8192 == 0) task.at("saving roads", static_cast<double>(i) / lines.count());
        const auto& a = lines.attributes[i];
        auto row = layer.row();
        row.set(0, std::string(name(a.road_class)));
        row.set(1, (a.flags & roads::kRamp) ? 1 : 0);
        row.set(2, lines.names.at(a.name));
        row.set(3, static_cast<int>(a.one_way));
        row.set(4, static_cast<std::int64_t>(a.drive_speed.mm_per_hour()));
        row.set(5, static_cast<std::int64_t>(a.fixed_ms));
        row.set(6, static_cast<int>(a.barred));
        row.set(7, static_cast<int>(a.flags));
        if (!lines.named_ends.empty()) {
            row.set(8, static_cast<std::int64_t>(lines.named_ends[i].from));
            row.set(9, static_cast<std::int64_t>(lines.named_ends[i].to));
        }
        if (!lines.against_ms.empty()) row.set(10, static_cast<std::int64_t>(lines.against_ms[i]));
        row.line(lines.shape(i), lines.heights_of(i));
        row.write();
    }
}

void write_demand(GdalWriter& out, const std::string& layer_name, const places::DemandSet& set, const Task& task) {
    auto layer = out.layer(layer_name, wkbPoint,
                           {{"id", OFTString},
                            {"weight_millionths", OFTInteger64},
                            {"group", OFTString},
                            {"recorded_site", OFTString},
                            {"priority", OFTString}},
                           {}, GdalWriter::SpatialIndex::none);
    for (std::size_t i = 0; i < set.places.size(); ++i) {
        if (i % 8192 == 0) task.at("saving demand", static_cast<double>(i) / static_cast<double>(set.places.size()));
        const auto& p = set.places[i];
        auto row = layer.row();
        row.set(0, p.id);
        row.set(1, p.weight.count());
        if (!set.group.empty()) row.set(2, set.group.at(i));
        if (!set.recorded.empty()) row.set(3, set.recorded.at(i));
        if (!set.priority.empty()) row.set(4, set.priority.at(i));
        if (p.position) row.point(*p.position);
        row.write();
    }
}

void write_sites(GdalWriter& out, const std::string& layer_name, const places::SiteSet& set, const Task& task) {
    task.at("saving sites", 0.0);
    auto layer = out.layer(layer_name, wkbPoint,
                           {{"id", OFTString},
                            {"name", OFTString},
                            {"state", OFTString},
                            {"capacity_millionths", OFTInteger64},
                            {"zone", OFTString},
                            {"cost_millionths", OFTInteger64},
                            {"limit_ms", OFTInteger64},
                            {"limit_mm", OFTInteger64},
                            {"least_millionths", OFTInteger64},
                            {"turnout_ms", OFTInteger64}});
    for (const auto& s : set.sites) {
        auto row = layer.row();
        row.set(0, s.id);
        row.set(1, s.name);
        row.set(2, std::string(name(s.state)));
        if (s.capacity) row.set(3, s.capacity->count());
        if (!s.zone.empty()) row.set(4, s.zone);
        if (s.cost) row.set(5, s.cost->count());
        if (s.limit)
            row.set(std::holds_alternative<Millis>(*s.limit) ? 6 : 7,
                    std::int64_t{std::visit([](auto v) { return v.count(); }, *s.limit)});
        if (s.least) row.set(8, s.least->count());
        if (s.turnout) row.set(9, s.turnout->count());
        if (s.position) row.point(*s.position);
        row.write();
    }
}

void write_water(GdalWriter& out, const std::vector<geo::Area>& areas, const Task& task) {
    task.at("saving water", 0.0);
    auto layer = out.layer("water", wkbPolygon, {}, {}, GdalWriter::SpatialIndex::none);
    for (const auto& a : areas) {
        task.check();
        auto row = layer.row();
        row.area(a.rings);
        row.write();
    }
}

void write_zones(GdalWriter& out, const std::string& layer_name, const places::ZoneSet& set, const Task& task) {
    task.at("saving zones", 0.0);
    auto layer =
        out.layer(layer_name, wkbPolygon, {{"id", OFTString}, {"name", OFTString}}, {}, GdalWriter::SpatialIndex::none);
    for (const auto& z : set.zones) {
        task.check();
        auto row = layer.row();
        row.set(0, z.id);
        row.set(1, z.name);
        row.area(z.area.rings);
        row.write();
    }
}

void write_pairs(GdalWriter& out, const places::PairValues& pairs, const Task& task) {
    auto layer = out.layer("pairs", wkbNone,
                           {{"demand_id", OFTString}, {"site_id", OFTString}, {"value_millionths", OFTInteger64}});
    for (std::uint32_t i = 0; i < pairs.count(); ++i) {
        if (i % 8192 == 0) task.at("saving pairs", static_cast<double>(i) / pairs.count());
        auto row = layer.row();
        row.set(0, pairs.demand.at(i));
        row.set(1, pairs.sites.at(i));
        row.set(2, pairs.values[i].count());
        row.write();
    }
}

void write_settings(GdalWriter& out, const service::Study& study) {
    auto layer = out.layer(kStudyTable, wkbNone, {{"key", OFTString}, {"value", OFTString}});
    const auto write = [&](const char* key, const std::string& value) {
        auto row = layer.row();
        row.set(0, std::string(key));
        row.set(1, value);
        row.write();
    };
    json content{{"layers", json::object()}, {"settings", json::object()}};
    for (const auto& [name, held] : contents_of(study))
        content["layers"][name] = {{"rows", held.rows}, {"digest", held.digest}};
    const json settings = settings_of(study);
    for (const auto& [key, value] : settings.items()) {
        // A name that is no UTF-8 must not keep a study from being saved.
        const auto text = value.dump(-1, ' ', false, json::error_handler_t::replace);
        content["settings"][key] = digest_of_setting(text);
        write(key.c_str(), text);
    }
    write(kContent, content.dump());
}

}  // namespace

void save_study(const service::Study& study, const std::string& path, const Task& task,
                const std::optional<Expected>& expected) {
    const auto write = [&](const std::string& temporary) {
        GdalWriter out(temporary, path);
        if (study.roads) write_roads(out, *study.roads->lines, task);
        for (std::size_t i = 0; i < study.demand.size(); ++i)
            write_demand(out, part_name("demand", i), *study.demand[i].set, task);
        for (std::size_t i = 0; i < study.sites.size(); ++i)
            write_sites(out, part_name("sites", i), *study.sites[i].set, task);
        for (std::size_t i = 0; i < study.zones.size(); ++i)
            write_zones(out, part_name("zones", i), *study.zones[i].set, task);
        if (study.pairs) write_pairs(out, *study.pairs->values, task);
        if (study.water) write_water(out, *study.water->areas, task);
        write_settings(out, study);
        task.at("saving", 0.95);
        out.close();
        task.check();
    };
    write_atomically(path, write, expected);
}

}  // namespace otoro::files
