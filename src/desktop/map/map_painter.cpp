#include "desktop/map/map_painter.h"

#include <QCoreApplication>
#include <QFontMetricsF>
#include <QPainterPath>
#include <QPixmapCache>
#include <QThread>
#include <algorithm>
#include <array>
#include <cmath>
#include <tuple>
#include <unordered_set>

#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

struct RoadPen {
    double metres;       ///< width on the ground
    double least, most;  ///< width on the screen, px
    QColor colour;
};

RoadPen pen_of(RoadWeight w) {
    switch (w) {
        case RoadWeight::major:
            return {16, 2.2, 7, {0xA3, 0x97, 0x80}};
        case RoadWeight::middle:
            return {12, 1.5, 5, {0xB2, 0xA7, 0x91}};
        case RoadWeight::minor:
            return {8, 0.9, 4, {0xC3, 0xBB, 0xA9}};
        case RoadWeight::path:
            return {4, 0.6, 2, {0xD3, 0xCC, 0xBC}};
        case RoadWeight::ferry:
            return {8, 1.0, 3, {0x8F, 0x8A, 0x7E}};
    }
    return {};
}

QPainterPath path_of(const geo::Area& area, const Viewport& view, const FlatWorld& world) {
    QPainterPath path;
    path.setFillRule(Qt::OddEvenFill);
    for (const auto& ring : area.rings) {
        QPolygonF polygon;
        for (const auto& p : ring) polygon.append(view.to_screen(world.flat(p)));
        path.addPolygon(polygon);
        path.closeSubpath();
    }
    return path;
}

/// Water is told by more than its tint: it has a shore, and level lines that stay where they are in the world.
void paint_water(QPainter& painter, const Viewport& view, const MapScene& scene) {
    constexpr double kApart = 7;  // px
    const QRectF sight({0, 0}, view.size);
    QPainterPath water;
    water.setFillRule(Qt::OddEvenFill);
    for (const auto& area : *scene.water()) {
        const QPainterPath path = path_of(area, view, scene.world());
        if (path.controlPointRect().intersects(sight)) water.addPath(path);
    }
    if (water.isEmpty()) return;
    painter.setPen(QPen(theme::kShore, 1.2));
    painter.setBrush(theme::kWater);
    painter.drawPath(water);
    painter.save();
    painter.setClipPath(water, Qt::IntersectClip);
    painter.setPen(QPen(theme::kRipple, 1));
    const double origin = view.to_screen({0, 0}).y();
    for (double y = origin - std::floor(origin / kApart) * kApart; y < sight.bottom(); y += kApart)
        painter.drawLine(QPointF(0, y), QPointF(sight.right(), y));
    painter.restore();
}

void paint_zones(QPainter& painter, const Viewport& view, const MapScene& scene) {
    const QRectF sight = QRectF({0, 0}, view.size).adjusted(-4, -4, 4, 4);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::kZone, 1.4, Qt::CustomDashLine, Qt::FlatCap, Qt::RoundJoin));
    QPen pen = painter.pen();
    pen.setDashPattern({6, 3, 1.5, 3});
    painter.setPen(pen);
    const auto& zones = scene.zones()->zones;
    for (std::uint32_t i = 0; i < zones.size(); ++i) {
        const QRectF box = scene.zone_box(i);
        if (QRectF(view.to_screen(box.topLeft()), view.to_screen(box.bottomRight())).intersects(sight))
            painter.drawPath(path_of(zones[i].area, view, scene.world()));
    }
}

