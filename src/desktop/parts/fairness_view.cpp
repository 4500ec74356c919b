#include "desktop/parts/fairness_view.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/parts/quiet_plot.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

using service::FairnessRow;
using service::SummedBy;

constexpr const char* kFairnessOpen = "answer/how_evenly";
constexpr int kRow = Qt::UserRole;  // its number: zones first, then groups

}  // namespace

FairnessView::FairnessView(Session& session, QWidget* parent)
    : Fold({tr("How evenly"), tr("Open how evenly travel is shared"), tr("Close how evenly travel is shared")},
           kFairnessOpen, parent),
      session_(session),
      work_(this) {
    words_ = new QLabel(body());
    words_->setWordWrap(true);
    words_->setProperty("role", "soft");
    plot_ = new QCustomPlot(body());
    make_quiet(*plot_);
    plot_->setFixedHeight(theme::scaled(120));
    plot_->setAccessibleName(tr("Lorenz curve: part of all travel by part of the weight, least travelled first"));
    plot_->setToolTip(
        tr("The Lorenz curve: the part of the weight that travels least has this part of all travel. On the straight "
           "line all travel alike."));
    for (QCPAxis* axis : {plot_->xAxis, plot_->yAxis}) {
        axis->grid()->setVisible(false);
        axis->setRange(0, 100);
        axis->ticker()->setTickCount(3);
    }
    plot_->xAxis->setLabel(tr("% of weight"));
    plot_->yAxis->setLabel(tr("% of travel"));
    auto* alike = new QCPCurve(plot_->xAxis, plot_->yAxis);
    alike->setPen(QPen(theme::kFaintInk, 1.2, Qt::DashLine));
    alike->setData({0, 100}, {0, 100});
    lorenz_ = new QCPCurve(plot_->xAxis, plot_->yAxis);
    lorenz_->setPen(QPen(theme::kInk, 2));
    lorenz_->setBrush(QColor(0x2B, 0x86, 0x9E, 34));
    pick_ = new QPushButton(tr("Pick the worst-served tenth"), body());
    pick_->setAccessibleName(pick_->text());
    table_ = quiet_table({QString(), tr("missed"), tr("worst tenth"), tr("Gini")},
                         tr("Zones and groups, those who miss most first"), body());
    auto* out = new QPushButton(tr("Export\u2026"), body());
    out->setAccessibleName(tr("Export how evenly travel is shared"));
    connect(out, &QPushButton::clicked, this, &FairnessView::export_wanted);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(pick_);
    buttons->addWidget(out);
    buttons->addStretch(1);
    inside().addWidget(words_);
    inside().addWidget(plot_);
    inside().addLayout(buttons);
    inside().addWidget(table_);
    connect(pick_, &QPushButton::clicked, this, [this] {
        if (const auto found = work_.found(); found && found->answer == session_.answers.shown())
            session_.selection.pick({found->fair.worst_places, std::nullopt});
    });
    connect(table_, &QTableWidget::cellClicked, this, [this](int row) { pick_row(row); });
    connect(table_, &QTableWidget::cellActivated, this, [this](int row) { pick_row(row); });
    connect(&later(), &QTimer::timeout, this, &FairnessView::ask);
    connect(&work_, &WorkedOutSignals::changed, this, &FairnessView::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &FairnessView::trouble);
    connect(&session_.answers, &Answers::changed, this, &FairnessView::follow);
    connect(&session_.document, &Document::question_changed, this, &FairnessView::follow);
    recall();
}

QString FairnessView::words() const { return words_->text(); }

void FairnessView::follow() {
    if (!is_open()) return;
    const auto answer = session_.answers.shown();
    if (!answer) {
        work_.forget();
        return refresh();
    }
    const auto& question = session_.document.question();
    if (const auto& found = work_.found();
        found && found->answer == answer && found->question.standard == question.standard && !work_.busy())
        return refresh();
    later().start();
}

