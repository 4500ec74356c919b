#include "files/write_surface.h"

#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <mutex>

#include "files/atomic_file.h"
#include "files/complaints.h"
#include "files/epsg.h"
#include "files/open_file.h"
#include "geo/local_frame.h"
#include "geo/wording.h"

namespace otoro::files {
namespace {

struct Closed {
    void operator()(GDALDataset* d) const { GDALClose(d); }
};
using RasterPtr = std::unique_ptr<GDALDataset, Closed>;

/// UTM zones are numbered from 180 degrees west; beyond where they end it is the polar system.
int fitting_epsg(geo::LonLat at) {
    if (at.lat >= 84) return 32661;
    if (at.lat < -80) return 32761;
    const double lon = geo::normalised(at).lon;
    const int zone = std::clamp(static_cast<int>(std::floor((lon + 180) / 6)) + 1, 1, 60);
    return (at.lat >= 0 ? 32600 : 32700) + zone;
}

RasterPtr open_raster(const std::string& path) {
    prepare_gdal();
    const char* const drivers[] = {"GTiff", nullptr};
    const Complaints complaints;
    RasterPtr in(GDALDataset::Open(std::filesystem::absolute(path).c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers,
                                   nullptr, nullptr));
    if (!in || in->GetRasterCount() < 1) refuse(path, "it is not a GeoTIFF", "Name a surface written before");
    return in;
}

}  // namespace

struct SurfaceFrame::State {
    OGRSpatialReference crs;
    std::array<double, 6> place{};  ///< GDAL's six numbers
    std::uint32_t columns = 0, rows = 0;
    double cell = 0;
    std::string name;
    std::unique_ptr<OGRCoordinateTransformation> to_degrees;
    std::mutex mutex;  ///< a transformation is for one thread at a time