void paint_roads(QPainter& painter, const Viewport& view, const MapScene& scene) {
    std::vector<std::uint32_t> found;
    const double margin = 8 / view.pixels_per_metre;
    scene.links_in(view.world_rect().adjusted(-margin, -margin, margin, margin), view.pixels_per_metre, found);
    std::sort(found.begin(),
              found.end());  // the same order in every tile, so that crossings look the same on both sides of an edge
    std::array<QPainterPath, 5> paths;
    QPolygonF line;
    const double ppm = view.pixels_per_metre;
    for (const std::uint32_t link : found) {
        const RoadWeight w = scene.weight(link);
        const auto shape = scene.network()->shape(LinkId(link));
        line.clear();
        for (std::size_t i = 0; i < shape.size(); ++i) {
            const QPointF p = view.to_screen(scene.world().flat(shape[i]));
            const bool keep = i == 0 || i + 1 == shape.size() || (p - line.back()).manhattanLength() > 1.5;
            if (keep) line.append(p);
        }
        paths[static_cast<std::size_t>(w)].addPolygon(line);
    }
    painter.setBrush(Qt::NoBrush);
    for (const RoadWeight w :
         {RoadWeight::path, RoadWeight::minor, RoadWeight::middle, RoadWeight::major, RoadWeight::ferry}) {
        const auto& path = paths[static_cast<std::size_t>(w)];
        if (path.isEmpty()) continue;
        const RoadPen r = pen_of(w);
        QPen pen(r.colour, std::clamp(r.metres * ppm, r.least, r.most),
                 w == RoadWeight::ferry ? Qt::DashLine : Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin);
        painter.setPen(pen);
        painter.drawPath(path);
    }
}

/// Small enough that the roads between them are seen.
double dot_radius(double ppm) { return std::clamp(1.4 + 5 * ppm, 1.7, 4.0); }

/// A mark drawn once and stamped many times; as a path where the device keeps vectors.
class Stamp {
public:
    Stamp(const QPainter& painter, double radius, const QColor& colour, PlaceMark mark)
        : radius_(radius), colour_(colour), mark_(mark) {
        const qreal ratio = painter.device()->devicePixelRatioF();
        const int side = static_cast<int>(std::ceil(2 * kWidestMark * radius + 3));
        image_ = QImage(QSize(side, side) * ratio, QImage::Format_ARGB32_Premultiplied);
        image_.setDevicePixelRatio(ratio);
        image_.fill(Qt::transparent);
        QPainter p(&image_);
        p.setRenderHint(QPainter::Antialiasing);
        p.translate(side / 2.0, side / 2.0);
        draw(p);
        half_ = side / 2.0;
    }
    void at(QPainter& painter, QPointF p, bool vector) const {
        if (!vector) return painter.drawImage(QPointF(std::round(p.x() - half_), std::round(p.y() - half_)), image_);
        painter.save();
        painter.translate(p);
        draw(painter);
        painter.restore();
    }

private:
    void draw(QPainter& p) const { paint_place_mark(p, {0, 0}, radius_, colour_, mark_); }
    double radius_;
    QColor colour_;
    PlaceMark mark_;
    QImage image_;
    double half_ = 0;
};

bool keeps_vectors(const QPainter& painter) {
    const int kind = painter.device()->devType();
    return kind != QInternal::Image && kind != QInternal::Pixmap && kind != QInternal::Widget;
}

/// Dots by colour, the farther ones drawn last so that trouble is not hidden under comfort.
void paint_served(QPainter& painter, const Viewport& view, const MapScene& scene, const PlanAnswer& answer,
                  const MapStyle& style, const std::vector<std::uint32_t>& found) {
    const auto& outcome = answer.outcome;
    const auto colours = style.look->place_colours(outcome);
    std::vector<std::vector<std::uint32_t>> members(colours.size());
    const LookedAt at{*answer.ready, outcome, style.limit, style.base ? &style.base->outcome : nullptr,
                      style.access.get()};
    for (const std::uint32_t i : found) {
        const auto& place = outcome.places[i];
        if (!place.served()) continue;
        const bool within = is_within(place, style.limit);
        if (!style.shows(within ? Layer::within : Layer::beyond)) continue;
        members[style.look->colour_of(at, i)].push_back(i);
    }
    const double radius = dot_radius(view.pixels_per_metre);
    const bool vector = keeps_vectors(painter);
    for (std::size_t g = 0; g < members.size(); ++g) {
        if (members[g].empty()) continue;
        const Stamp stamp(painter, radius, colours[g], style.look->mark_of(g));
        for (const auto i : members[g]) stamp.at(painter, view.to_screen(scene.place(i)), vector);
    }
}

