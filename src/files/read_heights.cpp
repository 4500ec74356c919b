#include "files/read_heights.h"

#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <limits>
#include <optional>

#include "files/complaints.h"
#include "files/open_file.h"
#include "files/source.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

constexpr int kTile = 512;  // cells a side that are read at once

/// One band of cells, with the way from longitude and latitude to a cell. Cells are read tile by tile, where roads are,
/// and one tile is held.
class Model {
public:
    Model(const std::string& path, const Task& task) : path_(path), task_(task) {
        prepare_gdal();
        std::error_code error;
        if (!std::filesystem::is_regular_file(path, error))
            refuse("there is no such file", "Check the name and the folder");
        const char* const drivers[] = {"GTiff", nullptr};
        const Complaints complaints;
        in_.reset(GDALDataset::Open(std::filesystem::absolute(path).c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers,
                                    nullptr, nullptr));
        auto* const in = in_.get();
        if (in == nullptr || in->GetRasterCount() < 1)
            refuse("it is not a GeoTIFF elevation model", "Export the model as GeoTIFF");
        wide_ = in->GetRasterXSize();
        high_ = in->GetRasterYSize();
        if (wide_ < 2 || high_ < 2) refuse(fmt::format("it has {} by {} cells", wide_, high_), "Use another model");
        double there[6];
        if (in->GetGeoTransform(there) != CE_None || !GDALInvGeoTransform(there, back_))
            refuse("it does not say where on the globe it is", "Export it again with its coordinate system");
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
        band_ = band;
        check_blocks();
    }

    /// Where a place lies among the cells, in columns and rows from the middle of the first; nothing outside.
    [[nodiscard]] std::optional<std::pair<double, double>> cell_of(geo::LonLat p) const {
        double x = p.lon, y = p.lat;
        if (!transform_->Transform(1, &x, &y)) return std::nullopt;
        // Cells stand for their middles.
        const double col = back_[0] + x * back_[1] + y * back_[2] - 0.5;
        const double row = back_[3] + x * back_[4] + y * back_[5] - 0.5;
        if (!(col > -0.5 && row > -0.5 && col < wide_ - 0.5 && row < high_ - 0.5)) return std::nullopt;
        return std::pair(col, row);
    }
    /// The number of the tile that a cell's surroundings are in.
    [[nodiscard]] std::uint32_t tile_of(double col, double row) const {
        const int c = std::clamp(static_cast<int>(std::floor(col)), 0, wide_ - 2),
                  r = std::clamp(static_cast<int>(std::floor(row)), 0, high_ - 2);
        return static_cast<std::uint32_t>(r / kTile) * static_cast<std::uint32_t>((wide_ + kTile - 1) / kTile) +
               static_cast<std::uint32_t>(c / kTile);
    }

    /// The height among four cells. Quick while the tile stays the same.
    [[nodiscard]] float height(double col, double row) {
        constexpr float kNone = std::numeric_limits<float>::quiet_NaN();
        const int c = std::clamp(static_cast<int>(std::floor(col)), 0, wide_ - 2),
                  r = std::clamp(static_cast<int>(std::floor(row)), 0, high_ - 2);
        load(c / kTile, r / kTile);
        const double u = std::clamp(col - c, 0.0, 1.0), v = std::clamp(row - r, 0.0, 1.0);
        const auto h = [&](int i, int j) {
            return static_cast<double>(
                cells_[static_cast<std::size_t>(r - top_ + j) * static_cast<std::size_t>(across_) +
                       static_cast<std::size_t>(c - left_ + i)]);
        };
        for (const int i : {0, 1})
            for (const int j : {0, 1})
                if (!std::isfinite(h(i, j)) || (none_ && static_cast<float>(h(i, j)) == *none_)) return kNone;
        return static_cast<float>((h(0, 0) * (1 - u) + h(1, 0) * u) * (1 - v) + (h(0, 1) * (1 - u) + h(1, 1) * u) * v);
    }

