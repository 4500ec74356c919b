#pragma once
/// \file
/// Draws the answer on paper: the same drawing for the screen, a PNG and an SVG.
#include <QPainter>
#include <functional>
#include <memory>
#include <optional>
#include <set>

#include "desktop/map/looks/map_look.h"
#include "desktop/map/map_scene.h"
#include "desktop/models/answerer.h"
#include "roads/closure.h"
#include "service/outcome.h"

namespace otoro::desktop {

/// What the legend can switch off.
enum class Layer : std::uint8_t { roads, zones, within, beyond, unserved, sites, labels, lines };

struct MapStyle {
    const MapLook* look = &time_look();
    std::set<Layer> hidden{Layer::lines};
    Amount limit = Millis::minutes(8);  ///< where the ramp turns
    /// For the look that shows it; null: not worked out.
    std::shared_ptr<const service::FloatingCatchment> access;
    PlanAnswerPtr base;  ///< for looks that compare: what the answer is held against; null: nothing
    ReachStyle reach;
    bool stale = false;                 ///< the answer is out of date: a veil lies over the ground
    std::vector<std::uint32_t> picked;  ///< demand places that stand out, ascending
    std::optional<SiteIndex> picked_site;
    [[nodiscard]] bool shows(Layer l) const { return !hidden.contains(l); }
};

/// Roads and demand places: everything that does not follow the mouse. Slow enough to be done off the interface thread.
/// Of dots that would cover one another one stands for all, which nine in ten of them are no worse than.
void paint_ground(QPainter& painter, const Viewport& view, const MapScene& scene, const PlanAnswer* answer,
                  const MapStyle& style);

/// Whether two answers over the same scene make the same ground in a look: much quicker than painting it.
bool same_picture(const Viewport& view, const MapScene& scene, const MapLook& look, const PlanAnswer& a,
                  const PlanAnswer& b);

/// A veil over an answer that is out of date. Drawn live.
void paint_veil(QPainter& painter, const Viewport& view);

/// How far the mark of a place reaches at most, over its radius.
inline constexpr double kWidestMark = 1.25;
/// The mark of one place: a dot, or another form as heavy as one of this radius.
void paint_place_mark(QPainter& painter, QPointF at, double radius, const QColor& colour, PlaceMark mark);

/// Rings around the demand places that are picked. Drawn live.
void paint_picked(QPainter& painter, const Viewport& view, const MapScene& scene,
                  const std::vector<std::uint32_t>& picked);

/// The names of zones that have room for them. Drawn live.
void paint_zone_names(QPainter& painter, const Viewport& view, const MapScene& scene);

/// Sites with their names. Few and quick: drawn live.
void paint_sites(QPainter& painter, const Viewport& view, const FlatWorld& world,
                 const std::vector<service::SiteOutcome>& sites, const MapStyle& style);

/// Closures of the plan shown: a band across a point, along a line, or hatching over an area; broken where roads are
/// slowed or delayed rather than shut.
void paint_closures(QPainter& painter, const Viewport& view, const FlatWorld& world,
                    const std::vector<roads::Closure>& closures);

/// A route with its casing.
void paint_route(QPainter& painter, const Viewport& view, const FlatWorld& world,
                 const std::vector<geo::LonLat>& route);

/// A scale bar of a round length in the bottom left corner.
void paint_scale_bar(QPainter& painter, const Viewport& view);

/// A picture that is painted often, made once for its key; painted as it is where the device keeps vectors, and off the
/// interface thread, where pictures cannot be kept. \param extent of the picture around `at`
void stamp(QPainter& painter, const QString& key, QPointF at, const QRectF& extent,
           const std::function<void(QPainter&)>& draw);

/// The mark of a site, a hexagon: filled with a hole if in use, hollow if a candidate, with a bar across if closed.
/// Told apart at 8 pixels and in grey.
void paint_site_mark(QPainter& painter, QPointF at, double radius, places::SiteState state, bool in_use,
                     const QColor& colour);

/// The mark of a site that says its load: a hexagon as large as the load, filled from below as far as its capacity is;
/// hatched where it states none, and in the colour of trouble where it is full.
void paint_site_gauge(QPainter& painter, QPointF at, const SiteGauge& gauge, places::SiteState state);
/// In pixels; areas are in proportion to loads, but for the smallest.
double gauge_radius(double size);

/// The mark of a demand place that is not served; a shape of its own for each status.
void paint_unserved_mark(QPainter& painter, QPointF at, double radius, service::Status status);

}  // namespace otoro::desktop
