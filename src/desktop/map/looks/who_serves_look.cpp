/// Which site serves: a colour a site, on its mark and on the places that it serves.
#include <QCoreApplication>

#include "desktop/map/looks/map_look.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

class WhoServesLook : public MapLook {
    Q_DECLARE_TR_FUNCTIONS(WhoServesLook)
public:
    [[nodiscard]] QString key() const override { return "who_serves"; }
    [[nodiscard]] QString title() const override { return tr("Who serves"); }
    [[nodiscard]] std::size_t colour_count(const service::Outcome& o) const override { return o.sites.size(); }
    [[nodiscard]] std::size_t colour_of(const service::PlaceOutcome& place, const Amount&) const override {
        return place.nearest->value();
    }
    [[nodiscard]] QColor colour(std::size_t number, const service::Outcome& o) const override {
        return site_colour(o.sites, SiteIndex(number));
    }
    /// By its number among those in use.
    [[nodiscard]] QColor site_colour(const std::vector<service::SiteOutcome>& sites, SiteIndex site) const override {
        if (!sites[site.value()].planned.in_use) return theme::kInk;
        std::size_t n = 0;
        for (std::uint32_t i = 0; i < site.value(); ++i) n += sites[i].planned.in_use ? 1 : 0;
        return theme::site_colour(n);
    }
    [[nodiscard]] bool same_sites(const service::Outcome& a, const service::Outcome& b) const override {
        return std::equal(a.sites.begin(), a.sites.end(), b.sites.begin(), b.sites.end(),
                          [](const service::SiteOutcome& p, const service::SiteOutcome& q) {
                              return p.planned.in_use == q.planned.in_use;  // it decides their colours
                          });
    }
    [[nodiscard]] bool same_place(const service::PlaceOutcome& a, const service::PlaceOutcome& b) const override {
        return a == b;
    }
    void paint_legend(QPainter& p, const QRectF& where, const service::Outcome* o, const Amount&) const override {
        constexpr int kMost = 12;
        int n = 0;
        for (std::uint32_t i = 0; o != nullptr && i < o->sites.size() && n < kMost; ++i) {
            if (!o->sites[i].planned.in_use) continue;
            p.setPen(Qt::NoPen);
            p.setBrush(site_colour(o->sites, SiteIndex(i)));
            p.drawEllipse(QPointF(where.left() + 7 + 15 * n++, where.top() + 6), 5, 5);
        }
        p.setPen(theme::kInk);
        p.drawText(where.adjusted(0, 13, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("the colour of the site that serves, as on its mark and in the list of sites"));
    }
};

}  // namespace

const MapLook& who_serves_look() {
    static const WhoServesLook look;
    return look;
}

}  // namespace otoro::desktop
