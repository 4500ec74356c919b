/// How much each site has to do: marks as large as the load, filled as far as the capacity is. Who goes to another site
/// than the nearest stands out.
#include <QCoreApplication>

#include "desktop/map/looks/map_look.h"
#include "desktop/map/map_painter.h"
#include "desktop/theme.h"
#include "geo/wording.h"

namespace otoro::desktop {
namespace {

/// Whether a place goes to another site than its nearest.
bool elsewhere(const service::Outcome& o, std::uint32_t place) {
    return o.by_nearest && !o.journeys && o.places[place].site != (*o.by_nearest)[place].site;
}

class LoadLook : public OutcomeLook {
    Q_DECLARE_TR_FUNCTIONS(LoadLook)
public:
    [[nodiscard]] QString key() const override { return "load"; }
    [[nodiscard]] QString title() const override { return tr("Load"); }
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome&) const override {
        return {QColor(0xA9, 0xA3, 0x98), QColor(0xB5, 0x4A, 0x0E)};
    }
    [[nodiscard]] std::size_t colour_of(const LookedAt& at, std::uint32_t place) const override {
        return elsewhere(at.outcome, place) ? 1 : 0;
    }
    [[nodiscard]] bool same_place(const service::Outcome& a, const service::Outcome& b,
                                  std::uint32_t place) const override {
        return OutcomeLook::same_place(a, b, place) && elsewhere(a, place) == elsewhere(b, place);
    }
    [[nodiscard]] std::vector<std::optional<SiteGauge>> gauges(
        const std::vector<service::SiteOutcome>& sites) const override {
        Weight most;
        for (const auto& s : sites) most = std::max(most, s.load);
        std::vector<std::optional<SiteGauge>> out(sites.size());
        for (std::size_t i = 0; i < sites.size(); ++i) {
            const auto& s = sites[i];
            if (!s.planned.in_use) continue;
            SiteGauge g;
            if (most.count() > 0) g.size = s.load.value() / most.value();
            g.words = QString::fromStdString(describe(s.load));
            if (const auto& capacity = s.planned.site.capacity) {
                g.full = capacity->count() > 0 ? s.load.value() / capacity->value() : 1.0;
                g.words = tr("%1 of %2").arg(g.words, QString::fromStdString(describe(*capacity)));
            }
            out[i] = std::move(g);
        }
        return out;
    }
    void paint_legend(QPainter& p, const QRectF& where, const service::Outcome* o, const Amount&) const override {
        const double y = where.top() + 8;
        double x = where.left() + 8;
        for (const double full : {0.3, 0.7, 1.0}) {
            paint_site_gauge(p, {x, y}, {0.02, full, {}}, places::SiteState::open);
            x += 20;
        }
        p.setPen(theme::kInk);
        const bool moved = o != nullptr && o->by_nearest && !o->journeys;
        p.drawText(QRectF(x, where.top() - 1, where.right() - x, 18), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("filled as far as it is full"));
        const QRectF below(where.left(), where.top() + 17, where.width(), where.height() - 17);
        if (!moved) {
            p.drawText(below, Qt::AlignLeft | Qt::AlignVCenter, tr("the larger, the more it serves"));
            return;
        }
        p.setPen(Qt::NoPen);
        p.setBrush(place_colours(*o)[1]);
        p.drawEllipse(QPointF(where.left() + 6, below.center().y()), 4, 4);
        p.setPen(theme::kInk);
        p.drawText(below.adjusted(16, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, tr("not at the nearest site"));
    }
};

}  // namespace

const MapLook& load_look() {
    static const LoadLook look;
    return look;
}

}  // namespace otoro::desktop