void FairnessView::ask() {
    const auto answer = session_.answers.shown();
    if (!answer || !session_.answers.up_to_date()) return refresh();
    work_.ask([answer, question = session_.document.question()](const Task& task) {
        return std::make_shared<const Found>(
            Found{answer, question, how_fair(*answer->ready, answer->outcome, question.standard, task)});
    });
}

void FairnessView::refresh() {
    const auto& found = work_.found();
    const bool any = found && found->fair.all && !found->answer->outcome.places.empty();
    const bool current = any && found->answer == session_.answers.shown();
    plot_->setVisible(any);
    pick_->setVisible(any);
    pick_->setEnabled(current);
    table_->setVisible(any && !(found->fair.zones.empty() && found->fair.groups.empty()));
    if (!any) {
        words_->setText(work_.busy() ? tr("Being worked out\u2026")
                        : found      ? tr("Nobody is served.")
                                     : tr("Nothing worked out yet."));
        return;
    }
    const auto& fair = *found->fair.all;
    const double unit = counts_per_unit(found->fair.measure);
    const QString name = unit_of(found->fair.measure);
    words_->setText(tr("The worst-served tenth travels %1 %4 on average, the best-served %2 %4, all %3 %4. Gini %5.")
                        .arg(decimal(fair.worst_tenth / unit, 1), decimal(fair.best_tenth / unit, 1),
                             decimal(fair.mean / unit, 1), name, decimal(fair.gini, 2)));
    QVector<double> x, y;
    for (const auto& p : fair.lorenz) {
        x << 100 * p.weight;
        y << 100 * p.travel;
    }
    lorenz_->setData(x, y);
    plot_->replot(QCustomPlot::rpQueuedReplot);
    const auto& zones = found->fair.zones;
    const auto& groups = found->fair.groups;
    const int rows = static_cast<int>(zones.size() + groups.size());
    table_->horizontalHeaderItem(0)->setText(groups.empty()  ? tr("zone")
                                             : zones.empty() ? tr("group")
                                                             : tr("zone or group"));
    table_->horizontalHeaderItem(2)->setText(tr("worst tenth, %1").arg(name));
    const QString none = QString::fromUtf8("\u2013");
    {
        const QuietChange quiet(*table_, rows);
        for (int i = 0; i < rows; ++i) {
            const auto number = static_cast<std::size_t>(i);
            const bool zone = number < zones.size();
            const FairnessRow& r = zone ? zones[number] : groups[number - zones.size()];
            put_cell(*table_, i, 0, r.row.none ? (zone ? tr("no zone") : tr("no group")) : plain(r.row.name), false)
                .setData(kRow, i);
            put_cell(*table_, i, 1, plain(describe_lack(r.not_inside)), true);
            put_cell(*table_, i, 2, r.own ? decimal(r.own->worst_tenth / unit, 1) : none, true);
            put_cell(*table_, i, 3, r.own ? decimal(r.own->gini, 2) : none, true);
            const QString tip = tr("%1 of %2 are missed; %3 of them are in the worst-served tenth of all")
                                    .arg(plain(describe_lack(r.not_inside)), plain(describe(r.row.all.weight)),
                                         percent(r.in_worst, r.row.all.weight));
            for (int c = 0; c < 4; ++c) table_->item(i, c)->setToolTip(tip);
        }
    }
    fit_height(*table_, 7);
}

void FairnessView::pick_row(int row) {
    const auto& found = work_.found();
    if (!found || found->answer != session_.answers.shown() || row < 0 || !table_->item(row, 0)) return;
    const auto number = static_cast<std::size_t>(table_->item(row, 0)->data(kRow).toInt());
    const auto& zones = found->fair.zones;
    const bool zone = number < zones.size();
    const auto& r = zone ? zones[number] : found->fair.groups[number - zones.size()];
    session_.selection.pick(
        {places_of(*found->answer->ready, zone ? SummedBy::zone : SummedBy::group, r.row), std::nullopt});
}

}  // namespace otoro::desktop
