#include "desktop/map/ground_drawing.h"

#include <QCoreApplication>
#include <algorithm>

#include "desktop/theme.h"
#include "roads/shape.h"

namespace otoro::desktop {
namespace {

using service::Overlap;

struct Words {
    Q_DECLARE_TR_FUNCTIONS(GroundDrawing)
};

// Of 255, as the bands are.
constexpr int kEdge = 235;
constexpr int kMostTold = 5;  ///< so many sites, or more

/// Ground that so many sites reach: the more, the denser.
QColor fill_of_count(std::uint32_t sites) {
    const int step = std::min(static_cast<int>(sites), kMostTold);
    return theme::with_alpha(theme::kMet, 28 + 34 * (step - 1));
}
QColor edge_of_count() { return theme::with_alpha(theme::kMet.darker(125), kEdge); }

/// Ground that both reach, only the second, only the first.
GroundKey key_of_kept() {
    return {Words::tr("kept"), theme::with_alpha(theme::kSoftInk, 46), theme::with_alpha(theme::kSoftInk, 150)};
}
GroundKey key_of_gained() {
    return {Words::tr("gained"), theme::with_alpha(theme::kMet, 120),
            theme::with_alpha(theme::kMet.darker(125), kEdge)};
}
GroundKey key_of_lost() {
    return {Words::tr("lost"), theme::with_alpha(theme::kNotMet, 58), theme::with_alpha(theme::kNotMet, kEdge), true};
}

/// Makes shapes, in the flat world.
class Drawing {
public:
    Drawing(const FlatWorld& world, GroundDrawing& out) : world_(world), out_(out) {}

