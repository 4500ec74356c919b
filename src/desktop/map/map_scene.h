#pragma once
/// \file
/// What there is to draw, in flat metres, made once when roads or places change and shared with the drawing thread.
#include <QPointF>
#include <QRectF>
#include <memory>
#include <vector>

#include "desktop/map/viewport.h"
#include "geo/area.h"
#include "geo/box_index.h"
#include "places/joined.h"
#include "places/zones.h"
#include "roads/network.h"

namespace otoro::desktop {

/// How much a road stands out.
enum class RoadWeight : std::uint8_t { path, minor, middle, major, ferry };

class MapScene {
public:
    /// Any of them may be missing.
    static std::shared_ptr<const MapScene> make(std::shared_ptr<const roads::Network> network,
                                                const places::Demand& demand,
                                                std::shared_ptr<const std::vector<geo::Area>> water,
                                                std::shared_ptr<const places::ZoneSet> zones = nullptr);

    [[nodiscard]] const FlatWorld& world() const { return world_; }
    [[nodiscard]] QRectF extent() const { return extent_; }
    [[nodiscard]] const roads::Network* network() const { return network_.get(); }
    [[nodiscard]] const places::Demand& demand() const { return demand_; }
    [[nodiscard]] const std::vector<geo::Area>* water() const { return water_.get(); }
    [[nodiscard]] const places::ZoneSet* zones() const { return zones_.get(); }
    /// Where a zone's name stands: in the middle of its widest stretch from west to east, half way down.
    [[nodiscard]] QPointF zone_label(std::uint32_t zone) const { return zone_labels_[zone]; }
    /// The flat box of a zone.
    [[nodiscard]] QRectF zone_box(std::uint32_t zone) const { return zone_boxes_[zone]; }
    [[nodiscard]] RoadWeight weight(std::uint32_t link) const { return weights_[link]; }
    /// Where a demand place is drawn. \pre it has a position
    [[nodiscard]] QPointF place(std::uint32_t demand) const { return places_[demand]; }
    [[nodiscard]] bool has_place(std::uint32_t demand) const { return demand_.at(demand).position.has_value(); }
    /// Numbers of links that touch a rectangle of the world and are worth drawing at this scale; cleared first. Of a
    /// county seen whole these are its main roads, which have an index of their own.
    void links_in(const QRectF& area, double pixels_per_metre, std::vector<std::uint32_t>& found) const;
    /// All that touch it.
    void links_in(const QRectF& area, std::vector<std::uint32_t>& found) const;
    /// Numbers of demand places in a rectangle of the world; cleared first.
    void places_in(const QRectF& area, std::vector<std::uint32_t>& found) const;

private:
    FlatWorld world_;
    QRectF extent_;
    std::shared_ptr<const roads::Network> network_;
    places::Demand demand_;
    std::shared_ptr<const std::vector<geo::Area>> water_;
    std::shared_ptr<const places::ZoneSet> zones_;
    std::vector<QPointF> zone_labels_;
    std::vector<QRectF> zone_boxes_;
    std::vector<RoadWeight> weights_;
    std::vector<QPointF> places_;
    std::unique_ptr<geo::BoxIndex> place_index_;
    double minor_from_ = 0, paths_from_ = 0;  ///< px a metre from which these roads are drawn
    std::vector<std::uint32_t> main_links_;
    std::unique_ptr<geo::BoxIndex> main_index_;
};

}  // namespace otoro::desktop
