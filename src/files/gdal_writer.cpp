#include "files/gdal_writer.h"

#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include "files/complaints.h"
#include "files/source.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

/// GDAL's complaints during one scope are kept with the writer, the first of them for good.
class Listening {
public:
    explicit Listening(std::string& first) : first_(first) {}
    ~Listening() {
        if (first_.empty()) first_ = complaints_.first();
    }
    Listening(const Listening&) = delete;
    Listening& operator=(const Listening&) = delete;
    [[nodiscard]] const std::string& heard() const { return first_.empty() ? complaints_.first() : first_; }

private:
    std::string& first_;
    Complaints complaints_;
};

}  // namespace

GdalWriter::GdalWriter(const std::string& path, std::string shown_as, const char* driver) : shown_as_(std::move(shown_as)) {
    prepare_gdal();
    const Listening listening(complaint_);
    auto* d = GetGDALDriverManager()->GetDriverByName(driver);
    if (d != nullptr) dataset_.reset(d->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
    if (!dataset_) refuse(listening.heard());
    if (dataset_->TestCapability(ODsCTransactions)) dataset_->StartTransaction();
}

GdalWriter::~GdalWriter() {
    if (!dataset_) return;
    const Listening listening(complaint_);
    if (dataset_->TestCapability(ODsCTransactions)) dataset_->RollbackTransaction();
    dataset_.reset();
}

void GdalWriter::refuse(const std::string& why) const {
    throw InputError({shown_as_, std::nullopt, fmt::format("it cannot be written ({})", why.empty() ? "the disk refused" : why),
                      "Choose another folder, or make room on the disk; what was there is unchanged"});
}

GdalWriter::Layer GdalWriter::layer(const std::string& name, OGRwkbGeometryType type, const std::vector<Field>& fields, const std::string& description) {
    const Listening listening(complaint_);
    OGRSpatialReference wgs84;
    wgs84.SetWellKnownGeogCS("WGS84");
    wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    const std::string about = "DESCRIPTION=" + description;
    std::vector<const char*> options;
    if (!description.empty()) options.push_back(about.c_str());
    if (std::string_view(dataset_->GetDriverName()) == "GeoJSON") options.push_back("COORDINATE_PRECISION=7");
    options.push_back(nullptr);
    OGRLayer* layer = dataset_->CreateLayer(name.c_str(), type == wkbNone ? nullptr : &wgs84, type, const_cast<char**>(options.data()));
    if (layer == nullptr) refuse(listening.heard());
    for (const auto& f : fields) {
        OGRFieldDefn definition(f.name, f.type);
        if (layer->CreateField(&definition) != OGRERR_NONE) refuse(listening.heard());
    }
    return {*this, *layer};
}

void GdalWriter::close() {
    const Listening listening(complaint_);
    if (dataset_->TestCapability(ODsCTransactions) && dataset_->CommitTransaction() != OGRERR_NONE) refuse(listening.heard());
    dataset_.reset();
    if (!listening.heard().empty()) refuse(listening.heard());
}

GdalWriter::Row GdalWriter::Layer::row() { return {*writer_, *layer_}; }

GdalWriter::Row::Row(GdalWriter& writer, OGRLayer& layer)
    : writer_(&writer), layer_(&layer), feature_(OGRFeature::CreateFeature(layer.GetLayerDefn()), [](OGRFeature* f) { OGRFeature::DestroyFeature(f); }) {}

void GdalWriter::Row::set(int field, const std::string& v) { feature_->SetField(field, v.c_str()); }
void GdalWriter::Row::set(int field, int v) { feature_->SetField(field, v); }
void GdalWriter::Row::set(int field, std::int64_t v) { feature_->SetField(field, static_cast<GIntBig>(v)); }
void GdalWriter::Row::set(int field, double v) { feature_->SetField(field, v); }

void GdalWriter::Row::point(geo::LonLat p) { feature_->SetGeometryDirectly(new OGRPoint(p.lon, p.lat)); }

void GdalWriter::Row::line(std::span<const geo::LonLat> shape, std::span<const float> heights) {
    auto line = std::make_unique<OGRLineString>();
    line->setNumPoints(static_cast<int>(shape.size()), FALSE);
    for (std::size_t i = 0; i < shape.size(); ++i) {
        if (heights.empty()) line->setPoint(static_cast<int>(i), shape[i].lon, shape[i].lat);
        else line->setPoint(static_cast<int>(i), shape[i].lon, shape[i].lat, static_cast<double>(heights[i]));
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

void GdalWriter::Row::write() {
    const Listening listening(writer_->complaint_);
    if (layer_->CreateFeature(feature_.get()) != OGRERR_NONE) writer_->refuse(listening.heard());
}

}  // namespace otoro::files
