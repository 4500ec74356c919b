#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <numeric>
#include <string_view>
#include <unordered_map>

#include "geo/edge_index.h"
#include "geo/ellipsoid.h"
#include "geo/local_frame.h"
#include "geo/wording.h"
#include "service/telling.h"

namespace otoro::service {
namespace {

constexpr Millimetres kFarFromRoads = Millimetres::metres(100);  // an off-road leg worth a look
constexpr std::size_t kStack = 5;                                // places on one point
constexpr double kOutsideMargin = 0.05;                          // degrees round the roads' extent

geo::Box widened(geo::Box b) {
    return {b.west - kOutsideMargin, b.south - kOutsideMargin, b.east + kOutsideMargin, b.north + kOutsideMargin};
}

/// The nearest usable road however far, up to some kilometres.
std::optional<places::Attachment> nearest_anyway(const Checked& c, geo::LonLat p) {
    std::vector<bool> usable(c.roads.piece_of_link.size());
    for (std::uint32_t i = 0; i < usable.size(); ++i) usable[i] = c.roads.piece_of_link[i] != roads::kNoPiece;
    return places::attach(*c.network, usable, p, Millimetres::metres(5000));
}

}  // namespace

/// Places that lie outside the roads' extent: turned round they may lie inside, else the coordinate system may be
/// wrong, else they are just outside.
void tell_outside(std::vector<Finding>& out, const View& v, const Checked& c) {
    const geo::Box box = widened(c.network->extent());
    std::vector<std::uint32_t> swapped, outside;
    std::uint32_t located = 0;
    for (std::uint32_t i = 0; i < v.count(); ++i) {
        const auto& p = v.position(i);
        if (!p) continue;
        ++located;
        if (box.contains(c.network->near(*p))) continue;
        const geo::LonLat turned{p->lat, p->lon};
        (on_the_globe(turned) && box.contains(c.network->near(turned)) ? swapped : outside).push_back(i);
    }
    if (!swapped.empty()) {
        auto f = of_places(
            FindingKind::swapped_axes, v, swapped,
            fmt::format("{} of the {} {} latitude and longitude the wrong way round",
                        plural(swapped.size(), "place", "places"), v.name, swapped.size() == 1 ? "has" : "have"),
            [&](std::uint32_t i) {
                return fmt::format("{:.5f}, {:.5f} lies among the roads when turned", v.position(i)->lon,
                                   v.position(i)->lat);
            });
        f.fix = SwapAxes{v.set_name(), swapped};
        f.fix_label = swapped.size() == 1 ? "Turn it" : fmt::format("Turn all {}", swapped.size());
        out.push_back(std::move(f));
    }
    if (outside.empty()) return;
    const bool nearly_all = outside.size() * 5 >= std::size_t{located} * 4;
    const auto where = [&](std::uint32_t i) {
        return fmt::format("at {:.5f}, {:.5f}", v.position(i)->lon, v.position(i)->lat);
    };
    auto f =
        nearly_all
            ? of_places(
                  FindingKind::wrong_crs, v, outside,
                  fmt::format("The {} lie nowhere near the roads: their coordinate system is probably not the one they "
                              "were read with",
                              v.name),
                  where)
            : of_places(
                  FindingKind::outside, v, outside,
                  fmt::format("{} of the {} {} outside the roads\u2019 extent",
                              plural(outside.size(), "place", "places"), v.name, outside.size() == 1 ? "lies" : "lie"),
                  where);
    out.push_back(std::move(f));
}

/// Places of which something holds about how they are attached; nearly always none.
struct AttachedBadly {
    std::vector<std::uint32_t> not_near, cut_off, trapped, motorway, far;
};

AttachedBadly attached_badly(const View& v, const Checked& c) {
    const geo::Box box = widened(c.network->extent());
    // Worked out on all threads.
    enum Holds : std::uint8_t { kNotNear = 1, kCutOff = 2, kTrapped = 4, kMotorway = 8, kFarOff = 16 };
    std::vector<std::uint8_t> holds(v.count(), 0);
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, v.count(), 4096), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i) {
            if (!v.position(i) || !box.contains(c.network->near(*v.position(i)))) continue;
            const auto& a = (*v.attached)[i];
            if (!a) {
                holds[i] = kNotNear;
                continue;
            }
            unsigned h = 0;
            if (c.piece(a->link) != c.main)
                h |= kCutOff;
            else if (!c.both_ways[a->link.value()])
                h |= kTrapped;
            if (c.network->attributes(a->link).road_class == roads::RoadClass::motorway) h |= kMotorway;
            if (a->off_road > kFarFromRoads && !v.attaching->by_hand.contains(i)) h |= kFarOff;
            holds[i] = static_cast<std::uint8_t>(h);
        }
    });
    AttachedBadly out;
    for (std::uint32_t i = 0; i < holds.size(); ++i) {
        if (holds[i] == 0) continue;
        for (const auto& [flag, list] :
             {std::pair{kNotNear, &out.not_near}, std::pair{kCutOff, &out.cut_off}, std::pair{kTrapped, &out.trapped},
              std::pair{kMotorway, &out.motorway}, std::pair{kFarOff, &out.far}})
            if ((holds[i] & flag) != 0) list->push_back(i);
    }
    return out;
}

