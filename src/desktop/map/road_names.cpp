#include "desktop/map/road_names.h"

#include <QFontMetricsF>
#include <QHash>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

#include "desktop/map/map_painter.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

constexpr double kFrom = 0.12;      // px a metre: names from this scale on
constexpr double kMinorFrom = 0.3;  // those of minor roads
constexpr double kStraight = 0.97;  // chord over length of a stretch that a name can stand along
constexpr double kAgain = 260;      // px between two of the same name
constexpr double kWider = 1.5;      // as much of the world as is in sight is placed at once, this many times
constexpr std::size_t kMostNames = 400;

struct Candidate {
    std::uint32_t name;
    RoadWeight weight;
    double room;     // px of the stretch
    QPointF middle;  // world
    double angle;
    std::uint32_t link;
};

/// The longest nearly straight stretch of a line; from its first to its last vertex.
std::pair<std::size_t, std::size_t> straightest(const QPolygonF& line) {
    std::pair<std::size_t, std::size_t> best{0, 0};
    double longest = 0;
    for (qsizetype first = 0; first + 1 < line.size();) {
        double along = 0;
        qsizetype last = first + 1;
        double chord = 0;
        for (qsizetype next = first + 1; next < line.size(); ++next) {
            along += std::hypot(line[next].x() - line[next - 1].x(), line[next].y() - line[next - 1].y());
            const double straight = std::hypot(line[next].x() - line[first].x(), line[next].y() - line[first].y());
            if (straight < kStraight * along) break;
            last = next;
            chord = straight;
        }
        if (chord > longest) {
            longest = chord;
            best = {static_cast<std::size_t>(first), static_cast<std::size_t>(last)};
        }
        first = last;
    }
    return best;
}

QFont font() { return theme::type(0.82); }

/// The box around a turned name, px.
QRectF box_of(QPointF at, double angle, double width, double height) {
    const double a = angle * std::numbers::pi / 180;
    const double w = std::abs(width * std::cos(a)) + std::abs(height * std::sin(a));
    const double h = std::abs(width * std::sin(a)) + std::abs(height * std::cos(a));
    return {at.x() - w / 2, at.y() - h / 2, w, h};
}

}  // namespace

std::vector<RoadName> place_road_names(const Viewport& view, const MapScene& scene) {
    std::vector<RoadName> out;
    if (view.pixels_per_metre < kFrom || scene.network() == nullptr) return out;
    const auto& network = *scene.network();
    std::vector<std::uint32_t> found;
    scene.links_in(view.world_rect(), view.pixels_per_metre, found);
    const QFontMetricsF metrics(font());
    const double least = 4 * metrics.averageCharWidth() / view.pixels_per_metre;  // metres; shorter names are none
    std::vector<Candidate> candidates;
    QPolygonF line;
    for (const std::uint32_t link : found) {
        const std::uint32_t name = network.attributes(LinkId(link)).name;
        const RoadWeight weight = scene.weight(link);
        if (name == 0 || weight == RoadWeight::path) continue;
        if (weight == RoadWeight::minor && view.pixels_per_metre < kMinorFrom) continue;
        line.clear();
        for (const auto& p : network.shape(LinkId(link))) line.append(scene.world().flat(p));
        const auto [first, last] = straightest(line);
        const QPointF a = line[static_cast<qsizetype>(first)], b = line[static_cast<qsizetype>(last)];
        const double chord = std::hypot(b.x() - a.x(), b.y() - a.y());
        if (chord < least) continue;
        double angle = std::atan2(b.y() - a.y(), b.x() - a.x()) * 180 / std::numbers::pi;
        if (angle > 90) angle -= 180;
        if (angle <= -90) angle += 180;
        candidates.push_back({name, weight, chord * view.pixels_per_metre, (a + b) / 2, angle, link});
    }
    std::sort(candidates.begin(), candidates.end(), [](const Candidate& x, const Candidate& y) {
        return std::tuple(-static_cast<int>(x.weight), -x.room, x.link) <
               std::tuple(-static_cast<int>(y.weight), -y.room, y.link);
    });
    std::vector<QRectF> taken;
    QHash<std::uint32_t, QList<QPointF>> of_name;
    QHash<std::uint32_t, double> widths;
    for (const Candidate& c : candidates) {
        if (out.size() >= kMostNames) break;
        const QString text = QString::fromStdString(std::string(network.lines().names.at(c.name)));
        auto width = widths.find(c.name);
        if (width == widths.end()) width = widths.insert(c.name, metrics.horizontalAdvance(text) + 6);
        if (*width > c.room) continue;
        const QPointF at = view.to_screen(c.middle);
        const auto& like = of_name[c.name];
        if (std::any_of(like.begin(), like.end(), [&](QPointF p) { return (p - at).manhattanLength() < kAgain; }))
            continue;
        const QRectF box = box_of(at, c.angle, *width, metrics.height());
        if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
        taken.push_back(box);
        of_name[c.name].append(at);
        out.push_back({c.middle, c.angle, text});
    }
    return out;
}

void paint_road_names(QPainter& painter, const Viewport& view, const std::vector<RoadName>& names) {
    if (names.empty()) return;
    const QFontMetricsF metrics(font());
    const QRectF sight({0, 0}, view.size);
    for (const RoadName& n : names) {
        const double width = metrics.horizontalAdvance(n.text) + 6;
        const QPointF at = view.to_screen(n.at);
        const QRectF box = box_of(at, n.angle, width, metrics.height()).adjusted(-2, -2, 2, 2);
        if (!box.intersects(sight)) continue;
        stamp(painter, QString("road %1 %2").arg(n.angle, 0, 'f', 1).arg(n.text), at, box.translated(-at),
              [&](QPainter& p) {
                  p.setRenderHint(QPainter::TextAntialiasing);
                  p.setFont(font());
                  p.rotate(n.angle);
                  const QRectF text(-width / 2, -metrics.height() / 2, width, metrics.height());
                  QPainterPath letters;
                  letters.addText(text.left() + 3, text.top() + metrics.ascent(), font(), n.text);
                  p.strokePath(letters,
                               QPen(QColor(0xFB, 0xF9, 0xF4, 235), 3.2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
                  p.fillPath(letters, theme::kInk);
              });
    }
}

void RoadNames::look_at(const Viewport& view, const std::shared_ptr<const MapScene>& scene) {
    const QRectF sight = view.world_rect();
    if (view.pixels_per_metre == scale_ && scene_ == scene && placed_.contains(sight)) return;
    const Viewport wider = view.widened(kWider);
    names_ = place_road_names(wider, *scene);
    placed_ = wider.world_rect();
    scale_ = view.pixels_per_metre;
    scene_ = scene;
}

}  // namespace otoro::desktop