/// One place for each spot of the screen, for those that would lie on one another: the one that nine in ten of them are
/// no worse than. Where there are fewer than ten it is the worst.
std::vector<std::uint32_t> thinned(const Viewport& view, const MapScene& scene, const PlanAnswer& answer,
                                   const MapStyle& style, const std::vector<std::uint32_t>& found, bool served,
                                   double spot) {
    const auto& places = answer.outcome.places;
    std::vector<std::uint32_t> out;
    for (const auto i : found)
        if (places[i].served() == served) out.push_back(i);
    // Spots are fixed in the world, so that tiles agree.
    struct Spot {
        std::int64_t cell;
        double worst;
        std::uint32_t place;
    };
    std::vector<Spot> spots;
    const double metres = spot / view.pixels_per_metre;
    for (const auto i : out) {
        const QPointF at = scene.place(i);
        const auto x = static_cast<std::int64_t>(std::floor(at.x() / metres)),
                   y = static_cast<std::int64_t>(std::floor(at.y() / metres));
        const bool within = is_within(places[i], style.limit);
        if (served && !style.shows(within ? Layer::within : Layer::beyond)) continue;
        spots.push_back({(x << 32) ^ (y & 0xffffffff),
                         served ? share_of_limit(places[i], style.limit) : static_cast<double>(places[i].status), i});
    }
    std::sort(spots.begin(), spots.end(), [](const Spot& a, const Spot& b) {
        return std::tuple(a.cell, -a.worst, a.place) < std::tuple(b.cell, -b.worst, b.place);
    });
    out.clear();
    for (std::size_t begin = 0, end = 0; begin < spots.size(); begin = end) {
        while (end < spots.size() && spots[end].cell == spots[begin].cell) ++end;
        out.push_back(spots[begin + (end - begin) / 10].place);  // worst first
    }
    std::sort(out.begin(), out.end());
    return out;
}

void paint_unserved(QPainter& painter, const Viewport& view, const MapScene& scene, const PlanAnswer& answer,
                    const std::vector<std::uint32_t>& found) {
    const double radius = std::max(4.0, dot_radius(view.pixels_per_metre) + 1.5);
    for (const std::uint32_t i : found)
        if (const auto status = answer.outcome.places[i].status; status != service::Status::served)
            paint_unserved_mark(painter, view.to_screen(scene.place(i)), radius, status);
}

}  // namespace

void paint_veil(QPainter& painter, const Viewport& view) {
    QColor paper = theme::kPaper;
    paper.setAlpha(150);
    painter.fillRect(QRectF({0, 0}, view.size), paper);
}

