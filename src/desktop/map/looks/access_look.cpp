/// Access where supply meets demand: how many places there are for everybody, over what all have on average. Who has
/// none stands out by form.
#include <QCoreApplication>
#include <array>

#include "desktop/map/looks/map_look.h"
#include "desktop/map/map_painter.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

/// Over the mean: what is less than each of these is of that step.
constexpr std::array kAccessSteps{0.5, 0.8, 1.25, 2.0};
/// From none by little, dark, to much, pale; those with least are painted last.
const std::array<QColor, kAccessSteps.size() + 2> kAccessColours{QColor(0xB9, 0xCF, 0xA6), QColor(0x86, 0xB1, 0x8A),
                                                                 QColor(0x4E, 0x8B, 0x86), QColor(0x34, 0x5E, 0x7C),
                                                                 QColor(0x2C, 0x2F, 0x5B), QColor(0xA8, 0x2A, 0x1B)};
constexpr std::size_t kNoAccess = kAccessColours.size() - 1;

class AccessLook : public OutcomeLook {
    Q_DECLARE_TR_FUNCTIONS(AccessLook)
public:
    [[nodiscard]] QString key() const override { return "access"; }
    [[nodiscard]] QString title() const override { return tr("Access"); }
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome&) const override {
        return {kAccessColours.begin(), kAccessColours.end()};
    }
    [[nodiscard]] bool shows_access() const override { return true; }
    [[nodiscard]] PlaceMark mark_of(std::size_t colour) const override {
        return colour == kNoAccess ? PlaceMark::cross : PlaceMark::dot;
    }
    [[nodiscard]] std::size_t colour_of(const LookedAt& at, std::uint32_t place) const override {
        if (at.access == nullptr || place >= at.access->access.size()) return 2;
        const double part = at.access->access[place] / (at.access->mean > 0 ? at.access->mean : 1);
        if (part <= 0) return kNoAccess;
        const auto step = std::upper_bound(kAccessSteps.begin(), kAccessSteps.end(), part) - kAccessSteps.begin();
        return kAccessSteps.size() - static_cast<std::size_t>(step);
    }
    void paint_legend(QPainter& p, const QRectF& where, const service::Outcome*, const Amount&) const override {
        constexpr double kBeside = 58;  // for what stands right of the bar
        const QRectF bar(where.left(), where.top(), where.width() - kBeside, 11);
        const double width = bar.width() / static_cast<double>(kAccessSteps.size() + 1);
        const QRectF text(bar.left(), bar.bottom() + 2, bar.width(), where.bottom() - bar.bottom() - 2);
        for (std::size_t i = 0; i <= kAccessSteps.size(); ++i) {
            const double x = bar.left() + width * static_cast<double>(i);
            p.setPen(Qt::NoPen);
            p.setBrush(kAccessColours[kAccessSteps.size() - i]);
            p.drawRect(QRectF(x, bar.top(), width, bar.height()));
            p.setPen(theme::kInk);
            if (i > 0)
                p.drawText(QRectF(x - width / 2, text.top(), width, text.height()), Qt::AlignCenter,
                           QString::number(kAccessSteps[i - 1]));
        }
        const QRectF beside(bar.right() + 4, bar.top() - 3, kBeside - 4, 17);
        p.drawText(QRectF(beside.left(), text.top(), beside.width(), text.height()), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("\u00d7 mean"));
        paint_place_mark(p, {beside.left() + 7, bar.center().y()}, 3.6, kAccessColours[kNoAccess], PlaceMark::cross);
        p.setPen(theme::kInk);
        p.drawText(beside.adjusted(15, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, tr("none"));
    }
};

}  // namespace

const MapLook& access_look() {
    static const AccessLook look;
    return look;
}

}  // namespace otoro::desktop
