#include "desktop/map/map_scene.h"

#include <QPolygonF>
#include <algorithm>
#include <cmath>

namespace otoro::desktop {
namespace {

RoadWeight weight_of(const roads::Attributes& a) {
    using roads::RoadClass;
    switch (a.road_class) {
        case RoadClass::motorway:
        case RoadClass::trunk:
        case RoadClass::primary:
            return RoadWeight::major;
        case RoadClass::secondary:
        case RoadClass::tertiary:
            return RoadWeight::middle;
        case RoadClass::ferry:
            return RoadWeight::ferry;
        case RoadClass::footway:
        case RoadClass::path:
        case RoadClass::steps:
        case RoadClass::track:
        case RoadClass::cycleway:
        case RoadClass::bridleway:
        case RoadClass::corridor:
            return RoadWeight::path;
        default:
            return RoadWeight::minor;
    }
}

/// The middle of the widest stretch of an area along its box's middle from west to east.
QPointF label_point(const geo::Area& area, const FlatWorld& world, const QRectF& box) {
    const double y = box.center().y();
    std::vector<double> crossings;
    for (const auto& ring : area.rings)
        for (std::size_t i = 0, j = ring.size() - 1; i < ring.size(); j = i++) {
            const QPointF a = world.flat(ring[i]), b = world.flat(ring[j]);
            if ((a.y() > y) != (b.y() > y))
                crossings.push_back(a.x() + (b.x() - a.x()) * (y - a.y()) / (b.y() - a.y()));
        }
    std::sort(crossings.begin(), crossings.end());
    QPointF best = box.center();
    double widest = 0;
    for (std::size_t i = 0; i + 1 < crossings.size(); i += 2)
        if (crossings[i + 1] - crossings[i] > widest) {
            widest = crossings[i + 1] - crossings[i];
            best = {(crossings[i] + crossings[i + 1]) / 2, y};
        }
    return best;
}

QRectF flat_box(const geo::Area& area, const FlatWorld& world) {
    QPolygonF all;
    for (const auto& ring : area.rings)
        for (const auto& p : ring) all.append(world.flat(p));
    return all.boundingRect();
}

}  // namespace

std::shared_ptr<const MapScene> MapScene::make(std::shared_ptr<const roads::Network> network,
                                               const places::Demand& demand,
                                               std::shared_ptr<const std::vector<geo::Area>> water,
                                               std::shared_ptr<const places::ZoneSet> zones) {
    auto scene = std::make_shared<MapScene>();
    geo::Box extent;
    if (network) extent.add(network->extent());
    if (!network)
        for (const auto& position : places::positions(demand))
            if (position) extent.add(*position);
    if (extent.empty()) extent.add(geo::LonLat{0, 0});
    scene->world_ = FlatWorld(extent.centre());
    scene->extent_ =
        QRectF(scene->world_.flat({extent.west, extent.north}), scene->world_.flat({extent.east, extent.south}));

    if (network) {
        scene->weights_.resize(network->link_count());
        for (std::uint32_t i = 0; i < network->link_count(); ++i) {
            scene->weights_[i] = weight_of(network->attributes(LinkId(i)));
            const auto w = scene->weights_[i];
            if (w == RoadWeight::major || w == RoadWeight::middle || w == RoadWeight::ferry)
                scene->main_links_.push_back(i);
        }
        // Minor roads from where a window full of them is still a few ten thousand, not a grey sheet.
        constexpr double kWindow = 1280.0 * 800, kRoadsInIt = 40'000, kAlways = 0.012;
        const double area = std::max(1.0, scene->extent_.width() * scene->extent_.height());
        scene->minor_from_ = std::max(kAlways, std::sqrt(kWindow / area * network->link_count() / kRoadsInIt));
        scene->paths_from_ = std::max(0.02, scene->minor_from_);
        scene->main_index_ = std::make_unique<geo::BoxIndex>(
            static_cast<std::uint32_t>(scene->main_links_.size()), [&](std::uint32_t i) {
                geo::Box b;
                for (const auto& p : network->shape(LinkId(scene->main_links_[i]))) b.add(p);
                return b;
            });
    }
    if (const auto positions = places::positions(demand); !positions.empty()) {
        scene->places_.resize(positions.size());
        for (std::size_t i = 0; i < positions.size(); ++i)
            if (positions[i]) scene->places_[i] = scene->world_.flat(*positions[i]);
        scene->place_index_ = std::make_unique<geo::BoxIndex>(demand.count(), [&](std::uint32_t i) {
            geo::Box b;
            if (positions[i]) b.add(scene->world_.near(*positions[i]));
            return b;
        });
    }
    if (zones)
        for (const auto& zone : zones->zones) {
            scene->zone_boxes_.push_back(flat_box(zone.area, scene->world_));
            scene->zone_labels_.push_back(label_point(zone.area, scene->world_, scene->zone_boxes_.back()));
        }
    scene->zones_ = std::move(zones);
    scene->water_ = std::move(water);
    scene->network_ = std::move(network);
    scene->demand_ = demand;
    return scene;
}

namespace {
geo::Box box_of(const FlatWorld& world, const QRectF& area) {
    geo::Box b;
    b.add(world.counted_on(area.topLeft()));
    b.add(world.counted_on(area.bottomRight()));
    return b;
}
}  // namespace

void MapScene::links_in(const QRectF& area, std::vector<std::uint32_t>& found) const {
    found.clear();
    if (network_) network_->links_touching(box_of(world_, area), found);
}

void MapScene::links_in(const QRectF& area, double pixels_per_metre, std::vector<std::uint32_t>& found) const {
    found.clear();
    if (!network_) return;
    if (pixels_per_metre < minor_from_) {
        main_index_->touching(box_of(world_, area), found);
        for (auto& i : found) i = main_links_[i];
        return;
    }
    network_->links_touching(box_of(world_, area), found);
    if (pixels_per_metre < paths_from_)
        std::erase_if(found, [&](std::uint32_t i) { return weights_[i] == RoadWeight::path; });
}

void MapScene::places_in(const QRectF& area, std::vector<std::uint32_t>& found) const {
    found.clear();
    if (place_index_) place_index_->touching(box_of(world_, area), found);
}

}  // namespace otoro::desktop