void paint_picked(QPainter& painter, const Viewport& view, const MapScene& scene,
                  const std::vector<std::uint32_t>& picked) {
    const double radius = dot_radius(view.pixels_per_metre) + 2.2;
    painter.setPen(QPen(theme::kAccent, 1.8));
    painter.setBrush(Qt::NoBrush);
    if (scene.demand().count() == 0) return;
    const QRectF sight = QRectF({0, 0}, view.size).adjusted(-radius, -radius, radius, radius);
    // Where thousands are picked one ring stands for all that would lie on it.
    constexpr std::size_t kMany = 3'000;
    constexpr double kSpot = 5;  // px
    std::unordered_set<std::int64_t> taken;
    for (const std::uint32_t i : picked) {
        if (i >= scene.demand().count() || !scene.has_place(i)) continue;
        const QPointF at = view.to_screen(scene.place(i));
        if (!sight.contains(at)) continue;
        const auto spot = [](double v) { return static_cast<std::int64_t>(std::floor(v / kSpot)); };
        if (picked.size() > kMany && !taken.insert(spot(at.x()) * 100'000 + spot(at.y())).second) continue;
        painter.drawEllipse(at, radius, radius);
    }
}

namespace {

/// Places that can leave a mark on the picture, also those a little outside it.
void places_seen(const Viewport& view, const MapScene& scene, std::vector<std::uint32_t>& found) {
    const double margin = 16 / view.pixels_per_metre;
    scene.places_in(view.world_rect().adjusted(-margin, -margin, margin, margin), found);
}

}  // namespace

bool same_picture(const Viewport& view, const MapScene& scene, const MapLook& look, const PlanAnswer& a,
                  const PlanAnswer& b) {
    const auto &x = a.outcome, &y = b.outcome;
    if (x.places.size() != y.places.size() || x.sites.size() != y.sites.size()) return false;
    if (!look.same_sites(x, y)) return false;
    std::vector<std::uint32_t> found;
    places_seen(view, scene, found);
    return std::all_of(found.begin(), found.end(), [&](std::uint32_t i) { return look.same_place(x, y, i); });
}

void paint_ground(QPainter& painter, const Viewport& view, const MapScene& scene, const PlanAnswer* answer,
                  const MapStyle& style) {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(QRectF({0, 0}, view.size), theme::kPaper);
    if (scene.water()) paint_water(painter, view, scene);
    if (scene.zones() && style.shows(Layer::zones)) paint_zones(painter, view, scene);
    if (scene.network() && style.shows(Layer::roads)) paint_roads(painter, view, scene);
    if (scene.demand().count() == 0) return;
    std::vector<std::uint32_t> found;
    places_seen(view, scene, found);
    std::sort(found.begin(), found.end());
    const bool fits = answer && answer->outcome.places.size() == scene.demand().count();
    if (!fits) {
        const Stamp stamp(painter, dot_radius(view.pixels_per_metre), QColor(0x8F, 0x8A, 0x7E), PlaceMark::dot);
        for (const auto i : found) stamp.at(painter, view.to_screen(scene.place(i)), keeps_vectors(painter));
        return;
    }
    const double dot = 2 * dot_radius(view.pixels_per_metre);
    const auto kept = [&](bool served, double spot) {
        return keeps_vectors(painter) ? found : thinned(view, scene, *answer, style, found, served, spot);
    };
    paint_served(painter, view, scene, *answer, style, kept(true, 0.5 * dot));
    if (style.shows(Layer::unserved)) paint_unserved(painter, view, scene, *answer, kept(false, 5));
}

namespace {

/// Six corners, two of them left and right.
QPolygonF hexagon(QPointF at, double r) {
    QPolygonF out;
    for (int i = 0; i < 6; ++i) out.append(at + r * QPointF(std::cos(i * M_PI / 3), std::sin(i * M_PI / 3)));
    return out;
}

const QColor kLoadInk(0x3B, 0x5F, 0x8A);

}  // namespace

void paint_site_mark(QPainter& painter, QPointF at, double r, places::SiteState state, bool in_use,
                     const QColor& colour) {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::kPaper);
    painter.drawPolygon(hexagon(at, r + 2.6));
    if (in_use) {
        painter.setPen(QPen(theme::kInk, 1.6, Qt::SolidLine, Qt::SquareCap, Qt::MiterJoin));
        painter.setBrush(colour);
        painter.drawPolygon(hexagon(at, r));
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme::kPaper);
        painter.drawEllipse(at, 0.3 * r, 0.3 * r);
        return;
    }
    painter.setBrush(Qt::NoBrush);
    const bool closed = state == places::SiteState::closed;
    painter.setPen(
        QPen(closed ? theme::kFaintInk : theme::kInk, closed ? 1.4 : 2.2, Qt::SolidLine, Qt::FlatCap, Qt::MiterJoin));
    painter.drawPolygon(hexagon(at, r));
    if (!closed) return;
    painter.setPen(QPen(theme::kInk, 2.2, Qt::SolidLine, Qt::FlatCap));
    painter.drawLine(at + QPointF(-r * 1.25, 0), at + QPointF(r * 1.25, 0));
}

