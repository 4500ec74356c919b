#include "desktop/parts/records_panel.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QShortcut>
#include <QStackedWidget>
#include <QTabBar>
#include <QTableView>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {
constexpr std::size_t kManyRows = 50'000;
constexpr int kPauseMs = 250;
constexpr const char* kOpenSetting = "records/open";
}  // namespace

RecordsPanel::RecordsPanel(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    demand_ = new DemandRecords(this);
    sites_ = new SiteRecords(this);
    demand_filter_ = new RecordFilter(this);
    site_filter_ = new RecordFilter(this);
    demand_filter_->setSourceModel(demand_);
    site_filter_->setSourceModel(sites_);
    tabs_ = new QTabBar(this);
    tabs_->addTab(tr("Demand"));
    tabs_->addTab(tr("Sites"));
    tabs_->setDrawBase(false);
    tabs_->setAccessibleName(tr("Which records"));
    filter_ = new QLineEdit(this);
    filter_->setPlaceholderText(tr("Filter: any words, such as cut off or a site\u2019s name"));
    filter_->setAccessibleName(tr("Filter the records"));
    filter_->setClearButtonEnabled(true);
    filter_->setMaximumWidth(380);
    count_ = new QLabel(this);
    count_->setProperty("role", "soft");
    auto* copy_button = new QPushButton(tr("Copy"), this);
    copy_button->setToolTip(tr("Copy the picked rows, or all of them, for a spreadsheet (Ctrl+C)"));
    copy_button->setAccessibleName(tr("Copy the records"));
    stack_ = new QStackedWidget(this);
    demand_table_ = make_table(*demand_filter_, tr("Demand records"));
    site_table_ = make_table(*site_filter_, tr("Site records"));
    stack_->addWidget(demand_table_);
    stack_->addWidget(site_table_);
    demand_table_->setColumnWidth(DemandRecords::kStatus, 110);
    demand_table_->setColumnWidth(DemandRecords::kSite, 150);
    site_table_->setColumnWidth(SiteRecords::kName, 200);
    site_table_->sortByColumn(-1, Qt::AscendingOrder);

    open_ = new QPushButton(this);
    open_->setObjectName("flat");
    open_->setCheckable(true);
    auto* bar = new QHBoxLayout;
    bar->addWidget(open_);
    bar->addWidget(tabs_);
    bar->addWidget(filter_, 1);
    bar->addWidget(count_);
    bar->addStretch(1);
    bar->addWidget(copy_button);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 4, 10, 6);
    box->setSpacing(4);
    box->addLayout(bar);
    box->addWidget(stack_, 1);
    copy_ = copy_button;
    connect(open_, &QPushButton::clicked, this, [this](bool on) {
        set_open(on);
        QSettings().setValue(kOpenSetting, on);
        emit opened(on);
    });
    connect(tabs_, &QTabBar::currentChanged, stack_, &QStackedWidget::setCurrentIndex);
    connect(tabs_, &QTabBar::currentChanged, this, &RecordsPanel::count);
    connect(filter_, &QLineEdit::textChanged, this, [this](const QString& text) {
        demand_filter_->set_words(text);
        site_filter_->set_words(text);
        count();
    });
    connect(copy_button, &QPushButton::clicked, this, &RecordsPanel::copy);
    connect(&session_.selection, &Selection::changed, this, &RecordsPanel::show_selection);
    connect(demand_, &QAbstractItemModel::modelReset, this, &RecordsPanel::show_selection);
    later_.setSingleShot(true);
    later_.setInterval(kPauseMs);
    connect(&later_, &QTimer::timeout, this, &RecordsPanel::follow);
    connect(&session_.answers, &Answers::changed, this, [this] {
        // Laying out half a million rows takes some frames, which a hand that is dragging a site would feel: they
        // follow when it rests.
        const auto answer = session_.answers.shown();
        if (session_.answers.trying_out() && answer && answer->outcome.places.size() > kManyRows)
            later_.start();
        else
            follow();
    });
    set_open(QSettings().value(kOpenSetting, false).toBool());
    follow();
}