    [[noreturn]] void refuse(std::string wrong, std::string remedy) const {
        throw InputError({path_, std::nullopt, std::move(wrong), std::move(remedy)});
    }

private:
    /// A library reads a block whole. One that holds far more than the file does was made to fill memory.
    void check_blocks() const {
        constexpr std::uintmax_t kAlways = 256U << 20U;
        int across = 0, down = 0;
        band_->GetBlockSize(&across, &down);
        const auto bytes = static_cast<std::uintmax_t>(across) * static_cast<std::uintmax_t>(down) *
                           static_cast<std::uintmax_t>(GDALGetDataTypeSizeBytes(band_->GetRasterDataType()));
        std::error_code error;
        if (bytes > std::max(kAlways, std::filesystem::file_size(path_, error)))
            refuse(fmt::format("it is stored in blocks of {} by {} cells, more than fit into memory", across, down),
                   "Save it again in tiles");
    }

    /// Reads a tile, and a column and a row more, since a height is found among four cells.
    void load(int tile_x, int tile_y) {
        if (left_ == tile_x * kTile && top_ == tile_y * kTile && !cells_.empty()) return;
        task_.check();
        left_ = tile_x * kTile;
        top_ = tile_y * kTile;
        across_ = std::min(kTile + 1, wide_ - left_);
        const int down = std::min(kTile + 1, high_ - top_);
        cells_.resize(static_cast<std::size_t>(across_) * static_cast<std::size_t>(down));
        const Complaints complaints;
        if (band_->RasterIO(GF_Read, left_, top_, across_, down, cells_.data(), across_, down, GDT_Float32, 0, 0) !=
                CE_None ||
            !complaints.first().empty())
            refuse(fmt::format("it cannot be read ({})", complaints.first()),
                   "It may be damaged or broken off; ask for it again");
    }

    std::string path_;
    const Task& task_;
    std::unique_ptr<GDALDataset> in_;
    GDALRasterBand* band_ = nullptr;
    int left_ = -1, top_ = -1, across_ = 0;  // of the tile held
    int wide_ = 0, high_ = 0;
    double back_[6] = {};
    std::optional<float> none_;
    std::vector<float> cells_;
    std::unique_ptr<OGRCoordinateTransformation> transform_;
};

}  // namespace

std::shared_ptr<const roads::Lines> with_heights(const roads::Lines& lines, const std::string& path, const Task& task) {
    Model model(path, task);
    auto out = std::make_shared<roads::Lines>(lines);
    out->heights.assign(out->vertices.size(), std::numeric_limits<float>::quiet_NaN());
    // Vertices by tile, so that each is read once.
    struct Wanted {
        std::uint32_t tile, vertex;
        double col, row;
    };
    std::vector<Wanted> wanted;
    for (std::size_t i = 0; i < out->vertices.size(); ++i) {
        if (i % 65'536 == 0)
            task.at("finding the cells of the roads",
                    0.5 * static_cast<double>(i) / static_cast<double>(out->vertices.size()));
        if (const auto at = model.cell_of(out->vertices[i]))
            wanted.push_back(
                {model.tile_of(at->first, at->second), static_cast<std::uint32_t>(i), at->first, at->second});
    }
    std::sort(wanted.begin(), wanted.end(), [](const Wanted& a, const Wanted& b) {
        return std::pair(a.tile, a.vertex) < std::pair(b.tile, b.vertex);
    });
    std::size_t known = 0;
    for (std::size_t i = 0; i < wanted.size(); ++i) {
        if (i % 65'536 == 0)
            task.at("reading heights", 0.5 + 0.5 * static_cast<double>(i) / static_cast<double>(wanted.size()));
        const float h = model.height(wanted[i].col, wanted[i].row);
        out->heights[wanted[i].vertex] = h;
        known += std::isfinite(h) ? 1 : 0;
    }
    if (known == 0) model.refuse("it covers none of the roads", "Use the part of the model that the roads are in");
    return out;
}

}  // namespace otoro::files