void paint_site_gauge(QPainter& painter, QPointF at, const SiteGauge& gauge, places::SiteState state) {
    const double r = gauge_radius(gauge.size);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::kPaper);
    painter.drawPolygon(hexagon(at, r + 2.6));
    const bool full = gauge.full && *gauge.full > 0.999;
    painter.save();
    const double part = gauge.full ? std::clamp(*gauge.full, 0.0, 1.0) : 1.0;
    const double height = r * std::sqrt(3.0);  // of the hexagon, which stands on a side
    painter.setClipRect(QRectF(at.x() - r, at.y() + height / 2 - height * part, 2 * r, height * part + 1));
    painter.setBrush(!gauge.full ? QBrush(theme::kFaintInk, Qt::BDiagPattern)
                                 : QBrush(full ? theme::kNotMet : kLoadInk));
    painter.drawPolygon(hexagon(at, r));
    painter.restore();
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::kInk, full ? 2.4 : 1.4,
                        state == places::SiteState::candidate ? Qt::DashLine : Qt::SolidLine, Qt::SquareCap,
                        Qt::MiterJoin));
    painter.drawPolygon(hexagon(at, r));
}

double gauge_radius(double size) { return 6 + 15 * std::sqrt(std::clamp(size, 0.0, 1.0)); }

void stamp(QPainter& painter, const QString& key, QPointF at, const QRectF& extent,
           const std::function<void(QPainter&)>& draw) {
    if (keeps_vectors(painter) || QThread::currentThread() != QCoreApplication::instance()->thread()) {
        painter.save();
        painter.setRenderHint(QPainter::Antialiasing);
        painter.translate(at);
        draw(painter);
        painter.restore();
        return;
    }
    const qreal ratio = painter.device()->devicePixelRatioF();
    const QString whole = QString("%1 %2").arg(key).arg(ratio);
    QPixmap picture;
    if (!QPixmapCache::find(whole, &picture)) {
        picture = QPixmap((extent.size() * ratio).toSize());
        picture.setDevicePixelRatio(ratio);
        picture.fill(Qt::transparent);
        QPainter p(&picture);
        p.setRenderHint(QPainter::Antialiasing);
        p.setFont(painter.font());
        p.translate(-extent.topLeft());
        draw(p);
        p.end();
        QPixmapCache::insert(whole, picture);
    }
    painter.drawPixmap(QPointF(std::round(at.x() + extent.left()), std::round(at.y() + extent.top())), picture);
}

