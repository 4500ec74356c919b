/// How far the sites reach: ground in bands of the time ramp, quiet fills with firm edges.
#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "desktop/map/looks/map_look.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

// Of 255. Farther bands are filled more densely, so that bands differ in grey too.
constexpr int kNearFill = 58, kFarFill = 122, kEdge = 235;

double number(const Amount& a) {
    return std::visit([](auto v) { return static_cast<double>(v.count()); }, a);
}

class ReachLook : public GroundLook {
    Q_DECLARE_TR_FUNCTIONS(ReachLook)
public:
    [[nodiscard]] QString key() const override { return "reach"; }
    [[nodiscard]] QString title() const override { return tr("Reach"); }
    // Dots stand back; ground says how long it takes.
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome&) const override {
        return {QColor(0x8A, 0x84, 0x79), QColor(0x4A, 0x46, 0x42)};
    }
    [[nodiscard]] std::optional<GroundColours> ground(const ReachStyle& style, const Amount& standard) const override {
        GroundColours out;
        const bool comparable = !style.limits.empty() && style.limits.front().index() == standard.index();
        // Where fills say something else, the farthest limit alone counts.
        const bool banded = is_banded(style);
        const double whole = comparable ? number(standard) : style.limits.empty() ? 1.0 : number(style.limits.back());
        for (std::size_t i = banded || style.limits.empty() ? 0 : style.limits.size() - 1; i < style.limits.size();
             ++i) {
            out.limits.push_back(style.limits[i]);
            // The middle of a band has its colour, so that one that ends at the standard is within it.
            const double from = i == 0 ? 0 : number(style.limits[i - 1]), to = number(style.limits[i]);
            const QColor colour = theme::ramp(whole > 0 ? (from + to) / 2 / whole : 1.0);
            const double farness =
                style.limits.size() > 1 ? static_cast<double>(i) / static_cast<double>(style.limits.size() - 1) : 0.5;
            const int alpha = kNearFill + static_cast<int>(std::lround((kFarFill - kNearFill) * farness));
            out.fill.push_back(!banded      ? QColor(Qt::transparent)
                               : style.full ? theme::with_alpha(theme::ramp(0.4), (kNearFill + kFarFill) / 2)
                                            : theme::with_alpha(colour, alpha));
            out.edge.push_back(theme::with_alpha(theme::ramp(whole > 0 ? to / whole : 1.0).darker(115), kEdge));
            out.hatched.push_back(false);
        }
        out.fill.push_back(Qt::transparent);
        out.edge.push_back(Qt::transparent);
        out.hatched.push_back(false);
        out.between_sites =
            style.overlap == service::Overlap::merged ? QColor(Qt::transparent) : theme::with_alpha(theme::kInk, 150);
        return out;
    }
};

}  // namespace

bool is_banded(const ReachStyle& style) { return style.overlap != service::Overlap::count && !style.comparing; }

void paint_ground_legend(QPainter& p, const QRectF& where, const GroundColours& colours, double most) {
    const QRectF bar(where.left(), where.top(), where.width(), 11);
    if (colours.limits.empty()) return;
    if (most <= 0) most = std::max(number(colours.limits.back()) * 1.25, 1.0);
    const auto x = [&](double value) { return bar.left() + bar.width() * std::min(value / most, 1.0); };
    p.setPen(Qt::NoPen);
    p.fillRect(bar, theme::kPaper);
    double from = 0;
    QRectF text(bar.left(), bar.bottom() + 3, bar.width(), where.bottom() - bar.bottom() - 3);
    double free_from = bar.left();
    for (std::size_t i = 0; i <= colours.limits.size(); ++i) {
        const double to = i < colours.limits.size() ? number(colours.limits[i]) : most;
        const QRectF part(QPointF(x(from), bar.top()), QPointF(x(to), bar.bottom()));
        QColor solid = colours.fill[i];
        if (solid.alpha() > 0) solid.setAlpha(std::min(255, solid.alpha() * 2));
        p.fillRect(part, solid);
        if (colours.hatched[i]) p.fillRect(part, QBrush(colours.edge[i], Qt::BDiagPattern));
        if (i < colours.limits.size()) {
            QColor edge = colours.edge[i].alpha() > 0 ? colours.edge[i] : QColor(theme::kInk);
            p.fillRect(QRectF(x(to) - 1, bar.top() - 1, 2, bar.height() + 3), edge);
            p.setPen(theme::kInk);
            const QString said = QString::fromStdString(describe(colours.limits[i]));
            const double width = p.fontMetrics().horizontalAdvance(said);
            const double at = std::clamp(x(to) - width / 2, bar.left(), bar.right() - width);
            if (at >= free_from) {
                p.drawText(QRectF(at, text.top(), width + 2, text.height()), Qt::AlignVCenter, said);
                free_from = at + width + 6;
            }
            p.setPen(Qt::NoPen);
        }
        from = to;
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme::kRule, 1));
    p.drawRect(bar);
}

const MapLook& reach_look() {
    static const ReachLook look;
    return look;
}

}  // namespace otoro::desktop
