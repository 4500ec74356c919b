#include "desktop/parts/quiet_plot.h"

#include "desktop/theme.h"

namespace otoro::desktop {

void make_quiet(QCustomPlot& plot) {
    plot.setBackground(theme::kPaper);
    const QFont small = theme::type(0.85);
    for (QCPAxis* axis : {plot.xAxis, plot.yAxis}) {
        axis->setTickLabelFont(small);
        axis->setLabelFont(small);
        axis->setBasePen(QPen(theme::kRule));
        axis->setTickPen(QPen(theme::kRule));
        axis->setSubTicks(false);
        axis->setTickLabelColor(theme::kSoftInk);
        axis->setLabelColor(theme::kSoftInk);
        axis->grid()->setPen(QPen(QColor(0xEC, 0xE7, 0xDB)));
        axis->grid()->setZeroLinePen(Qt::NoPen);
    }
}

}  // namespace otoro::desktop
