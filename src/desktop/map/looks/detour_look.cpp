/// How far the straight line misleads: the way by road, over the straight line to the site that serves.
#include <QCoreApplication>
#include <array>

#include "desktop/map/looks/map_look.h"
#include "desktop/theme.h"
#include "service/detours.h"

namespace otoro::desktop {
namespace {

/// From pale to dark, so that it is told in grey too.
const std::array<QColor, 5> kDetourColours{QColor(0x8F, 0xA3, 0x9A), QColor(0x4E, 0x8C, 0x9A), QColor(0x4A, 0x63, 0xA8),
                                           QColor(0x6B, 0x2F, 0x8F), QColor(0x3A, 0x0A, 0x35)};

class DetourLook : public OutcomeLook {
    Q_DECLARE_TR_FUNCTIONS(DetourLook)
public:
    [[nodiscard]] QString key() const override { return "detour"; }
    [[nodiscard]] QString title() const override { return tr("Detour"); }
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome&) const override {
        return {kDetourColours.begin(), kDetourColours.end()};
    }
    [[nodiscard]] std::size_t colour_of(const LookedAt& at, std::uint32_t place) const override {
        const auto factor = detour(at.outcome, at.ready.inputs.demand.at(place).position, at.outcome.places[place]);
        return factor ? service::detour_step(*factor) : 0;
    }
    [[nodiscard]] bool same_place(const service::Outcome& a, const service::Outcome& b,
                                  std::uint32_t place) const override {
        const auto& site = a.places[place].site;
        return a.places[place] == b.places[place] &&
               (!site || a.sites[site->value()].planned.site.position == b.sites[site->value()].planned.site.position);
    }
    void paint_legend(QPainter& p, const QRectF& where, const service::Outcome*, const Amount&) const override {
        const QRectF bar(where.left(), where.top(), where.width(), 11);
        const double width = bar.width() / kDetourColours.size();
        const QRectF text(bar.left(), bar.bottom() + 2, bar.width(), where.bottom() - bar.bottom() - 2);
        for (std::size_t i = 0; i < kDetourColours.size(); ++i) {
            const double x = bar.left() + width * static_cast<double>(i);
            p.setPen(Qt::NoPen);
            p.setBrush(kDetourColours[i]);
            p.drawRect(QRectF(x, bar.top(), width, bar.height()));
            p.setPen(theme::kInk);
            if (i > 0)
                p.drawText(QRectF(x - width / 2, text.top(), width, text.height()), Qt::AlignCenter,
                           QString::number(service::kDetourSteps[i - 1]));
        }
        p.drawText(text, Qt::AlignLeft | Qt::AlignVCenter, "1");
        p.drawText(text, Qt::AlignRight | Qt::AlignVCenter, tr("times"));
    }
};

}  // namespace

const MapLook& detour_look() {
    static const DetourLook look;
    return look;
}

}  // namespace otoro::desktop
