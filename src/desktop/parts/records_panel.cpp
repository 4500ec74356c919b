#include "desktop/parts/records_panel.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QItemSelectionModel>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSettings>
#include <QShortcut>
#include <QStackedWidget>
#include <QTabBar>
#include <QTableView>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/parts/shown_name.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {
constexpr std::size_t kManyRows = 50'000;
constexpr int kPauseMs = 250;
constexpr const char* kOpenSetting = "records/open";
}  // namespace

RecordsPanel::RecordsPanel(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    demand_ = new RecordModel(std::make_shared<DemandSource>(nullptr), this);
    sites_ = new RecordModel(std::make_shared<SiteSource>(nullptr), this);
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
    export_ = new QPushButton(tr("Export\u2026"), this);
    export_->setToolTip(tr("Write the places that are shown, in this order, to a file"));
    export_->setAccessibleName(tr("Export the records that are shown"));
    columns_ = new QPushButton(tr("Columns\u2026"), this);
    columns_->setAccessibleName(tr("Choose columns"));
    stack_ = new QStackedWidget(this);
    demand_table_ = make_table(*demand_, tr("Demand records"));
    site_table_ = make_table(*sites_, tr("Site records"));
    stack_->addWidget(demand_table_);
    stack_->addWidget(site_table_);
    demand_table_->setColumnWidth(DemandSource::kStatus, 110);
    demand_table_->setColumnWidth(DemandSource::kSite, 150);
    site_table_->setColumnWidth(SiteSource::kName, 200);
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
    bar->addWidget(columns_);
    bar->addWidget(export_);
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
    connect(columns_, &QPushButton::clicked, this, [this] {
        auto& table = stack_->currentIndex() == 0 ? *demand_table_ : *site_table_;
        offer_columns(table, columns_->mapToGlobal(QPoint(0, columns_->height())));
    });
    connect(export_, &QPushButton::clicked, this, &RecordsPanel::export_shown);
    // A few rows follow each letter; many wait for the end of the word.
    typing_.setSingleShot(true);
    connect(&typing_, &QTimer::timeout, this, [this] {
        demand_->set_words(filter_->text());
        sites_->set_words(filter_->text());
    });
    connect(filter_, &QLineEdit::textChanged, this, [this] {
        if (demand_->all() > kManyRows) return typing_.start(kPauseMs);
        demand_->set_words(filter_->text());
        sites_->set_words(filter_->text());
    });
    for (const auto* model : {demand_, sites_})
        connect(model, &RecordModel::arranging_changed, this, &RecordsPanel::count);
    connect(copy_button, &QPushButton::clicked, this, &RecordsPanel::copy);
    connect(&session_.selection, &Selection::changed, this, &RecordsPanel::show_selection);
    connect(demand_, &QAbstractItemModel::modelReset, this, &RecordsPanel::show_selection);
    connect(sites_, &QAbstractItemModel::modelReset, this, &RecordsPanel::show_selection);
    connect(&session_.selection, &Selection::changed, this, &RecordsPanel::count);
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
    if (open && behind_) QTimer::singleShot(0, this, &RecordsPanel::follow);
    open_->setText(open ? tr("\u25be Records") : tr("\u25b8 Records"));
    open_->setAccessibleName(open ? tr("Close the records") : tr("Open the records"));
    for (QWidget* w : std::initializer_list<QWidget*>{tabs_, filter_, stack_, copy_, export_, columns_})
        w->setVisible(open);
    setSizePolicy(QSizePolicy::Preferred, open ? QSizePolicy::Expanding : QSizePolicy::Fixed);
    setMaximumHeight(open ? QWIDGETSIZE_MAX : open_->sizeHint().height() + 12);
    setMinimumHeight(open ? theme::scaled(130) : open_->sizeHint().height() + 12);
}

void RecordsPanel::set_access(std::shared_ptr<const service::FloatingCatchment> access) {
    if (access == access_) return;
    access_ = std::move(access);
    filled_.reset();
    follow();
}

void RecordsPanel::follow() {
    later_.stop();
    // Nobody looks at half a million rows that are closed.
    const auto answer = session_.answers.shown();
    if (!is_open() && answer && answer->outcome.places.size() > kManyRows) {
        behind_ = true;
        return count();
    }
    behind_ = false;
    // The same answer judged anew changes no record: the rows stay where they are.
    if (filled_ && *filled_ == answer && said_ == wording()) return;
    filled_ = answer;
    said_ = wording();
    demand_->show(std::make_shared<DemandSource>(session_.answers.shown(), access_));
    sites_->show(std::make_shared<SiteSource>(session_.answers.shown()));
    show_columns(*demand_table_);
    show_columns(*site_table_);
    count();
}

namespace {

QString column_setting(const QTableView& table, const QString& key) {
    return QString("records/%1/%2").arg(table.objectName(), key);
}

}  // namespace

void RecordsPanel::show_columns(QTableView& table) {
    const QSettings settings;
    const auto& columns = static_cast<RecordModel*>(table.model())->source().columns();
    for (std::size_t i = 0; i < columns.size(); ++i)
        table.setColumnHidden(
            static_cast<int>(i),
            !columns[i].there || !settings.value(column_setting(table, columns[i].key), true).toBool());
}

void RecordsPanel::show_column(QTableView& table, const QString& key, bool shown) {
    QSettings().setValue(column_setting(table, key), shown);
    show_columns(table);
}

