#include "files/gdal_writer.h"

#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <utility>

#include "files/complaints.h"
#include "files/open_file.h"
#include "files/source.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

/// For this thread: the file is new and is flushed as a whole when it is done, so that SQLite need not wait for the
/// disk in between.
class InAHurry {
public:
    InAHurry() {
        for (const auto& [key, value] : kOptions) CPLSetThreadLocalConfigOption(key, value);
    }
    ~InAHurry() {
        for (const auto& [key, value] : kOptions) CPLSetThreadLocalConfigOption(key, nullptr);
    }
    InAHurry(const InAHurry&) = delete;
    InAHurry& operator=(const InAHurry&) = delete;

private:
    static constexpr std::pair<const char*, const char*> kOptions[] = {
        {"OGR_SQLITE_SYNCHRONOUS", "OFF"}, {"OGR_SQLITE_JOURNAL", "MEMORY"}, {"OGR_SQLITE_CACHE", "64"}};
};

}  // namespace

GdalWriter::GdalWriter(const std::string& path, std::string shown_as, const char* driver)
    : shown_as_(std::move(shown_as)) {
    prepare_gdal();
    complaints_ = std::make_unique<Complaints>();
    const InAHurry hurry;
    auto* d = GetGDALDriverManager()->GetDriverByName(driver);
    if (d != nullptr) dataset_.reset(d->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
    if (!dataset_) refuse(complaints_->first());
    if (dataset_->TestCapability(ODsCTransactions)) dataset_->StartTransaction();
}

GdalWriter::~GdalWriter() {
    if (!dataset_) return;
    if (dataset_->TestCapability(ODsCTransactions)) dataset_->RollbackTransaction();
    dataset_.reset();
}

void GdalWriter::refuse(const std::string& why) const {
    throw InputError({shown_as_, std::nullopt,
                      fmt::format("it cannot be written ({})", why.empty() ? "the disk refused" : why),
                      "Choose another folder, or make room on the disk; what was there is unchanged"});
}

GdalWriter::Layer GdalWriter::layer(const std::string& name, OGRwkbGeometryType type, const std::vector<Field>& fields,
                                    const std::string& description, SpatialIndex index) {
    OGRSpatialReference wgs84;
    wgs84.SetWellKnownGeogCS("WGS84");
    wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    // Formats say which options they have; only GeoPackage's are used.
    const bool geopackage = EQUAL(dataset_->GetDriverName(), "GPKG");
    const std::string about = "DESCRIPTION=" + description;
    std::vector<const char*> options;
    if (!description.empty() && geopackage) options.push_back(about.c_str());
    if (EQUAL(dataset_->GetDriverName(), "ESRI Shapefile")) options.push_back("ENCODING=UTF-8");
    if (index == SpatialIndex::none && geopackage) options.push_back("SPATIAL_INDEX=NO");
    // A GeoPackage's own two columns make way for fields of the same name.
    const auto own_name = [&](const char* option, std::string column) {
        const auto taken = [&](const Field& f) { return EQUAL(f.name.c_str(), column.c_str()); };
        while (std::any_of(fields.begin(), fields.end(), taken)) column += "_";
        return option + column;
    };
    const std::string key = own_name("FID=", "fid"), shape = own_name("GEOMETRY_NAME=", "geom");
    if (geopackage)
        for (const std::string* const option : {&key, &shape}) options.push_back(option->c_str());
    options.push_back(nullptr);
    OGRLayer* layer = dataset_->CreateLayer(name.c_str(), type == wkbNone ? nullptr : &wgs84, type,
                                            const_cast<char**>(options.data()));
    if (layer == nullptr) refuse(complaints_->first());
    for (const auto& f : fields) {
        OGRFieldDefn definition(f.name.c_str(), f.type);
        if (layer->CreateField(&definition) != OGRERR_NONE) refuse(complaints_->first());
    }
    return {*this, *layer};
}

void GdalWriter::close() {
    if (dataset_->TestCapability(ODsCTransactions) && dataset_->CommitTransaction() != OGRERR_NONE)
        refuse(complaints_->first());
    dataset_.reset();
    if (!complaints_->first().empty()) refuse(complaints_->first());
}

GdalWriter::Layer::Layer(GdalWriter& writer, OGRLayer& layer)
    : writer_(&writer),
      layer_(&layer),
      feature_(OGRFeature::CreateFeature(layer.GetLayerDefn()), [](OGRFeature* f) { OGRFeature::DestroyFeature(f); }) {}

GdalWriter::Row GdalWriter::Layer::row() {
    feature_->Reset();
    return {*writer_, *layer_, *feature_};
}

void GdalWriter::Row::set(int field, const std::string& v) { feature_->SetField(field, v.c_str()); }
void GdalWriter::Row::set(int field, int v) { feature_->SetField(field, v); }
void GdalWriter::Row::set(int field, std::int64_t v) { feature_->SetField(field, static_cast<GIntBig>(v)); }
void GdalWriter::Row::set(int field, double v) { feature_->SetField(field, v); }

void GdalWriter::Row::point(geo::LonLat p) { feature_->SetGeometryDirectly(new OGRPoint(p.lon, p.lat)); }

void GdalWriter::Row::line(std::span<const geo::LonLat> shape, std::span<const float> heights) {
    auto line = std::make_unique<OGRLineString>();
    line->setNumPoints(static_cast<int>(shape.size()), FALSE);
    for (std::size_t i = 0; i < shape.size(); ++i) {
        if (heights.empty())
            line->setPoint(static_cast<int>(i), shape[i].lon, shape[i].lat);
        else
            line->setPoint(static_cast<int>(i), shape[i].lon, shape[i].lat, static_cast<double>(heights[i]));
    }
    feature_->SetGeometryDirectly(line.release());
}

void GdalWriter::Row::area(const std::vector<std::vector<geo::LonLat>>& rings) {
    auto polygon = std::make_unique<OGRPolygon>();
    for (const auto& r : rings) {
        auto ring = std::make_unique<OGRLinearRing>();
        for (const auto& p : r) ring->addPoint(p.lon, p.lat);
        ring->closeRings();
        polygon->addRingDirectly(ring.release());
    }
    feature_->SetGeometryDirectly(polygon.release());
}

void GdalWriter::Row::areas(const std::vector<reach::Polygon>& polygons) {
    auto all = std::make_unique<OGRMultiPolygon>();
    const auto add_ring = [](OGRPolygon& polygon, const std::vector<geo::LonLat>& vertices) {
        auto ring = std::make_unique<OGRLinearRing>();
        ring->setNumPoints(static_cast<int>(vertices.size()), FALSE);
        for (std::size_t i = 0; i < vertices.size(); ++i)
            ring->setPoint(static_cast<int>(i), vertices[i].lon, vertices[i].lat);
        polygon.addRingDirectly(ring.release());
    };
    for (const auto& p : polygons) {
        auto polygon = std::make_unique<OGRPolygon>();
        add_ring(*polygon, p.outer);
        for (const auto& hole : p.holes) add_ring(*polygon, hole);
        all->addGeometryDirectly(polygon.release());
    }
    feature_->SetGeometryDirectly(all.release());
}

void GdalWriter::Row::lines(const std::vector<std::vector<geo::LonLat>>& lines) {
    auto all = std::make_unique<OGRMultiLineString>();
    for (const auto& vertices : lines) {
        auto line = std::make_unique<OGRLineString>();
        line->setNumPoints(static_cast<int>(vertices.size()), FALSE);
        for (std::size_t i = 0; i < vertices.size(); ++i)
            line->setPoint(static_cast<int>(i), vertices[i].lon, vertices[i].lat);
        all->addGeometryDirectly(line.release());
    }
    feature_->SetGeometryDirectly(all.release());
}

void GdalWriter::Row::write() {
    if (layer_->CreateFeature(feature_) != OGRERR_NONE) writer_->refuse(writer_->complaints_->first());
}

}  // namespace otoro::files
