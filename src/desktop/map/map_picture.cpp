#include "desktop/map/map_picture.h"

#include <QBuffer>
#include <QCoreApplication>
#include <QFontMetricsF>
#include <QImage>
#include <QPainter>
#include <QSvgGenerator>
#include <algorithm>
#include <cmath>
#include <functional>

#include "desktop/map/ground_drawing.h"
#include "desktop/map/road_names.h"
#include "desktop/map/route_drawing.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {

namespace {

struct Words {
    Q_DECLARE_TR_FUNCTIONS(MapPicture)
};

constexpr double kMargin = 14;
constexpr double kLeastWidth = 520;
constexpr int kWrapped = Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap;

QFont head_font() { return theme::type(1.25, QFont::DemiBold); }
QFont text_font() { return theme::type(1.0); }
double legend_height() { return 2 * QFontMetricsF(text_font()).height() + 26; }

/// A mark and its word; says where the next one begins.
double mark(QPainter& p, double x, double y, const QString& word, const std::function<void(QPointF)>& draw) {
    draw({x + 8, y});
    p.setPen(theme::kInk);
    const QFontMetricsF metrics(p.font());
    p.drawText(QPointF(x + 20, y + metrics.ascent() / 2 - 1), word);
    return x + 20 + metrics.horizontalAdvance(word) + 18;
}

}  // namespace

double MapPicture::head_height() const {
    const int width = std::max(size.width(), static_cast<int>(kLeastWidth));
    const QRectF room(0, 0, width - 2 * kMargin, 10'000);
    return kMargin + QFontMetricsF(head_font()).height() +
           QFontMetricsF(text_font()).boundingRect(room, kWrapped, question).height() + 12;
}

QSize MapPicture::sheet() const {
    const int width = std::max(size.width(), static_cast<int>(kLeastWidth));
    return {width, static_cast<int>(std::ceil(head_height() + size.height() + legend_height()))};
}

void MapPicture::find_ground(const Task& task) {
    if (ground) found_ = desktop::find_ground(*ground, 0, task);
}

void MapPicture::paint(QPainter& painter) const {
    const QSizeF all = sheet();
    const double head = head_height();
    painter.fillRect(QRectF({0, 0}, all), theme::kPaper);
    painter.save();
    painter.translate((all.width() - size.width()) / 2, head);
    painter.setClipRect(QRectF({0, 0}, QSizeF(size)));
    paint_map(painter);
    painter.restore();
    paint_head(painter, {kMargin, kMargin, all.width() - 2 * kMargin, head - kMargin});
    paint_legend(painter, {kMargin, head + size.height() + 8, all.width() - 2 * kMargin, legend_height() - 8});
}

void MapPicture::paint_map(QPainter& painter) const {
    paint_ground(painter, view, *scene, answer.get(), style);
    if (ground) {
        const auto found = found_ ? found_ : desktop::find_ground(*ground, 0, Task());
        desktop::paint(painter, view, drawing_of(*found, style, scene->world(), GroundParts::all));
    }
    if (style.stale && answer) paint_veil(painter, view);
    if (style.shows(Layer::labels)) {
        if (style.shows(Layer::zones)) paint_zone_names(painter, view, *scene);
        if (style.shows(Layer::roads)) paint_road_names(painter, view, place_road_names(view, *scene));
    }
    paint_picked(painter, view, *scene, style.picked);
    paint_closures(painter, view, scene->world(), closures);
    if (answer) paint_desire_lines(painter, view, scene->world(), desire, answer->outcome);
    for (const auto& journey : journeys) paint_journey(painter, view, scene->world(), journey);
    paint_flows(painter, view, scene->world(), flows);
    if (way && way->route == route) paint_way(painter, view, scene->world(), way->way.line);
    paint_sites(painter, view, scene->world(), sites, style);
    paint_stops(painter, view, scene->world(), route);
    paint_scale_bar(painter, view);
}

void MapPicture::paint_head(QPainter& p, const QRectF& where) const {
    p.setFont(head_font());
    p.setPen(theme::kInk);
    const QFontMetricsF metrics(p.font());
    const double verdict_width = verdict.isEmpty() ? 0 : metrics.horizontalAdvance(verdict) + 16;
    const QString named =
        metrics.elidedText(Words::tr("%1: %2").arg(title, plan), Qt::ElideMiddle, where.width() - verdict_width);
    const QRectF line(where.topLeft(), QSizeF(where.width(), metrics.height()));
    p.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, named);
    p.drawText(line, Qt::AlignRight | Qt::AlignVCenter, verdict);
    p.setFont(text_font());
    p.drawText(where.adjusted(0, metrics.height() + 3, 0, 0), kWrapped, question);
}

