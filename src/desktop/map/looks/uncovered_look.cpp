/// What no site reaches within the standard: ground hatched, so that it is told in grey too.
#include <QCoreApplication>

#include "desktop/map/looks/map_look.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

class UncoveredLook : public GroundLook {
    Q_DECLARE_TR_FUNCTIONS(UncoveredLook)
public:
    [[nodiscard]] QString key() const override { return "uncovered"; }
    [[nodiscard]] QString title() const override { return tr("Uncovered"); }
    /// Who is within stands back; who is beyond stands out.
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome&) const override {
        return {QColor(0xA9, 0xA3, 0x98), theme::kNotMet};
    }
    [[nodiscard]] std::optional<GroundColours> ground(const ReachStyle&, const Amount& standard) const override {
        QColor fill = theme::kNotMet, edge = theme::kNotMet;
        fill.setAlpha(58);
        edge.setAlpha(235);
        return GroundColours{{standard}, {Qt::transparent, fill}, {edge, edge}, Qt::transparent, {false, true}};
    }
};

}  // namespace

const MapLook& uncovered_look() {
    static const UncoveredLook look;
    return look;
}

}  // namespace otoro::desktop
