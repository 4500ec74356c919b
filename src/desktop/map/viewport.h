#pragma once
/// \file
/// Which part of the world a picture shows.
#include <QPointF>
#include <QRectF>
#include <QSizeF>

#include "geo/local_frame.h"
#include "geo/position.h"

namespace otoro::desktop {

/// The map's flat world: metres east and *south* of an origin, so that y runs down as on the screen. One scale for the
/// whole study.
class FlatWorld {
public:
    FlatWorld() = default;
    explicit FlatWorld(geo::LonLat origin) : origin_(origin), scale_(geo::MetresPerDegree::at_latitude(origin.lat)) {}
    [[nodiscard]] QPointF flat(geo::LonLat p) const {
        const geo::LonLat q = geo::near_to(p, origin_);
        return {(q.lon - origin_.lon) * scale_.east, (origin_.lat - q.lat) * scale_.north};
    }
    /// The same with its longitude counted on across the 180th meridian, as those of roads and of indexes are.
    [[nodiscard]] geo::LonLat counted_on(QPointF p) const {
        return {origin_.lon + p.x() / scale_.east, origin_.lat - p.y() / scale_.north};
    }
    [[nodiscard]] geo::LonLat near(geo::LonLat p) const { return geo::near_to(p, origin_); }
    [[nodiscard]] geo::LonLat place(QPointF p) const {
        return geo::normalised({origin_.lon + p.x() / scale_.east, origin_.lat - p.y() / scale_.north});
    }

    bool operator==(const FlatWorld& o) const { return origin_ == o.origin_; }

private:
    geo::LonLat origin_{0, 0};
    geo::MetresPerDegree scale_ = geo::MetresPerDegree::at_latitude(0);
};

/// Centre and scale of a picture in device-independent pixels.
struct Viewport {
    QPointF centre;  ///< flat world metres
    double pixels_per_metre = 0.05;
    QSizeF size{100, 100};

    [[nodiscard]] QPointF to_screen(QPointF world) const {
        return {(world.x() - centre.x()) * pixels_per_metre + size.width() / 2,
                (world.y() - centre.y()) * pixels_per_metre + size.height() / 2};
    }
    [[nodiscard]] QPointF to_world(QPointF screen) const {
        return {(screen.x() - size.width() / 2) / pixels_per_metre + centre.x(),
                (screen.y() - size.height() / 2) / pixels_per_metre + centre.y()};
    }
    [[nodiscard]] QRectF world_rect() const {
        return QRectF(to_world({0, 0}), to_world({size.width(), size.height()}));
    }
    /// The same scale over a larger picture with the same centre.
    [[nodiscard]] Viewport widened(double factor) const { return {centre, pixels_per_metre, size * factor}; }
    bool operator==(const Viewport&) const = default;
};

}  // namespace otoro::desktop
