#pragma once
/// \file
/// An elevation model to walk up.
#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include <array>
#include <catch2/catch.hpp>
#include <memory>
#include <string>

#include "files/open_file.h"

namespace otoro::test {

/// Ten by ten cells of a hundredth of a degree around -9.5, 46.2: ten metres up a cell eastwards. \returns its path
inline std::string write_hill(const std::string& path) {
    files::prepare_gdal();
    constexpr int kCells = 10;
    auto* d = GetGDALDriverManager()->GetDriverByName("GTiff");
    const std::unique_ptr<GDALDataset> out(d->Create(path.c_str(), kCells, kCells, 1, GDT_Float32, nullptr));
    double where[6] = {-9.55, 0.01, 0, 46.25, 0, -0.01};
    REQUIRE(out->SetGeoTransform(where) == CE_None);
    OGRSpatialReference wgs84;
    wgs84.SetWellKnownGeogCS("WGS84");
    out->SetSpatialRef(&wgs84);
    std::array<float, kCells * kCells> cells{};
    for (std::size_t i = 0; i < cells.size(); ++i) cells[i] = static_cast<float>(10 * (i % kCells));
    REQUIRE(out->GetRasterBand(1)->RasterIO(GF_Write, 0, 0, kCells, kCells, cells.data(), kCells, kCells, GDT_Float32,
                                            0, 0) == CE_None);
    return path;
}

}  // namespace otoro::test