/// "3 places of the households".
std::string some(const std::vector<std::uint32_t>& which, const View& v) {
    return fmt::format("{} of the {}", plural(which.size(), "place", "places"), v.name);
}

Finding no_road_near(const std::vector<std::uint32_t>& not_near, Millimetres limit, const View& v, const Checked& c) {
    AttachAnyway anyway{v.set_name(), {}};
    std::map<std::uint32_t, double> metres;
    const bool few = not_near.size() <= 200;
    for (const std::uint32_t i : not_near)
        if (const auto a = few ? nearest_anyway(c, *v.position(i)) : std::nullopt) {
            anyway.at[i] = a->at;
            metres[i] = a->off_road.metres();
        }
    auto f = of_places(FindingKind::no_road_near, v, not_near,
                       fmt::format("{} {} no road within {} that this traveller may use", some(not_near, v),
                                   not_near.size() == 1 ? "has" : "have", describe(limit)),
                       [&](std::uint32_t i) {
                           return metres.contains(i) ? fmt::format("the nearest is {} m off", said(metres[i], 0))
                                                     : std::string("no road near");
                       });
    for (auto& item : f.items)
        if (item.place && anyway.at.contains(*item.place))
            item.fix = AttachAnyway{v.set_name(), {{*item.place, anyway.at[*item.place]}}};
    if (!anyway.at.empty()) {
        f.fix = anyway;
        f.fix_label = "Attach to the nearest road";
    }
    return f;
}

Finding on_motorway(const std::vector<std::uint32_t>& motorway, const View& v, const Checked& c) {
    auto f =
        of_places(FindingKind::on_motorway, v, motorway,
                  fmt::format("{} {} attached to a motorway", some(motorway, v), motorway.size() == 1 ? "is" : "are"),
                  [&](std::uint32_t i) {
                      return fmt::format("{:.0f} m off {}", (*v.attached)[i]->off_road.metres(),
                                         c.network->name((*v.attached)[i]->link));
                  });
    auto rule = v.attaching->rule;
    rule.classes &= ~(1U << static_cast<unsigned>(roads::RoadClass::motorway));
    f.fix = SetAttachRule{v.set_name(), rule};
    f.fix_label = "Never attach to motorways";
    return f;
}

/// The farthest first.
Finding far_from_road(std::vector<std::uint32_t> far, const View& v) {
    std::sort(far.begin(), far.end(), [&](std::uint32_t a, std::uint32_t b) {
        return (*v.attached)[a]->off_road > (*v.attached)[b]->off_road ||
               ((*v.attached)[a]->off_road == (*v.attached)[b]->off_road && a < b);
    });
    auto f =
        of_places(FindingKind::far_from_road, v, far,
                  fmt::format("{} {} more than {} from the road {} attached to", some(far, v),
                              far.size() == 1 ? "stands" : "stand", describe(kFarFromRoads),
                              far.size() == 1 ? "it is" : "they are"),
                  [&](std::uint32_t i) { return fmt::format("{} m", said((*v.attached)[i]->off_road.metres(), 1)); });
    std::stable_sort(f.items.begin(), f.items.end(), [&](const FindingItem& a, const FindingItem& b) {
        return (*v.attached)[*a.place]->off_road > (*v.attached)[*b.place]->off_road;
    });
    return f;
}

