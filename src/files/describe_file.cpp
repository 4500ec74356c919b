#include <gdal_priv.h>
#include <ogr_geometry.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <map>

#include "files/complaints.h"
#include "files/content.h"
#include "files/layer_names.h"
#include "files/open_file.h"
#include "files/source.h"
#include "geo/error.h"
#include "geo/text.h"

namespace otoro::files {
namespace {

/// What most of the first records of a layer are, where it may hold shapes of any kind: a drawing of roads is lines,
/// with a few texts among them.
Shape most_of(OGRLayer& layer) {
    constexpr int kLooked = 500;
    std::map<Shape, int> count;
    layer.ResetReading();
    for (int i = 0; i < kLooked; ++i) {
        const auto record = next_of(layer);
        if (!record) break;
        if (const auto* g = record->GetGeometryRef()) ++count[shape_of(g->getGeometryType())];
    }
    layer.ResetReading();
    Shape most = Shape::mixed;
    for (const auto& [shape, n] : count)
        if (shape != Shape::none && (most == Shape::mixed || n > count[most])) most = shape;
    return most;
}

}  // namespace

bool is_osm(const std::string& path) {
    if (reach_of(path) != Reach::file) return false;
    const Content content = content_of(path);
    if (content == Content::osm_xml || content == Content::osm_pbf || content == Content::osm_gzip ||
        content == Content::osm_bzip2)
        return true;
    if (content != Content::unknown && content != Content::gzip && content != Content::bzip2) return false;
    const std::string p = lower(path);
    return p.ends_with(".osm") || p.ends_with(".pbf") || p.ends_with(".osm.gz") || p.ends_with(".osm.bz2");
}

FileInfo describe_file(const std::string& path, const Task& task) {
    if (is_osm(path)) {
        if (!std::filesystem::exists(path)) refuse(path, "there is no such file", "Check the name and the folder");
        return {"OpenStreetMap", {{"roads", Shape::line, -1, "WGS 84", {"highway", "name", "maxspeed", "oneway"}}}};
    }
    task.at("looking at what is in the file", 0.0);
    const OpenFile opened = open_file(path);
    GDALDataset* dataset = opened.dataset.get();
    Patience patience(*dataset, task);
    FileInfo info;
    info.format = dataset->GetDriver()->GetMetadataItem(GDAL_DMD_LONGNAME);
    for (auto* layer : dataset->GetLayers()) {
        const Complaints quiet;
        task.at("looking at what is in the file", 0.5);
        const Names names = names_of(*layer, *dataset);
        LayerInfo l;
        l.name = as_utf8(layer->GetName());
        l.shape = is_table(*layer, *dataset) ? Shape::none : shape_of(layer->GetGeomType());
        if (l.shape == Shape::mixed) l.shape = most_of(*layer);
        if (l.shape == Shape::none && !names.shapes.empty()) {
            const auto rows = first_rows(*layer);
            for (const auto& row : rows)
                if (const auto g = shape_from(row[static_cast<std::size_t>(names.shapes[0])])) {
                    // Points as text count where there are no columns of coordinates.
                    if (const Shape s = shape_of(g->getGeometryType());
                        s != Shape::point || pairs_of(names.all).empty())
                        l.shape = s;
                    break;
                }
        }
        l.records = count_of(*layer, patience, task).value_or(-1);
        if (l.records > 0) l.records = std::max<std::int64_t>(0, l.records - names.headings);
        if (const auto* srs = layer->GetSpatialRef()) l.crs = srs->GetName() ? srs->GetName() : "";
        l.fields = names.all;
        if (names.key >= 0) l.key = names.all[static_cast<std::size_t>(names.key)];
        info.layers.push_back(std::move(l));
    }
    if (info.layers.empty()) refuse(path, "there is no layer in it", "Export it again with its data");
    return info;
}

Counted count_records(const LayerChoice& choice, Shape shape, const Task& task) {
    Source source(choice, shape, task);
    Counted out;
    try {
        while (source.next()) {
            if (++out.wanted % 4096 == 0) task.check();
        }
    } catch (const InputError&) {
        if (out.wanted > 0 || source.left_out() == 0) throw;
    }
    out.all = out.wanted + source.left_out();
    return out;
}

std::vector<std::string> files_read_with(const std::string& path) {
    const std::filesystem::path shp(path);
    std::vector<std::string> out{path};
    if (shp.extension() != ".shp" && shp.extension() != ".SHP") return out;
    for (const char* part : {".dbf", ".shx", ".prj", ".cpg", ".DBF", ".SHX", ".PRJ", ".CPG"})
        out.push_back(std::filesystem::path(shp).replace_extension(part).string());
    return out;
}

}  // namespace otoro::files
