#include "desktop/map/map_scene.h"

namespace otoro::desktop {
namespace {

RoadWeight weight_of(const roads::Attributes& a) {
    using roads::RoadClass;
    switch (a.road_class) {
        case RoadClass::motorway:
        case RoadClass::trunk:
        case RoadClass::primary: return RoadWeight::major;
        case RoadClass::secondary:
        case RoadClass::tertiary: return RoadWeight::middle;
        case RoadClass::ferry: return RoadWeight::ferry;
        case RoadClass::footway:
        case RoadClass::path:
        case RoadClass::steps:
        case RoadClass::track:
        case RoadClass::cycleway:
        case RoadClass::bridleway:
        case RoadClass::corridor: return RoadWeight::path;
        default: return RoadWeight::minor;
    }
}

}  // namespace

std::shared_ptr<const MapScene> MapScene::make(std::shared_ptr<const roads::Network> network, std::shared_ptr<const places::DemandSet> demand,
                                                std::shared_ptr<const std::vector<geo::Area>> water) {
    auto scene = std::make_shared<MapScene>();
    geo::Box extent;
    if (network) extent.add(network->extent());
    if (!network && demand)
        for (const auto& p : demand->places)
            if (p.position) extent.add(*p.position);
    if (extent.empty()) extent.add(geo::LonLat{0, 0});
    scene->world_ = FlatWorld(extent.centre());
    scene->extent_ = QRectF(scene->world_.flat({extent.west, extent.north}), scene->world_.flat({extent.east, extent.south}));

    if (network) {
        scene->weights_.resize(network->link_count());
        for (std::uint32_t i = 0; i < network->link_count(); ++i) scene->weights_[i] = weight_of(network->attributes(LinkId(i)));
    }
    if (demand) {
        scene->places_.resize(demand->count());
        for (std::uint32_t i = 0; i < demand->count(); ++i)
            if (demand->places[i].position) scene->places_[i] = scene->world_.flat(*demand->places[i].position);
        scene->place_index_ = std::make_unique<geo::BoxIndex>(demand->count(), [&](std::uint32_t i) {
            geo::Box b;
            if (demand->places[i].position) b.add(*demand->places[i].position);
            return b;
        });
    }
    scene->water_ = std::move(water);
    scene->network_ = std::move(network);
    scene->demand_ = std::move(demand);
    return scene;
}

namespace {
geo::Box box_of(const FlatWorld& world, const QRectF& area) {
    geo::Box b;
    b.add(world.place(area.topLeft()));
    b.add(world.place(area.bottomRight()));
    return b;
}
}  // namespace

void MapScene::links_in(const QRectF& area, std::vector<std::uint32_t>& found) const {
    found.clear();
    if (network_) network_->links_touching(box_of(world_, area), found);
}

void MapScene::places_in(const QRectF& area, std::vector<std::uint32_t>& found) const {
    found.clear();
    if (place_index_) place_index_->touching(box_of(world_, area), found);
}

}  // namespace otoro::desktop