void RecordsPanel::set_open(bool open) {
    open_->setChecked(open);
    open_->setText(open ? tr("\u25be Records") : tr("\u25b8 Records"));
    open_->setAccessibleName(open ? tr("Close the records") : tr("Open the records"));
    for (QWidget* w : std::initializer_list<QWidget*>{tabs_, filter_, stack_, copy_}) w->setVisible(open);
    setSizePolicy(QSizePolicy::Preferred, open ? QSizePolicy::Expanding : QSizePolicy::Fixed);
    setMaximumHeight(open ? QWIDGETSIZE_MAX : open_->sizeHint().height() + 12);
    setMinimumHeight(open ? theme::scaled(130) : open_->sizeHint().height() + 12);
}

void RecordsPanel::follow() {
    later_.stop();
    demand_->show(session_.answers.shown());
    sites_->show(session_.answers.shown());
    for (const auto column : {DemandRecords::kZone, DemandRecords::kGroup})
        demand_table_->setColumnHidden(column, !demand_->has(column));
    count();
}

QTableView* RecordsPanel::make_table(RecordFilter& filter, const QString& name) {
    auto* t = new QTableView(this);
    t->setModel(&filter);
    t->setAccessibleName(name);
    t->setSortingEnabled(true);
    t->sortByColumn(-1, Qt::AscendingOrder);
    t->setSelectionBehavior(QAbstractItemView::SelectRows);
    t->setAlternatingRowColors(true);
    t->setTabKeyNavigation(false);
    t->verticalHeader()->hide();
    t->verticalHeader()->setDefaultSectionSize(t->fontMetrics().height() + 7);
    t->horizontalHeader()->setStretchLastSection(true);
    auto* shortcut = new QShortcut(QKeySequence::Copy, t, nullptr, nullptr, Qt::WidgetShortcut);
    connect(shortcut, &QShortcut::activated, this, &RecordsPanel::copy);
    connect(t->selectionModel(), &QItemSelectionModel::selectionChanged, this, &RecordsPanel::take_selection);
    return t;
}

void RecordsPanel::count() {
    const bool demand = stack_->currentIndex() == 0;
    const int shown = demand ? demand_filter_->rowCount() : site_filter_->rowCount();
    const int all = demand ? demand_->rowCount() : sites_->rowCount();
    const QString records = counted(static_cast<std::uint64_t>(all), tr("record"), tr("records"));
    count_->setText(shown == all ? records : tr("%1 of %2").arg(number(static_cast<std::uint64_t>(shown)), records));
}

void RecordsPanel::show_selection() {
    if (showing_) return;
    showing_ = true;
    QItemSelection rows;
    QModelIndex first;
    const int last_column = DemandRecords::kColumns - 1;
    for (const auto place : session_.selection.picked().places) {
        const QModelIndex at = demand_filter_->mapFromSource(demand_->index(static_cast<int>(place), 0));
        if (!at.isValid()) continue;
        rows.select(at, at.siblingAtColumn(last_column));
        if (!first.isValid()) first = at;
    }
    demand_table_->selectionModel()->select(rows, QItemSelectionModel::ClearAndSelect);
    if (first.isValid()) demand_table_->scrollTo(first, QAbstractItemView::PositionAtCenter);
    QItemSelection site_rows;
    if (const auto site = session_.selection.picked().site) {
        const QModelIndex at = site_filter_->mapFromSource(sites_->index(static_cast<int>(site->value()), 0));
        if (at.isValid()) site_rows.select(at, at.siblingAtColumn(SiteRecords::kColumns - 1));
    }
    site_table_->selectionModel()->select(site_rows, QItemSelectionModel::ClearAndSelect);
    showing_ = false;
}

void RecordsPanel::take_selection() {
    if (showing_) return;
    showing_ = true;
    Picked s;
    for (const auto& row : demand_table_->selectionModel()->selectedRows())
        s.places.push_back(static_cast<std::uint32_t>(demand_filter_->mapToSource(row).row()));
    for (const auto& row : site_table_->selectionModel()->selectedRows())
        s.site = SiteIndex(static_cast<std::uint32_t>(site_filter_->mapToSource(row).row()));
    session_.selection.pick(std::move(s));
    showing_ = false;
    emit picked();
}

void RecordsPanel::copy() const {
    const auto* table = stack_->currentIndex() == 0 ? demand_table_ : site_table_;
    QList<int> rows;
    for (const auto& r : table->selectionModel()->selectedRows()) rows.append(r.row());
    std::sort(rows.begin(), rows.end());
    if (rows.isEmpty())
        for (int r = 0; r < table->model()->rowCount(); ++r) rows.append(r);
    QApplication::clipboard()->setText(as_table_text(*table->model(), rows));
}

}  // namespace otoro::desktop
