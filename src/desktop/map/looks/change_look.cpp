/// What a plan changes for each place against another: nearer, farther, newly within the standard, newly beyond it.
/// Told by form and lightness as well as by hue.
#include <QCoreApplication>
#include <array>

#include "desktop/map/looks/map_look.h"
#include "desktop/map/map_painter.h"
#include "desktop/theme.h"
#include "service/compare.h"

namespace otoro::desktop {
namespace {

using service::Difference;

/// What is served under the plan in sight, the weightiest painted last. Who is cut off is marked as not served.
constexpr std::array kShown{Difference::same,         Difference::nearer,       Difference::farther,
                            Difference::newly_within, Difference::newly_beyond, Difference::newly_reached};
const std::array<QColor, kShown.size()> kChangeColours{QColor(0xB4, 0xAE, 0xA2), QColor(0x6E, 0xB8, 0xB0),
                                                       QColor(0xE0, 0xA4, 0x62), QColor(0x0B, 0x4F, 0x5C),
                                                       QColor(0x8A, 0x1C, 0x2B), QColor(0x2E, 0x8B, 0x83)};
constexpr std::array kMarks{PlaceMark::speck,  PlaceMark::up,    PlaceMark::down,
                            PlaceMark::square, PlaceMark::cross, PlaceMark::plus};

class ChangeLook : public OutcomeLook {
    Q_DECLARE_TR_FUNCTIONS(ChangeLook)
public:
    [[nodiscard]] QString key() const override { return "change"; }
    [[nodiscard]] QString title() const override { return tr("Change"); }
    [[nodiscard]] bool compares() const override { return true; }
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome&) const override {
        return {kChangeColours.begin(), kChangeColours.end()};
    }
    [[nodiscard]] PlaceMark mark_of(std::size_t colour) const override { return kMarks.at(colour); }
    [[nodiscard]] std::size_t colour_of(const LookedAt& at, std::uint32_t place) const override {
        if (at.base == nullptr || at.base->places.size() != at.outcome.places.size()) return 0;
        const auto kind = service::difference_of(at.base->places[place], at.outcome.places[place],
                                                 at.outcome.question.measure(), at.limit);
        const auto* const shown = std::find(kShown.begin(), kShown.end(), kind);
        return shown == kShown.end() ? 0 : static_cast<std::size_t>(shown - kShown.begin());
    }
    void paint_legend(QPainter& p, const QRectF& where, const service::Outcome*, const Amount&) const override {
        const std::array<QString, kShown.size()> words{tr("as before"),    tr("nearer"),       tr("farther"),
                                                       tr("newly within"), tr("newly beyond"), tr("newly reached")};
        // Above what is better, below what is worse, as before at the end; columns as wide as their words.
        constexpr std::array<std::array<std::size_t, 2>, 3> kColumns{{{1, 2}, {3, 4}, {5, 0}}};
        constexpr double kMark = 13;
        const double line = where.height() / 2;
        double x = where.left();
        for (const auto& column : kColumns) {
            double widest = 0;
            for (std::size_t row = 0; row < column.size(); ++row) {
                const std::size_t k = column[row];
                const double y = where.top() + static_cast<double>(row) * line,
                             width = p.fontMetrics().horizontalAdvance(words[k]);
                paint_place_mark(p, {x + 5, y + line / 2}, 4.2, kChangeColours[k], kMarks[k]);
                p.setPen(theme::kInk);
                p.drawText(QRectF(x + kMark, y, width + 2, line), Qt::AlignLeft | Qt::AlignVCenter, words[k]);
                widest = std::max(widest, width);
            }
            x += kMark + widest + 4;
        }
    }
};

}  // namespace

const MapLook& change_look() {
    static const ChangeLook look;
    return look;
}

}  // namespace otoro::desktop
