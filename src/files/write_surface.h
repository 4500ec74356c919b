#pragma once
/// \file
/// A surface as a cloud-optimised GeoTIFF.
///
/// Cells are real numbers in minutes or metres; -9999 stands where there is none, and says so in the file. The
/// coordinate system is the UTM zone of the middle (beyond 84 degrees north and 80 south the polar one) unless another
/// is named; it must be a projected one in metres, or degrees. Overviews repeat cells and interpolate nothing.
#include <array>
#include <memory>
#include <optional>
#include <string>

#include "service/surface.h"

namespace otoro::files {

inline constexpr float kNoDataInFile = -9999.0F;

/// Where the cells of a file are.
class SurfaceFrame {
public:
    /// Cells of so many metres over all ground near roads, or over a box. \param crs an EPSG code such as EPSG:3035;
    /// empty: fit for the place \throws InputError if there would be none, or more than can be held
    static SurfaceFrame around(const service::Ready& ready, const std::optional<geo::Box>& box, double cell_metres,
                               const std::string& crs);
    /// The cells of a GeoTIFF that is there. \throws InputError
    static SurfaceFrame of_file(const std::string& path);
    ~SurfaceFrame();
    SurfaceFrame(SurfaceFrame&&) noexcept;
    SurfaceFrame& operator=(SurfaceFrame&&) noexcept;

    [[nodiscard]] service::SurfaceGrid grid() const;
    /// "1,200 x 900 cells of 25 m in EPSG:32630: 1,080,000 cells, 4.3 MB, about 2 s".
    [[nodiscard]] std::string described() const;

private:
    friend void write_surface(const service::SiteValues&, service::ValueOf, const SurfaceFrame&, const std::string&,
                              const std::optional<std::string>&, const std::string&, const Task&);
    struct State;
    explicit SurfaceFrame(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

/// \param minus a GeoTIFF with the same cells, whose values are taken off \param description kept in the file. Atomic.
/// \throws InputError if it cannot be written, or the cells differ; Stopped
void write_surface(const service::SiteValues& values, service::ValueOf measure, const SurfaceFrame& frame,
                   const std::string& path, const std::optional<std::string>& minus, const std::string& description,
                   const Task& task);

}  // namespace otoro::files
