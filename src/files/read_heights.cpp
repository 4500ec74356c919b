#include "files/read_heights.h"

#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include <cmath>
#include <filesystem>
#include <limits>
#include <optional>

#include "files/complaints.h"
#include "files/source.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

constexpr std::int64_t kMostCells = 400'000'000;

/// One band of cells in memory, with the way from longitude and latitude to a cell.
class Model {
public:
    explicit Model(const std::string& path) : path_(path) {
        prepare_gdal();
        std::error_code error;
        if (!std::filesystem::is_regular_file(path, error)) refuse("there is no such file", "Check the name and the folder");
        const char* const drivers[] = {"GTiff", nullptr};
        const Complaints complaints;
        const std::unique_ptr<GDALDataset> in(GDALDataset::Open(std::filesystem::absolute(path).c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers, nullptr, nullptr));
        if (!in || in->GetRasterCount() < 1) refuse("it is not a GeoTIFF elevation model", "Export the model as GeoTIFF");
        wide_ = in->GetRasterXSize();
        high_ = in->GetRasterYSize();
        if (wide_ < 2 || high_ < 2 || std::int64_t{wide_} * high_ > kMostCells) refuse(fmt::format("it has {} by {} cells", wide_, high_), "Bring in the part that the roads are in");
        double there[6];
        if (in->GetGeoTransform(there) != CE_None || !GDALInvGeoTransform(there, back_)) refuse("it does not say where on the globe it is", "Export it again with its coordinate system");
        const auto* srs = in->GetSpatialRef();
        if (srs == nullptr) refuse("it names no coordinate system", "Export it again with its coordinate system");
        OGRSpatialReference own(*srs), wgs84;
        own.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
        wgs84.SetWellKnownGeogCS("WGS84");
        wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
        transform_.reset(OGRCreateCoordinateTransformation(&wgs84, &own));
        if (!transform_) refuse("its coordinate system is not understood", "Export it in another");
        auto* band = in->GetRasterBand(1);
        int has = 0;
        const double none = band->GetNoDataValue(&has);
        if (has != 0) none_ = static_cast<float>(none);
        cells_.resize(static_cast<std::size_t>(wide_) * static_cast<std::size_t>(high_));
        if (band->RasterIO(GF_Read, 0, 0, wide_, high_, cells_.data(), wide_, high_, GDT_Float32, 0, 0) != CE_None) refuse(fmt::format("it cannot be read ({})", complaints.first()), "It may be damaged; ask for it again");
    }

    [[nodiscard]] float at(geo::LonLat p) const {
        constexpr float kNone = std::numeric_limits<float>::quiet_NaN();
        double x = p.lon, y = p.lat;
        if (!transform_->Transform(1, &x, &y)) return kNone;
        // Cells stand for their middles.
        const double col = back_[0] + x * back_[1] + y * back_[2] - 0.5;
        const double row = back_[3] + x * back_[4] + y * back_[5] - 0.5;
        if (!(col > -0.5 && row > -0.5 && col < wide_ - 0.5 && row < high_ - 0.5)) return kNone;
        const int c = std::clamp(static_cast<int>(std::floor(col)), 0, wide_ - 2), r = std::clamp(static_cast<int>(std::floor(row)), 0, high_ - 2);
        const double u = std::clamp(col - c, 0.0, 1.0), v = std::clamp(row - r, 0.0, 1.0);
        const auto h = [&](int i, int j) { return static_cast<double>(cells_[static_cast<std::size_t>(r + j) * static_cast<std::size_t>(wide_) + static_cast<std::size_t>(c + i)]); };
        for (const int i : {0, 1})
            for (const int j : {0, 1})
                if (!std::isfinite(h(i, j)) || (none_ && static_cast<float>(h(i, j)) == *none_)) return kNone;
        return static_cast<float>((h(0, 0) * (1 - u) + h(1, 0) * u) * (1 - v) + (h(0, 1) * (1 - u) + h(1, 1) * u) * v);
    }

    [[noreturn]] void refuse(std::string wrong, std::string remedy) const { throw InputError({path_, std::nullopt, std::move(wrong), std::move(remedy)}); }

private:
    std::string path_;
    int wide_ = 0, high_ = 0;
    double back_[6] = {};
    std::optional<float> none_;
    std::vector<float> cells_;
    std::unique_ptr<OGRCoordinateTransformation> transform_;
};

}  // namespace

std::shared_ptr<const roads::Lines> with_heights(const roads::Lines& lines, const std::string& path, const Task& task) {
    const Model model(path);
    auto out = std::make_shared<roads::Lines>(lines);
    out->heights.resize(out->vertices.size());
    std::size_t known = 0;
    for (std::size_t i = 0; i < out->vertices.size(); ++i) {
        if (i % 65'536 == 0) task.at("reading heights", static_cast<double>(i) / static_cast<double>(out->vertices.size()));
        out->heights[i] = model.at(out->vertices[i]);
        known += std::isfinite(out->heights[i]) ? 1 : 0;
    }
    if (known == 0) model.refuse("it covers none of the roads", "Bring in the part of the model that the roads are in");
    return out;
}

}  // namespace otoro::files
