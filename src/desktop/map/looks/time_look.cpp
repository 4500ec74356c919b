/// How long it takes: a ramp that runs within the standard in one family of hues and turns to another beyond it.
#include <QCoreApplication>

#include "desktop/map/looks/map_look.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

/// Where the ramp is darkest: two and a half times the limit.
QString far_end(const Amount& limit) {
    if (const auto* t = std::get_if<Millis>(&limit))
        return QString::fromStdString(describe(Millis(t->count() * 5 / 2)));
    return QString::fromStdString(describe(Millimetres(std::get<Millimetres>(limit).count() * 5 / 2)));
}

class TimeLook : public OutcomeLook {
    Q_DECLARE_TR_FUNCTIONS(TimeLook)
public:
    [[nodiscard]] QString key() const override { return "time"; }
    [[nodiscard]] QString title() const override { return tr("Time"); }
    [[nodiscard]] std::vector<QColor> place_colours(const service::Outcome&) const override {
        std::vector<QColor> out;
        for (int step = 0; step < theme::kRampSteps; ++step) out.push_back(theme::ramp_colour(step));
        return out;
    }
    [[nodiscard]] std::size_t colour_of(const LookedAt& at, std::uint32_t place) const override {
        return static_cast<std::size_t>(theme::ramp_step(share_of_limit(at.outcome.places[place], at.limit)));
    }
    void paint_legend(QPainter& p, const QRectF& where, const service::Outcome*, const Amount& limit) const override {
        const QRectF bar(where.left(), where.top(), where.width(), 11);
        p.setPen(Qt::NoPen);
        for (int i = 0; i < theme::kRampSteps; ++i) {
            p.setBrush(theme::ramp_colour(i));
            p.drawRect(QRectF(bar.left() + bar.width() * i / theme::kRampSteps, bar.top(),
                              bar.width() / theme::kRampSteps + 0.5, bar.height()));
        }
        p.setPen(QPen(theme::kInk, 1.5));
        p.drawLine(QPointF(bar.center().x(), bar.top() - 2), QPointF(bar.center().x(), bar.bottom() + 4));
        const QRectF text(bar.left(), bar.bottom() + 3, bar.width(), where.bottom() - bar.bottom() - 3);
        p.drawText(text, Qt::AlignLeft | Qt::AlignVCenter, "0");
        p.drawText(text, Qt::AlignCenter, QString::fromStdString(describe(limit)));
        p.drawText(text, Qt::AlignRight | Qt::AlignVCenter, tr("%1 +").arg(far_end(limit)));
    }
};

}  // namespace

const MapLook& time_look() {
    static const TimeLook look;
    return look;
}

}  // namespace otoro::desktop