void RecordsPanel::offer_columns(QTableView& table, const QPoint& at) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto& columns = static_cast<RecordModel*>(table.model())->source().columns();
    for (std::size_t i = 0; i < columns.size(); ++i) {
        if (!columns[i].there) continue;
        auto* a = menu->addAction(on_button(columns[i].name));
        a->setCheckable(true);
        a->setChecked(!table.isColumnHidden(static_cast<int>(i)));
        a->setEnabled(i > 0);  // one at least says which record it is
        connect(a, &QAction::toggled, this,
                [this, &table, key = columns[i].key](bool on) { show_column(table, key, on); });
    }
    menu->popup(at);
}

void RecordsPanel::export_shown() {
    // The rows must be those of the answer that is written.
    const auto answer = session_.answers.shown();
    if (!filled_ || *filled_ != answer) follow();
    if (stack_->currentIndex() != 0 || demand_->arranging()) return;  // the button waits for that
    std::vector<DemandIndex> places;
    for (int row = 0; row < demand_->rowCount(); ++row) places.emplace_back(demand_->record(row));
    emit export_wanted(places);
}

QTableView* RecordsPanel::make_table(RecordModel& model, const QString& name) {
    auto* t = new QTableView(this);
    t->setModel(&model);
    t->setObjectName(&model == demand_ ? "demand" : "sites");
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
    t->horizontalHeader()->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(t->horizontalHeader(), &QWidget::customContextMenuRequested, this,
            [this, t](const QPoint& at) { offer_columns(*t, t->horizontalHeader()->mapToGlobal(at)); });
    t->setContextMenuPolicy(Qt::ActionsContextMenu);
    auto* show = new QAction(tr("Show on the map"), t);
    connect(show, &QAction::triggered, this, &RecordsPanel::show_wanted);
    auto* copy = new QAction(tr("Copy"), t);
    connect(copy, &QAction::triggered, this, &RecordsPanel::copy);
    t->addActions({show, copy});
    connect(t->selectionModel(), &QItemSelectionModel::selectionChanged, this, &RecordsPanel::take_selection);
    return t;
}

void RecordsPanel::count() {
    const bool demand = stack_->currentIndex() == 0;
    const RecordModel& model = demand ? *demand_ : *sites_;
    export_->setEnabled(demand && model.rowCount() > 0 && !model.arranging());
    if (behind_)
        return count_->setText(counted(session_.answers.shown() ? session_.answers.shown()->outcome.places.size() : 0,
                                       tr("record"), tr("records")));
    if (model.arranging()) return count_->setText(tr("being looked through\u2026"));
    const auto shown = static_cast<std::uint64_t>(model.rowCount());
    const QString records = counted(model.all(), tr("record"), tr("records"));
    QString text = shown == model.all() ? records : tr("%1 of %2").arg(number(shown), records);
    if (const auto n = session_.selection.picked().places.size(); demand && n > 0)
        text += tr(", %1 picked").arg(number(n));
    count_->setText(text);
}

void RecordsPanel::select(QTableView& table, const RecordModel& model, const std::vector<std::uint32_t>& records) {
    std::vector<int> rows;
    for (const auto record : records)
        if (const auto row = model.row_of(record)) rows.push_back(*row);
    std::sort(rows.begin(), rows.end());
    // Stretch by stretch; of thousands of them those further down are not told apart by an eye any more.
    constexpr int kMostStretches = 2'000;
    QItemSelection all;
    for (std::size_t begin = 0, end = 0; begin < rows.size() && all.size() < kMostStretches; begin = end) {
        end = begin + 1;
        while (end < rows.size() && rows[end] == rows[end - 1] + 1) ++end;
        all.append(
            QItemSelectionRange(model.index(rows[begin], 0), model.index(rows[end - 1], model.columnCount() - 1)));
    }
    table.selectionModel()->select(all, QItemSelectionModel::ClearAndSelect);
    if (!rows.empty() && !table.hasFocus())
        table.scrollTo(model.index(rows.front(), 0), QAbstractItemView::PositionAtCenter);
}

void RecordsPanel::show_selection() {
    if (showing_) return;
    showing_ = true;
    const auto& picked = session_.selection.picked();
    select(*demand_table_, *demand_, picked.places);
    select(*site_table_, *sites_, picked.site ? std::vector{picked.site->value()} : std::vector<std::uint32_t>());
    showing_ = false;
}

void RecordsPanel::take_selection() {
    if (showing_) return;
    showing_ = true;
    Picked s;
    const auto each = [](const QTableView& table, const RecordModel& model, auto&& use) {
        for (const auto& range : table.selectionModel()->selection())
            for (int row = range.top(); row <= range.bottom(); ++row) use(model.record(row));
    };
    each(*demand_table_, *demand_, [&](std::uint32_t record) { s.places.push_back(record); });
    each(*site_table_, *sites_, [&](std::uint32_t record) { s.site = SiteIndex(record); });
    session_.selection.pick(std::move(s));
    showing_ = false;
    emit picked();
}

void RecordsPanel::copy() const {
    const auto* table = stack_->currentIndex() == 0 ? demand_table_ : site_table_;
    const auto& model = stack_->currentIndex() == 0 ? *demand_ : *sites_;
    QList<int> rows, columns;
    for (const auto& range : table->selectionModel()->selection())
        for (int row = range.top(); row <= range.bottom(); ++row) rows.append(row);
    std::sort(rows.begin(), rows.end());
    if (rows.isEmpty())
        for (int r = 0; r < model.rowCount(); ++r) rows.append(r);
    for (int c = 0; c < model.columnCount(); ++c)
        if (!table->isColumnHidden(c)) columns.append(c);
    QApplication::clipboard()->setText(as_table_text(model, rows, columns));
}

}  // namespace otoro::desktop