void MapPicture::paint_legend(QPainter& p, const QRectF& where) const {
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(text_font());
    const QFontMetricsF metrics(p.font());
    constexpr double kScaleWide = 230;
    const double y = where.top() + metrics.height() / 2;
    const auto keys = ground_keys(style);
    if (answer && !keys.empty())
        paint_ground_keys(p, {where.left(), where.top(), where.width(), metrics.height()}, keys);
    else if (const auto colours = style.look->ground(style.reach, style.limit); answer && colours)
        paint_ground_legend(p, {where.left(), where.top(), kScaleWide, 14 + metrics.height()}, *colours);
    else if (answer)
        style.look->paint_legend(p, {where.left(), where.top(), kScaleWide, 14 + metrics.height()}, &answer->outcome,
                                 style.limit);
    double x = where.left() + kScaleWide + 24;
    const double below = y + metrics.height() + 6;
    // Only what there is on the map.
    double first = x, second = x;
    if (style.shows(Layer::sites))
        for (const auto& [known, word] : {std::pair{places::SiteState::open, Words::tr("site in use")},
                                          std::pair{places::SiteState::candidate, Words::tr("candidate")},
                                          std::pair{places::SiteState::closed, Words::tr("closed site")}}) {
            const places::SiteState state = known;  // a binding itself is not taken along by every compiler
            const bool used = state == places::SiteState::open;
            const bool there = std::any_of(sites.begin(), sites.end(), [&](const service::SiteOutcome& s) {
                return used ? s.planned.in_use : !s.planned.in_use && s.planned.site.state == state;
            });
            if (there)
                first =
                    mark(p, first, y, word, [&](QPointF at) { paint_site_mark(p, at, 6, state, used, theme::kInk); });
        }
    if (answer && style.shows(Layer::unserved))
        for (const auto status : {service::Status::beyond_limit, service::Status::no_road_near,
                                  service::Status::cut_off, service::Status::site_full})
            if (answer->outcome.tally(status).places > 0)
                second =
                    mark(p, second, below, words(status), [&](QPointF at) { paint_unserved_mark(p, at, 5, status); });
    if (!closures.empty())
        second = mark(p, second, below, Words::tr("road closed or slowed"), [&](QPointF at) {
            for (const QPen& pen : {QPen(theme::kInk, 2.4)})
                for (const double d : {-2.5, 2.5}) {
                    p.setPen(pen);
                    p.drawLine(at + QPointF(-7, d), at + QPointF(7, d));
                }
        });
    if (scene->zones() && style.shows(Layer::zones))
        mark(p, second, below, Words::tr("edge of a zone"), [&](QPointF at) {
            p.setPen(QPen(theme::kZone, 1.4, Qt::DashDotLine));
            p.drawLine(at + QPointF(-8, 0), at + QPointF(8, 0));
        });
}

QImage MapPicture::image(double scale) const {
    const QSize all = sheet();
    QImage image((QSizeF(all) * scale).toSize(), QImage::Format_RGB32);
    if (image.isNull()) return {};
    image.setDevicePixelRatio(scale);
    QPainter painter(&image);
    paint(painter);
    painter.end();
    return image;
}

QByteArray MapPicture::png(double scale) const {
    const QImage picture = image(scale);
    QByteArray bytes;
    QBuffer out(&bytes);
    out.open(QIODevice::WriteOnly);
    return !picture.isNull() && picture.save(&out, "PNG") ? bytes : QByteArray();
}

QByteArray MapPicture::svg() const {
    QByteArray bytes;
    QBuffer out(&bytes);
    out.open(QIODevice::WriteOnly);
    QSvgGenerator drawing;
    drawing.setOutputDevice(&out);
    drawing.setSize(sheet());
    drawing.setViewBox(QRect({0, 0}, sheet()));
    drawing.setTitle(title);
    QPainter painter;
    if (!painter.begin(&drawing)) return {};
    paint(painter);
    return painter.end() ? bytes : QByteArray();
}

}  // namespace otoro::desktop