void paint_sites(QPainter& painter, const Viewport& view, const FlatWorld& world,
                 const std::vector<service::SiteOutcome>& sites, const MapStyle& style) {
    if (!style.shows(Layer::sites)) return;
    painter.setFont(theme::type(0.95, QFont::DemiBold));
    const QFontMetricsF metrics(painter.font());
    std::vector<QRectF> taken;
    const auto colours = style.look->site_colours(sites);
    const auto gauges = style.look->gauges(sites);
    std::vector<std::pair<std::uint32_t, QRectF>> marks;
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        if (!sites[i].planned.site.position) continue;
        const double r = i < gauges.size() && gauges[i] ? gauge_radius(gauges[i]->size) : 7.5;
        const QPointF at = view.to_screen(world.flat(*sites[i].planned.site.position));
        marks.emplace_back(i, QRectF(at - QPointF(r, r), QSizeF(2 * r, 2 * r)));
    }
    constexpr std::size_t kFew = 300;  // of more, marks and names cover one another whatever is done
    const auto under_a_mark = [&](const QRectF& box, std::uint32_t own) {
        return marks.size() <= kFew && std::any_of(marks.begin(), marks.end(), [&](const auto& mark) {
                   return mark.first != own && mark.second.intersects(box);
               });
    };
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        const auto& s = sites[i];
        const SiteGauge* const gauge = i < gauges.size() && gauges[i] ? &*gauges[i] : nullptr;
        const double radius = gauge != nullptr ? gauge_radius(gauge->size) : 7.5;
        if (!s.planned.site.position) continue;
        const QPointF at = view.to_screen(world.flat(*s.planned.site.position));
        if (!QRectF({0, 0}, view.size).adjusted(-80, -30, 80, 30).contains(at)) continue;
        const bool picked = style.picked_site == SiteIndex(i);
        const QColor& colour = colours[i];
        const bool ringed = picked || s.planned.changed;
        const double half = std::ceil(radius + 8);
        stamp(painter,
              QString("site %1 %2 %3 %4 %5 %6")
                  .arg(static_cast<int>(s.planned.site.state))
                  .arg(s.planned.in_use)
                  .arg(ringed ? picked ? 2 : 1 : 0)
                  .arg(colour.name())
                  .arg(radius)
                  .arg(gauge == nullptr ? -2 : gauge->full.value_or(-1)),
              at, {-half, -half, 2 * half, 2 * half}, [&](QPainter& p) {
                  if (ringed) {
                      p.setPen(QPen(theme::kAccent, picked ? 3 : 2));
                      p.setBrush(Qt::NoBrush);
                      p.drawEllipse(QPointF(0, 0), radius + 5, radius + 5);
                  }
                  if (gauge != nullptr) return paint_site_gauge(p, {0, 0}, *gauge, s.planned.site.state);
                  paint_site_mark(p, {0, 0}, 7.5, s.planned.site.state, s.planned.in_use, colour);
              });
        if (!style.shows(Layer::labels)) continue;
        QString text = QString::fromStdString(service::label(s.planned.site));
        if (gauge != nullptr) text += ": " + gauge->words;
        const double aside = radius + 4.5;
        QRectF box(at + QPointF(aside, -metrics.height() / 2),
                   QSizeF(metrics.horizontalAdvance(text) + 8, metrics.height()));
        QRectF left = box;
        left.moveRight(at.x() - aside);
        if (box.right() > view.size.width() || (under_a_mark(box, i) && left.left() > 0 && !under_a_mark(left, i)))
            box = left;
        if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
        taken.push_back(box);
        stamp(painter, QString("name %1 %2").arg(s.planned.in_use).arg(text), box.topLeft(),
              {{0, 0}, QSizeF(std::ceil(box.width()), std::ceil(box.height()))}, [&](QPainter& p) {
                  const QRectF inside({0, 0}, box.size());
                  p.setPen(Qt::NoPen);
                  p.setBrush(QColor(0xFB, 0xF9, 0xF4, 220));
                  p.drawRoundedRect(inside, 3, 3);
                  p.setPen(s.planned.in_use ? theme::kInk : theme::kSoftInk);
                  p.drawText(inside, Qt::AlignCenter, text);
              });
    }
}

void paint_zone_names(QPainter& painter, const Viewport& view, const MapScene& scene) {
    if (scene.zones() == nullptr) return;
    QFont font = theme::type(0.95, QFont::DemiBold);
    font.setLetterSpacing(QFont::PercentageSpacing, 112);
    painter.setFont(font);
    const QFontMetricsF metrics(font);
    const QRectF sight({0, 0}, view.size);
    const auto& zones = scene.zones()->zones;
    for (std::uint32_t i = 0; i < zones.size(); ++i) {
        const QRectF box = scene.zone_box(i);
        const double across = box.width() * view.pixels_per_metre, down = box.height() * view.pixels_per_metre;
        const QString text = QString::fromStdString(zones[i].label());
        const double width = metrics.horizontalAdvance(text) + 8;
        if (width > across || metrics.height() > down) continue;
        const QPointF at = view.to_screen(scene.zone_label(i)) - QPointF(width / 2, metrics.height() / 2);
        const QRectF where(at, QSizeF(width, metrics.height()));
        if (!where.intersects(sight)) continue;
        stamp(painter, "zone " + text, at, {{0, 0}, QSizeF(std::ceil(width), std::ceil(metrics.height()))},
              [&](QPainter& p) {
                  p.setFont(font);
                  p.setPen(Qt::NoPen);
                  p.setBrush(QColor(0xFB, 0xF9, 0xF4, 190));
                  p.drawRect(QRectF({0, 0}, where.size()));
                  p.setPen(theme::kZone);
                  p.drawText(QRectF({0, 0}, where.size()), Qt::AlignCenter, text);
              });
    }
}