    void prepare(const std::string& shown) {
        crs.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
        OGRSpatialReference wgs84;
        wgs84.SetWellKnownGeogCS("WGS84");
        wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
        to_degrees.reset(OGRCreateCoordinateTransformation(&crs, &wgs84));
        if (!to_degrees) refuse(shown, "its coordinate system is not understood", "Name another");
    }
    geo::LonLat degrees(double column, double row) {
        double x = place[0] + column * place[1] + row * place[2], y = place[3] + column * place[4] + row * place[5];
        const std::lock_guard lock(mutex);
        if (!to_degrees->Transform(1, &x, &y)) return {0, 0};
        return {x, y};
    }
};

SurfaceFrame::SurfaceFrame(std::unique_ptr<State> state) : state_(std::move(state)) {}
SurfaceFrame::~SurfaceFrame() = default;
SurfaceFrame::SurfaceFrame(SurfaceFrame&&) noexcept = default;
SurfaceFrame& SurfaceFrame::operator=(SurfaceFrame&&) noexcept = default;

SurfaceFrame SurfaceFrame::around(const service::Ready& ready, const std::optional<geo::Box>& box, double cell_metres,
                                  const std::string& crs) {
    prepare_gdal();
    if (!(cell_metres > 0)) refuse("", "a cell of nothing has no value", "Give the width of a cell, such as 25m");
    auto state = std::make_unique<State>();
    const auto& extent = ready.inputs.network->extent();
    geo::Box wanted = box ? *box : extent;
    if (!box) {
        const auto rim = geo::LocalFrame(extent.centre()).box_around(ready.ground->limit().metres());
        const double lon = (rim.east - rim.west) / 2, lat = (rim.north - rim.south) / 2;
        wanted = {extent.west - lon, std::max(-90.0, extent.south - lat), extent.east + lon,
                  std::min(90.0, extent.north + lat)};
    }
    state->crs.importFromEPSG(crs.empty() ? fitting_epsg(extent.centre()) : parse_epsg(crs));
    const char* const code = state->crs.GetAuthorityCode(nullptr);
    state->name = code != nullptr ? fmt::format("EPSG:{}", code) : state->crs.GetName();
    state->prepare("");
    const std::unique_ptr<OGRCoordinateTransformation> forward(state->to_degrees->GetInverse());
    double west = 1e300, south = 1e300, east = -1e300, north = -1e300;
    constexpr int kSteps = 16;
    for (int i = 0; i <= kSteps; ++i)
        for (int j = 0; j <= kSteps; ++j) {
            if (i != 0 && i != kSteps && j != 0 && j != kSteps) continue;
            double x = wanted.west + (wanted.east - wanted.west) * i / kSteps;
            double y = wanted.south + (wanted.north - wanted.south) * j / kSteps;
            if (!forward || !forward->Transform(1, &x, &y))
                refuse("", fmt::format("{} does not reach the roads", state->name), "Name another coordinate system");
            west = std::min(west, x);
            east = std::max(east, x);
            south = std::min(south, y);
            north = std::max(north, y);
        }
    state->cell = state->crs.IsGeographic() ? cell_metres / 111'320.0 : cell_metres / state->crs.GetLinearUnits();
    west = std::floor(west / state->cell) * state->cell;
    north = std::ceil(north / state->cell) * state->cell;
    const double columns = std::ceil((east - west) / state->cell), rows = std::ceil((north - south) / state->cell);
    if (columns * rows > static_cast<double>(service::kMostCells) || columns > 1e6 || rows > 1e6)
        refuse("",
               fmt::format("cells of {} make {:.0f} x {:.0f}, {:.3g} in all; at most {} can be held",
                           describe(Millimetres::from_metres(cell_metres)), columns, rows, columns * rows,
                           said_whole(static_cast<std::int64_t>(service::kMostCells))),
               "Choose larger cells or a smaller extent");
    state->columns = static_cast<std::uint32_t>(std::max(1.0, columns));
    state->rows = static_cast<std::uint32_t>(std::max(1.0, rows));
    state->place = {west, state->cell, 0, north, 0, -state->cell};
    return SurfaceFrame(std::move(state));
}

SurfaceFrame SurfaceFrame::of_file(const std::string& path) {
    const RasterPtr in = open_raster(path);
    auto state = std::make_unique<State>();
    if (in->GetGeoTransform(state->place.data()) != CE_None || in->GetSpatialRef() == nullptr)
        refuse(path, "it does not say where on the globe it is", "Name a surface written before");
    state->crs = *in->GetSpatialRef();
    state->columns = static_cast<std::uint32_t>(in->GetRasterXSize());
    state->rows = static_cast<std::uint32_t>(in->GetRasterYSize());
    state->cell = state->place[1];
    const char* const code = state->crs.GetAuthorityCode(nullptr);
    state->name = code != nullptr ? fmt::format("EPSG:{}", code) : state->crs.GetName();
    state->prepare(path);
    return SurfaceFrame(std::move(state));
}

service::SurfaceGrid SurfaceFrame::grid() const {
    return {state_->columns, state_->rows,
            [state = state_.get()](double column, double row) { return state->degrees(column + 0.5, row + 0.5); }};
}

std::string SurfaceFrame::described() const {
    const auto cells = static_cast<double>(grid().cells());
    constexpr double kCellsASecond = 4e6;
    const double cell_metres =
        state_->crs.IsGeographic() ? state_->cell * 111'320 : state_->cell * state_->crs.GetLinearUnits();
    return fmt::format("{} x {} cells of {} in {}: {} cells, {} MB, about {} s", said_whole(state_->columns),
                       said_whole(state_->rows), describe(Millimetres::from_metres(cell_metres)), state_->name,
                       said_whole(static_cast<std::int64_t>(cells)), said(cells * 4 / 1e6, 1),
                       said_whole(static_cast<std::int64_t>(std::ceil(cells / kCellsASecond)) + 1));
}

void write_surface(const service::SiteValues& values, service::ValueOf measure, const SurfaceFrame& frame,
                   const std::string& path, const std::optional<std::string>& minus, const std::string& description,
                   const Task& task) {
    const auto& state = *frame.state_;
    RasterPtr other;
    float none_there = std::numeric_limits<float>::quiet_NaN();
    if (minus) {
        other = open_raster(*minus);
        std::array<double, 6> there{};
        other->GetGeoTransform(there.data());
        const bool same_crs = other->GetSpatialRef() != nullptr && other->GetSpatialRef()->IsSame(&state.crs) != 0;
        if (!same_crs || there != state.place || other->GetRasterXSize() != static_cast<int>(state.columns) ||
            other->GetRasterYSize() != static_cast<int>(state.rows))
            refuse(*minus, "its cells are not those of this surface",
                   "Use the same cells, extent and coordinate system");
        int has = 0;
        const double none = other->GetRasterBand(1)->GetNoDataValue(&has);
        if (has != 0) none_there = static_cast<float>(none);
    }
    write_atomically(path, [&](const std::string& temporary) {
        const Complaints complaints;
        const auto refused = [&] {
            refuse(path,
                   fmt::format("it cannot be written ({})",
                               complaints.first().empty() ? "the disk refused" : complaints.first()),
                   "Choose another folder, or make room on the disk; what was there is unchanged");
        };
        // Rows as they come, and from them the file with its overviews.
        const std::string rows_file = temporary + ".rows.tif";
        auto* const plain = GetGDALDriverManager()->GetDriverByName("GTiff");
        const char* options[] = {"TILED=YES", "BIGTIFF=IF_SAFER", nullptr};
        RasterPtr out(plain->Create(rows_file.c_str(), static_cast<int>(state.columns), static_cast<int>(state.rows), 1,
                                    GDT_Float32, const_cast<char**>(options)));
        if (!out) refused();
        auto place = state.place;
        out->SetGeoTransform(place.data());
        out->SetSpatialRef(&state.crs);
        out->SetMetadataItem("TIFFTAG_IMAGEDESCRIPTION", description.c_str());
        auto* const band = out->GetRasterBand(1);
        band->SetNoDataValue(static_cast<double>(kNoDataInFile));
        band->SetDescription(measure == service::ValueOf::time ? "minutes" : "metres");
        band->SetUnitType(measure == service::ValueOf::time ? "min" : "m");
        surface(
            values, measure, frame.grid(),
            [&](std::uint32_t first, std::uint32_t rows, const std::vector<float>& cells) {
                std::vector<float> line = cells;
                if (other) {
                    std::vector<float> there(cells.size());
                    if (other->GetRasterBand(1)->RasterIO(GF_Read, 0, static_cast<int>(first),
                                                          static_cast<int>(state.columns), static_cast<int>(rows),
                                                          there.data(), static_cast<int>(state.columns),
                                                          static_cast<int>(rows), GDT_Float32, 0, 0) != CE_None)
                        refuse(*minus, "it cannot be read to the end", "Write it again");
                    for (std::size_t i = 0; i < line.size(); ++i)
                        line[i] = there[i] == none_there ? service::kNoValue : line[i] - there[i];
                }
                for (float& v : line)
                    if (std::isnan(v)) v = kNoDataInFile;
                if (band->RasterIO(GF_Write, 0, static_cast<int>(first), static_cast<int>(state.columns),
                                   static_cast<int>(rows), line.data(), static_cast<int>(state.columns),
                                   static_cast<int>(rows), GDT_Float32, 0, 0) != CE_None)
                    refused();
            },
            task);
        out->FlushCache(true);
        task.at("writing the surface", 0.95);
        auto* const optimised = GetGDALDriverManager()->GetDriverByName("COG");
        const char* how[] = {"COMPRESS=DEFLATE", "OVERVIEW_RESAMPLING=NEAREST", "BIGTIFF=IF_SAFER", nullptr};
        RasterPtr cog(optimised->CreateCopy(
            temporary.c_str(), out.get(), TRUE, const_cast<char**>(how),
            [](double, const char*, void* asked) { return static_cast<const Task*>(asked)->stop_requested() ? 0 : 1; },
            const_cast<Task*>(&task)));
        task.check();
        if (!cog) refused();
        cog.reset();
        out.reset();
        std::filesystem::remove(rows_file);
        if (!complaints.first().empty()) refused();
    });
}

}  // namespace otoro::files