void tell_attaching(std::vector<Finding>& out, const Study& study, const View& v, const Checked& c) {
    const Millimetres limit = v.attaching->rule.limit.value_or(study.question().attach_limit);
    const AttachedBadly bad = attached_badly(v, c);
    if (!bad.not_near.empty()) out.push_back(no_road_near(bad.not_near, limit, v, c));
    if (!bad.cut_off.empty())
        out.push_back(of_places(FindingKind::cut_off_places, v, bad.cut_off,
                                fmt::format("{} {} by roads that are cut off from the rest", some(bad.cut_off, v),
                                            bad.cut_off.size() == 1 ? "stands" : "stand"),
                                [&](std::uint32_t i) {
                                    return fmt::format(
                                        "on a piece of {}",
                                        plural(c.roads.pieces[c.piece((*v.attached)[i]->link)].links, "road", "roads"));
                                }));
    if (!bad.trapped.empty())
        out.push_back(
            of_places(FindingKind::one_way_places, v, bad.trapped,
                      fmt::format("{} {} where one-way rules let nobody both come and go", some(bad.trapped, v),
                                  bad.trapped.size() == 1 ? "stands" : "stand"),
                      [&](std::uint32_t i) { return fmt::format("on {}", c.network->name((*v.attached)[i]->link)); }));
    if (!bad.motorway.empty()) out.push_back(on_motorway(bad.motorway, v, c));
    if (!bad.far.empty()) out.push_back(far_from_road(bad.far, v));
}

void tell_stacked(std::vector<Finding>& out, const View& v) {
    std::vector<std::uint32_t> order;
    for (std::uint32_t i = 0; i < v.count(); ++i)
        if (v.position(i)) order.push_back(i);
    const auto at = [&](std::uint32_t i) { return std::pair(v.position(i)->lon, v.position(i)->lat); };
    std::sort(order.begin(), order.end(),
              [&](std::uint32_t a, std::uint32_t b) { return at(a) != at(b) ? at(a) < at(b) : a < b; });
    std::vector<std::uint32_t> which;
    std::map<std::uint32_t, std::size_t> size;
    for (std::size_t begin = 0, end = 0; begin < order.size(); begin = end) {
        while (end < order.size() && at(order[end]) == at(order[begin])) ++end;
        if (end - begin < kStack) continue;
        for (std::size_t k = begin; k < end; ++k) {
            which.push_back(order[k]);
            size[order[k]] = end - begin;
        }
    }
    if (which.empty()) return;
    std::sort(which.begin(), which.end());
    out.push_back(
        of_places(FindingKind::stacked, v, which,
                  fmt::format("{} of the {} stand on one point with others, as a failed address search leaves them",
                              plural(which.size(), "place", "places"), v.name),
                  [&](std::uint32_t i) { return fmt::format("{} places there", said_whole(size[i])); }));
}

void tell_idle_sites(std::vector<Finding>& out, const View& v, const Checked& c) {
    std::vector<std::uint32_t> which;
    for (std::uint32_t i = 0; i < v.count(); ++i) {
        const auto& a = (*v.attached)[i];
        if (v.in_use(i) && a && !c.both_ways[a->link.value()]) which.push_back(i);
    }
    if (which.empty()) return;
    out.push_back(
        of_places(FindingKind::idle_sites, v, which,
                  fmt::format("{} of the {}, in use, {} where one-way rules let nobody drive away and come back",
                              plural(which.size(), "site", "sites"), v.name, which.size() == 1 ? "stands" : "stand"),
                  [&](std::uint32_t i) { return fmt::format("on {}", c.network->name((*v.attached)[i]->link)); }));
}

}  // namespace otoro::service