void paint_closures(QPainter& painter, const Viewport& view, const FlatWorld& world,
                    const std::vector<roads::Closure>& closures) {
    painter.setRenderHint(QPainter::Antialiasing);
    for (const auto& c : closures) {
        QPolygonF line;
        for (const auto& p : c.vertices) line.append(view.to_screen(world.flat(p)));
        const bool shut = c.effect == roads::ClosureEffect::closed;
        QPen ink(theme::kInk, 3, shut ? Qt::SolidLine : Qt::DotLine, Qt::FlatCap, Qt::RoundJoin);
        painter.setBrush(Qt::NoBrush);
        if (c.shape == roads::ClosureShape::point) {
            // Two bars, as of a gate across the road.
            for (const QPen& pen : {QPen(theme::kPaper, 7, Qt::SolidLine, Qt::SquareCap), ink})
                for (const double y : {-3.5, 3.5}) {
                    painter.setPen(pen);
                    painter.drawLine(line[0] + QPointF(-9, y), line[0] + QPointF(9, y));
                }
        } else if (c.shape == roads::ClosureShape::line) {
            painter.setPen(QPen(theme::kPaper, 8));
            painter.drawPolyline(line);
            painter.setPen(ink);
            painter.drawPolyline(line);
        } else {
            painter.setPen(QPen(theme::kInk, 1.6, shut ? Qt::SolidLine : Qt::DotLine));
            painter.setBrush(QBrush(QColor(0x23, 0x24, 0x2A, 110), Qt::BDiagPattern));
            QPainterPath rings;  // by the even-odd rule, as roads are judged
            rings.addPolygon(line);
            rings.closeSubpath();
            for (const auto& ring : c.more_rings) {
                QPolygonF hole;
                for (const auto& p : ring) hole.append(view.to_screen(world.flat(p)));
                rings.addPolygon(hole);
                rings.closeSubpath();
            }
            painter.drawPath(rings);
        }
    }
}

void paint_route(QPainter& painter, const Viewport& view, const FlatWorld& world,
                 const std::vector<geo::LonLat>& route) {
    if (route.size() < 2) return;
    QPolygonF line;
    for (const auto& p : route) line.append(view.to_screen(world.flat(p)));
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::kPaper, 6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(line);
    painter.setPen(QPen(theme::kAccent, 3, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(line);
}

void paint_scale_bar(QPainter& painter, const Viewport& view) {
    // A round number of metres, or of miles from a fifth of one on.
    const double long_metres = from_long_units(1).metres();
    const double room = 120 / view.pixels_per_metre;
    const bool in_long = room >= (wording().miles ? 0.2 : 1.0) * long_metres;
    const double unit = in_long ? long_metres : 1;
    const double power = std::pow(10.0, std::floor(std::log10(room / unit)));
    const double most = room / unit;
    const double length = most >= 5 * power ? 5 * power : most >= 2 * power ? 2 * power : power;
    const double width = length * unit * view.pixels_per_metre;
    const QString text = QString::fromStdString(said_shortly(length)) + " " + (in_long ? long_unit() : QString("m"));
    const QPointF at(14, view.size.height() - 14);
    painter.setFont(theme::type(0.9));
    const QFontMetricsF metrics(painter.font());
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(0xFB, 0xF9, 0xF4, 215));
    painter.drawRect(QRectF(at.x() - 6, at.y() - metrics.height() - 7,
                            std::max(width, metrics.horizontalAdvance(text)) + 12, metrics.height() + 13));
    painter.setPen(QPen(theme::kInk, 1.5));
    painter.drawPolyline(QPolygonF({at + QPointF(0, -5), at, at + QPointF(width, 0), at + QPointF(width, -5)}));
    painter.drawText(at + QPointF(0, -6), text);
}

}  // namespace otoro::desktop
