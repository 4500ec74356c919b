#include "desktop/parts/breakdown_view.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/parts/quiet_table.h"
#include "desktop/words.h"

namespace otoro::desktop {

using service::SummedBy;

BreakdownView::BreakdownView(Answers& answers, Selection& selection, QWidget* parent)
    : QWidget(parent), answers_(answers), selection_(selection) {
    auto* title = new QLabel(tr("SUMMED UP"), this);
    title->setProperty("role", "heading");
    const auto make_switch = [this](const QString& text) {
        auto* b = new QPushButton(text, this);
        b->setObjectName("flat");
        b->setCheckable(true);
        b->setAccessibleName(tr("Sum up %1").arg(text));
        return b;
    };
    by_zone_ = make_switch(tr("by zone"));
    by_group_ = make_switch(tr("by group"));
    auto* group = new QButtonGroup(this);
    auto* row = new QHBoxLayout;
    row->setSpacing(2);
    row->addWidget(title);
    row->addWidget(stale_ = out_of_date(this));
    row->addStretch(1);
    for (auto* b : {by_zone_, by_group_}) {
        group->addButton(b);
        row->addWidget(b);
    }
    table_ = quiet_table({QString(), tr("within"), tr("share"), tr("mean")}, tr("Sums by zone or group"), this);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(2);
    box->addLayout(row);
    box->addWidget(table_);
    connect(by_zone_, &QPushButton::clicked, this, [this] {
        by_ = SummedBy::zone;
        refresh();
    });
    connect(by_group_, &QPushButton::clicked, this, [this] {
        by_ = SummedBy::group;
        refresh();
    });
    connect(table_, &QTableWidget::cellClicked, this, [this](int r) { pick(r); });
    connect(table_, &QTableWidget::cellActivated, this, [this](int r) { pick(r); });
    constexpr int kPauseMs = 250;
    constexpr std::size_t kManyPlaces = 50'000;
    later_.setSingleShot(true);
    later_.setInterval(kPauseMs);
    connect(&later_, &QTimer::timeout, this, &BreakdownView::refresh);
    connect(&answers_, &Answers::changed, this, [this] {
        const auto answer = answers_.shown();
        if (answers_.trying_out() && answer && answer->outcome.places.size() > kManyPlaces)
            later_.start();
        else
            refresh();
    });
    refresh();
}

void BreakdownView::refresh() {
    later_.stop();
    const auto answer = answers_.shown();
    const bool zones = answer && can_sum_up(*answer->ready, SummedBy::zone);
    const bool groups = answer && can_sum_up(*answer->ready, SummedBy::group);
    setVisible(zones || groups);
    rows_.clear();
    if (!zones && !groups) return;
    if (!(by_ == SummedBy::zone ? zones : groups)) by_ = zones ? SummedBy::zone : SummedBy::group;
    by_zone_->setVisible(zones);
    by_group_->setVisible(groups);
    by_zone_->setChecked(by_ == SummedBy::zone);
    by_group_->setChecked(by_ == SummedBy::group);
    const auto& standard = answers_.question().standard;
    stale_->setVisible(!answers_.up_to_date());
    rows_ = sum_up(*answer->ready, answer->outcome, by_, standard ? std::optional(standard->limit) : std::nullopt);
    fill();
}

void BreakdownView::fill() {
    const bool by_time = answers_.question().measure() == routing::Measure::time;
    table_->horizontalHeaderItem(0)->setText(by_ == SummedBy::zone ? tr("zone") : tr("group"));
    table_->horizontalHeaderItem(1)->setText(answers_.question().standard ? tr("within") : tr("served"));
    const QuietChange quiet(*table_, static_cast<int>(rows_.size()));
    for (int i = 0; i < static_cast<int>(rows_.size()); ++i) {
        const auto& r = rows_[static_cast<std::size_t>(i)];
        const QString none = by_ == SummedBy::zone ? tr("no zone") : tr("no group");
        put_cell(*table_, i, 0, r.none ? none : QString::fromStdString(r.name), false);
        put_cell(
            *table_, i, 1,
            tr("%1 of %2")
                .arg(QString::fromStdString(describe(r.inside.weight)), QString::fromStdString(describe(r.all.weight))),
            true);
        put_cell(*table_, i, 2, percent(r.inside.weight, r.all.weight), true);
        auto mean = r.mean_minutes;
        if (!by_time && r.mean_kilometres) mean = in_long_units(Millimetres::from_metres(*r.mean_kilometres * 1000));
        put_cell(*table_, i, 3, mean ? decimal(*mean, 1) : QString::fromUtf8("\u2013"), true);
        const QString tip = tr("%1, of them %2 served; mean in %3")
                                .arg(counted(r.all.places, tr("place"), tr("places")), number(r.served.places),
                                     by_time ? tr("minutes") : long_unit());
        for (int k = 0; k < 4; ++k) table_->item(i, k)->setToolTip(tip);
    }
    fit_height(*table_, 8);
}

void BreakdownView::pick(int row) {
    const auto answer = answers_.shown();
    if (!answer || row < 0 || row >= static_cast<int>(rows_.size())) return;
    selection_.pick({places_of(*answer->ready, by_, rows_[static_cast<std::size_t>(row)]), std::nullopt});
}

}  // namespace otoro::desktop
