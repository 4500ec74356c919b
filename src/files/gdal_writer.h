#pragma once
/// \file
/// Writing layers through GDAL, with every refusal of the disk turned into an error.
#include <ogr_core.h>

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "files/complaints.h"
#include "geo/position.h"
#include "reach/rings.h"

class GDALDataset;
class OGRFeature;
class OGRLayer;

namespace otoro::files {

/// One new file, made and finished on one thread. Written in one transaction where the format has them; nothing counts
/// until `close` returns.
class GdalWriter {
public:
    struct Field {
        std::string name;
        OGRFieldType type;
    };
    class Row;
    class Layer;

    /// \param path where to write \param shown_as the path that errors name \param driver GDAL's name of the format
    GdalWriter(const std::string& path, std::string shown_as, const char* driver = "GPKG");
    ~GdalWriter();
    GdalWriter(const GdalWriter&) = delete;
    GdalWriter& operator=(const GdalWriter&) = delete;

    /// Whether a layer gets an index by place. It serves programs that draw the layer, and doubles the time of writing.
    enum class SpatialIndex : std::uint8_t { none, whole };
    /// A new layer in longitude and latitude; `description` is kept with it.
    Layer layer(const std::string& name, OGRwkbGeometryType type, const std::vector<Field>& fields,
                const std::string& description = {}, SpatialIndex index = SpatialIndex::whole);
    /// Commits and closes. \throws InputError
    void close();

private:
    [[noreturn]] void refuse(const std::string& why) const;
    std::string shown_as_;
    std::unique_ptr<GDALDataset> dataset_;
    std::unique_ptr<Complaints> complaints_;  ///< heard while this lives, on its thread
};

class GdalWriter::Layer {
public:
    Row row();

private:
    friend class GdalWriter;
    Layer(GdalWriter& writer, OGRLayer& layer);
    GdalWriter* writer_;
    OGRLayer* layer_;
    std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> feature_;  ///< used again for each row
};

/// One record. Fields not set stay empty. A layer has one at a time.
class GdalWriter::Row {
public:
    void set(int field, const std::string& v);
    void set(int field, int v);
    void set(int field, std::int64_t v);
    void set(int field, double v);
    void point(geo::LonLat p);
    /// \param heights one a vertex, or none
    void line(std::span<const geo::LonLat> shape, std::span<const float> heights = {});
    /// Rings by the even-odd rule, as one polygon.
    void area(const std::vector<std::vector<geo::LonLat>>& rings);
    /// All in one record.
    void areas(const std::vector<reach::Polygon>& polygons);
    void lines(const std::vector<std::vector<geo::LonLat>>& lines);
    /// \throws InputError
    void write();

private:
    friend class Layer;
    Row(GdalWriter& writer, OGRLayer& layer, OGRFeature& feature)
        : writer_(&writer), layer_(&layer), feature_(&feature) {}
    GdalWriter* writer_;
    OGRLayer* layer_;
    OGRFeature* feature_;
};

}  // namespace otoro::files
