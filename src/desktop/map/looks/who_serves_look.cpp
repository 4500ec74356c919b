/// Which site serves: a colour a site, on its mark and on the places that it serves.
#include <QCoreApplication>

#include "desktop/map/looks/map_look.h"
#include "desktop/map/site_colours.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

class WhoServesLook : public MapLook {
    Q_DECLARE_TR_FUNCTIONS(WhoServesLook)
public:
    [[nodiscard]] QString key() const override { return "who_serves"; }
    [[nodiscard]] QString title() const override { return tr("Who serves"); }
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome& o) const override {
        return desktop::site_colours(o.sites);
    }
    [[nodiscard]] std::size_t colour_of(const LookedAt& at, std::uint32_t place) const override {
        return at.outcome.places[place].site->value();
    }
    [[nodiscard]] std::vector<QColor> site_colours(const std::vector<service::SiteOutcome>& sites) const override {
        return desktop::site_colours(sites);
    }
    [[nodiscard]] bool same_sites(const service::Outcome& a, const service::Outcome& b) const override {
        // A site in use in one alone shows in the places that it serves.
        const auto x = desktop::site_colours(a.sites), y = desktop::site_colours(b.sites);
        for (std::size_t i = 0; i < x.size(); ++i)
            if (a.sites[i].planned.in_use && b.sites[i].planned.in_use && x[i] != y[i]) return false;
        return true;
    }
    [[nodiscard]] bool same_place(const service::Outcome& a, const service::Outcome& b,
                                  std::uint32_t place) const override {
        return a.places[place] == b.places[place];
    }
    void paint_legend(QPainter& p, const QRectF& where, const service::Outcome* o, const Amount&) const override {
        constexpr int kMost = 12;
        int n = 0;
        const auto colours = o != nullptr ? desktop::site_colours(o->sites) : std::vector<QColor>();
        for (std::uint32_t i = 0; i < colours.size() && n < kMost; ++i) {
            if (!o->sites[i].planned.in_use) continue;
            p.setPen(Qt::NoPen);
            p.setBrush(colours[i]);
            p.drawEllipse(QPointF(where.left() + 7 + 15 * n++, where.top() + 6), 5, 5);
        }
        p.setPen(theme::kInk);
        p.drawText(where.adjusted(0, 13, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("the colour of the site that serves"));
    }
};

}  // namespace

const MapLook& who_serves_look() {
    static const WhoServesLook look;
    return look;
}

}  // namespace otoro::desktop