    void areas(const reach::Polygons& polygons, const QColor& fill, const QColor& edge, bool hatched,
               double width = 1.6) {
        if (polygons.empty()) return;
        GroundShape shape;
        shape.path.setFillRule(Qt::OddEvenFill);
        for (const auto& p : polygons) {
            ring(shape.path, p.outer);
            for (const auto& hole : p.holes) ring(shape.path, hole);
        }
        shape.fill = fill;
        shape.edge = edge;
        shape.hatched = hatched;
        shape.width = width;
        put(std::move(shape));
    }
    void areas(const reach::Polygons& polygons, const GroundKey& key) {
        areas(polygons, key.fill, key.edge, key.hatched);
    }
    void circle(const reach::Polygon& polygon) {
        GroundShape shape;
        ring(shape.path, polygon.outer);
        shape.edge = theme::with_alpha(theme::kInk, 190);
        shape.width = 1.4;
        shape.dashed = true;
        put(std::move(shape));
    }
    /// Lines of one look are one shape.
    void begin_lines(const QColor& colour, double width, double width_from_afar) {
        lines_ = GroundShape();
        lines_.edge = colour;
        lines_.width = width;
        lines_.width_from_afar = width_from_afar;
    }
    void line(const std::vector<geo::LonLat>& vertices) {
        for (std::size_t i = 0; i < vertices.size(); ++i) {
            const QPointF at = world_.flat(vertices[i]);
            i == 0 ? lines_.path.moveTo(at) : lines_.path.lineTo(at);
        }
    }
    void end_lines() {
        if (!lines_.path.isEmpty()) put(std::move(lines_));
        lines_ = GroundShape();
    }

private:
    void ring(QPainterPath& path, const std::vector<geo::LonLat>& vertices) const {
        QPolygonF line;
        line.reserve(static_cast<qsizetype>(vertices.size()));
        for (const auto& p : vertices) line.append(world_.flat(p));
        path.addPolygon(line);
        path.closeSubpath();
    }
    void put(GroundShape shape) {
        shape.box = shape.path.controlPointRect();
        out_.shapes.push_back(std::move(shape));
    }
    const FlatWorld& world_;
    GroundDrawing& out_;
    GroundShape lines_;
};

void draw_areas(Drawing& drawing, const GroundFound& found, const GroundColours& colours) {
    const auto& reach = *found.areas;
    const auto& limits = reach.request.limits;
    if (reach.request.overlap == Overlap::count) {
        for (const auto& a : reach.areas)
            drawing.areas(a.polygons, fill_of_count(a.sites_reaching), edge_of_count(), false);
        return;
    }
    const bool each = reach.request.overlap == Overlap::each;
    const auto band_of = [&](const service::ReachArea& a) {
        const auto at = std::find(limits.begin(), limits.end(), a.to);
        return limits.empty() ? colours.limits.size() - 1 : static_cast<std::size_t>(at - limits.begin());
    };
    // Far bands first, so that the edges of near ones lie over them.
    for (std::size_t band = colours.limits.size(); band-- > 0;)
        for (const auto& a : reach.areas) {
            if (band_of(a) != band) continue;
            QColor fill = colours.fill[band];
            // Ground of several lies over one another: each is fainter.
            if (each) fill.setAlpha(fill.alpha() / 2);
            drawing.areas(a.polygons, fill, colours.edge[band], colours.hatched[band]);
        }
}

}  // namespace

bool drawn_live(const MapStyle& style) {
    if (style.look == &uncovered_look()) return true;
    const auto& view = style.reach;
    const bool nearest = view.overlap == Overlap::nearest || view.overlap == Overlap::merged;
    return nearest && !view.own_limits && !view.off_water && !view.in_zones && !view.comparing && !view.one_site;
}

bool draws_beside_live(const GroundFound& found, const MapStyle& style) {
    return !drawn_live(style) || found.change || !found.roads.empty() || !found.lines.empty() || !found.circles.empty();
}

GroundDrawing drawing_of(const GroundFound& found, const MapStyle& style, const FlatWorld& world, GroundParts parts) {
    GroundDrawing out;
    Drawing drawing(world, out);
    const bool ground_too = parts == GroundParts::all || !drawn_live(style);
    const auto colours = style.look->ground(style.reach, style.limit);
    if (!colours || colours->limits.empty()) return out;
    if (found.areas && ground_too) draw_areas(drawing, found, *colours);
    if (found.change) {
        drawing.areas(found.change->kept, key_of_kept());
        drawing.areas(found.change->lost, key_of_lost());
        drawing.areas(found.change->gained, key_of_gained());
    }
    if (ground_too && found.asked.uncovered) {
        reach::Polygons all;
        if (found.uncovered)
            for (const auto& patch : found.uncovered->patches) all.push_back(patch.polygon);
        for (const auto& z : found.zones) all.insert(all.end(), z.failing.begin(), z.failing.end());
        drawing.areas(all, colours->fill.back(), colours->edge.back(), colours->hatched.back());
    }
    // A road has the colour of its band.
    const auto& network = *found.ready->inputs.network;
    for (std::size_t band = colours->limits.size(); band-- > 0 && !found.roads.empty();) {
        drawing.begin_lines(colours->edge[band], 3, 1.1);
        const bool own = found.areas && found.areas->request.limits.empty();
        for (const auto& r : found.roads)
            if (own ? band + 1 == colours->limits.size() : r.band == band)
                drawing.line(shape_between(network, r.link, r.from, r.to));
        drawing.end_lines();
    }
    drawing.begin_lines(theme::with_alpha(theme::kInk, 170), 1.2, 0.7);
    for (const auto& l : found.lines) drawing.line(l.vertices);
    drawing.end_lines();
    for (const auto& c : found.circles)
        for (const auto& polygon : c.polygons) drawing.circle(polygon);
    return out;
}

void paint(QPainter& painter, const Viewport& view, const GroundDrawing& drawing) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF sight = view.world_rect();
    const QPointF corner = view.to_screen({0, 0});
    QTransform to_screen;
    to_screen.translate(corner.x(), corner.y());
    to_screen.scale(view.pixels_per_metre, view.pixels_per_metre);
    for (const auto& s : drawing.shapes) {
        // A line has a box without height.
        if (!s.box.adjusted(-1, -1, 1, 1).intersects(sight)) continue;
        const QPainterPath path = to_screen.map(s.path);
        if (s.fill.alpha() > 0) painter.fillPath(path, s.fill);
        if (s.hatched) painter.fillPath(path, QBrush(theme::with_alpha(s.edge, 120), Qt::BDiagPattern));
        constexpr double kNear = 0.15;  // points a metre
        const double width = s.width_from_afar > 0
                                 ? std::clamp(s.width * view.pixels_per_metre / kNear, s.width_from_afar, s.width)
                                 : s.width;
        if (s.edge.alpha() > 0)
            painter.strokePath(
                path, QPen(s.edge, width, s.dashed ? Qt::DashLine : Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    }
    painter.restore();
}

std::vector<GroundKey> ground_keys(const MapStyle& style) {
    if (style.look != &reach_look()) return {};
    if (style.reach.comparing) return {key_of_gained(), key_of_lost(), key_of_kept()};
    if (style.reach.overlap != Overlap::count) return {};
    std::vector<GroundKey> out;
    for (std::uint32_t n = 1; n <= kMostTold; ++n)
        out.push_back({n == 1           ? Words::tr("1 site")
                       : n == kMostTold ? Words::tr("%1 or more").arg(n)
                                        : QString::number(n),
                       fill_of_count(n), edge_of_count()});
    return out;
}

double paint_ground_keys(QPainter& p, const QRectF& where, const std::vector<GroundKey>& keys) {
    const QFontMetricsF metrics(p.font());
    const double side = std::min(where.height(), metrics.height()) - 4;
    double x = where.left();
    for (const auto& key : keys) {
        const QRectF box(x, where.center().y() - side / 2, side * 1.5, side);
        p.fillRect(box, theme::kPaper);
        p.fillRect(box, key.fill);
        if (key.hatched) p.fillRect(box, QBrush(theme::with_alpha(key.edge, 120), Qt::BDiagPattern));
        p.setPen(QPen(key.edge, 1.4));
        p.setBrush(Qt::NoBrush);
        p.drawRect(box);
        p.setPen(theme::kInk);
        const double width = metrics.horizontalAdvance(key.text);
        p.drawText(QRectF(box.right() + 5, where.top(), width + 2, where.height()), Qt::AlignVCenter, key.text);
        x = box.right() + 5 + width + 12;
    }
    return x;
}

}  // namespace otoro::desktop
