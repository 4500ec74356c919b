#include "desktop/parts/route_panel.h"

#include <QCheckBox>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/parts/elided.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

constexpr int kStop = Qt::UserRole, kLon = Qt::UserRole + 1, kLat = Qt::UserRole + 2;
constexpr int kMostRows = 11;

QString driven(Millimetres length) {
    return length < Millimetres::metres(1000) ? RoutePanel::tr("%1 m").arg(decimal(length.metres(), 0))
                                              : long_length(length);
}

}  // namespace

RoutePanel::RoutePanel(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 0, 0, 6);
    all->setSpacing(2);
    heading_ = new QPushButton(this);
    heading_->setObjectName("heading");
    heading_->setFlat(true);
    body_ = new QWidget(this);
    all->addWidget(heading_, 0, Qt::AlignLeft);
    all->addWidget(body_);
    auto* box = new QVBoxLayout(body_);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(4);
    summary_ = new QLabel(this);
    summary_->setWordWrap(true);
    list_ = new QTreeWidget(this);
    list_->setObjectName("stops");
    list_->setAccessibleName(tr("Stops in order, with the turns to the next"));
    list_->setToolTip(
        tr("Pull a stop to another place in the order, here or on the map. Alt with the arrow keys does the same, "
           "Delete removes it."));
    list_->setColumnCount(3);
    list_->setHeaderLabels({tr("stop"), tr("min"), tr("length")});
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    list_->header()->setSectionResizeMode(2, QHeaderView::ResizeToContents);
    list_->setFrameShape(QFrame::NoFrame);
    list_->setIndentation(theme::scaled(14));
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setDragDropMode(QAbstractItemView::InternalMove);
    list_->setContextMenuPolicy(Qt::CustomContextMenu);
    list_->installEventFilter(this);
    best_ = new QPushButton(tr("Best order"), this);
    best_->setToolTip(
        tr("Puts the stops between the first and the last in the order that takes least; of a round all "
           "but the first. Up to 12 of them."));
    round_ = new QCheckBox(tr("and back"), this);
    round_->setToolTip(tr("Come back to the first stop at the end: a round"));
    auto* more = new QPushButton(tr("More"), this);
    more->setObjectName("flat");
    more->setAccessibleName(tr("What else can be done with the route"));
    auto* menu = new QMenu(more);
    menu->addAction(tr("Export the route\u2026"), this, &RoutePanel::export_wanted);
    menu->addAction(tr("Copy as text"), this, &RoutePanel::copy_wanted);
    menu->addAction(tr("Remove the route"), this, [this] { session_.route.clear(); });
    more->setMenu(menu);
    stop_ = new QPushButton(tr("Stop"), this);
    stop_->setAccessibleName(tr("Stop finding the way"));
    auto* row = new QWidget(this);
    auto* buttons = new FlowLayout(row, 10, 2);
    buttons->setContentsMargins(0, 0, 0, 0);
    for (QWidget* w : std::initializer_list<QWidget*>{best_, round_, more, stop_}) buttons->addWidget(w);
    box->addWidget(summary_);
    box->addWidget(list_);
    box->addWidget(row);
    connect(heading_, &QPushButton::clicked, this, [this] { session_.route.set_shown(!session_.route.shown()); });
    connect(best_, &QPushButton::clicked, this, [this] { session_.route.put_in_best_order(); });
    connect(round_, &QCheckBox::clicked, this, [this](bool on) { session_.route.set_round(on); });
    connect(stop_, &QPushButton::clicked, &session_.route, &RoutePlanner::stop_working);
    connect(&session_.route, &RoutePlanner::changed, this, &RoutePanel::refresh);
    connect(&session_.route, &RoutePlanner::stops_changed, this, &RoutePanel::refresh);
    connect(list_->model(), &QAbstractItemModel::rowsInserted, this, [this] {
        if (!filling_) QMetaObject::invokeMethod(this, &RoutePanel::take_order, Qt::QueuedConnection);
    });
    connect(list_, &QTreeWidget::itemExpanded, this, [this](QTreeWidgetItem* item) { fill_turns(*item); });
    connect(list_, &QTreeWidget::itemActivated, this, [this](const QTreeWidgetItem* item) {
        emit looked_at({item->data(0, kLon).toDouble(), item->data(0, kLat).toDouble()});
    });
    connect(list_, &QTreeWidget::itemClicked, this, [this](const QTreeWidgetItem* item) {
        if (item->parent() != nullptr) emit looked_at({item->data(0, kLon).toDouble(), item->data(0, kLat).toDouble()});
    });
    connect(list_, &QWidget::customContextMenuRequested, this, &RoutePanel::offer_menu);
    refresh();
}

QString RoutePanel::summary() const { return summary_->text(); }

std::optional<std::size_t> RoutePanel::chosen() const {
    const auto* item = list_->currentItem();
    while (item != nullptr && item->parent() != nullptr) item = item->parent();
    if (item == nullptr || !isVisibleTo(parentWidget())) return std::nullopt;
    return item->data(0, kStop).toUInt();
}

void RoutePanel::shift_chosen(int by) {
    const auto stop = chosen();
    const auto count = static_cast<std::ptrdiff_t>(session_.route.route().stops.size());
    if (!stop) return;
    const std::ptrdiff_t to = static_cast<std::ptrdiff_t>(*stop) + by;
    if (to < 0 || to >= count) return;
    session_.route.reorder(*stop, static_cast<std::size_t>(to));
    list_->setCurrentItem(list_->topLevelItem(static_cast<int>(to)));
}

bool RoutePanel::eventFilter(QObject* watched, QEvent* e) {
    if (watched == list_ && e->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(e);
        const auto stop = chosen();
        if (stop && key->key() == Qt::Key_Delete) {
            session_.route.take_out(*stop);
            return true;
        }
        if (stop && (key->modifiers() & Qt::AltModifier) && (key->key() == Qt::Key_Up || key->key() == Qt::Key_Down)) {
            shift_chosen(key->key() == Qt::Key_Up ? -1 : 1);
            return true;
        }
    }
    return QWidget::eventFilter(watched, e);
}

void RoutePanel::offer_menu(const QPoint& at) {
    const auto stop = chosen();
    if (!stop) return;
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("Earlier (Alt+Up)"), this, [this] { shift_chosen(-1); })->setEnabled(*stop > 0);
    menu->addAction(tr("Later (Alt+Down)"), this, [this] { shift_chosen(1); })
        ->setEnabled(*stop + 1 < session_.route.route().stops.size());
    menu->addAction(tr("Remove this stop (Delete)"), this, [this, stop] { session_.route.take_out(*stop); });
    menu->popup(list_->viewport()->mapToGlobal(at));
}

void RoutePanel::take_order() {
    // The list was pulled about: one of its stops stands elsewhere now.
    const auto count = session_.route.route().stops.size();
    if (static_cast<std::size_t>(list_->topLevelItemCount()) < count) return refresh();
    std::vector<std::size_t> order;
    for (int i = 0; i < list_->topLevelItemCount(); ++i)
        if (const auto stop = list_->topLevelItem(i)->data(0, kStop); stop.isValid()) order.push_back(stop.toUInt());
    if (order.size() != count || std::is_sorted(order.begin(), order.end())) return refresh();
    session_.route.set_order(order);
}

void RoutePanel::refresh_summary() {
    const auto& route = session_.route.route();
    const auto& found = session_.route.found();
    QString text;
    if (!session_.route.trouble().isEmpty())
        text = session_.route.trouble();
    else if (route.stops.size() < 2)
        text = tr("Add a second stop: press the map with the right button, or a place that is picked.");
    else if (found)
        text = tr("<b>%1 min</b>, %2, %3%4")
                   .arg(decimal(found->way.time.minutes(), 1), long_length(found->way.distance),
                        counted(found->route.stops.size(), tr("stop"), tr("stops")),
                        found->route.round ? tr(" and back") : QString());
    else
        text = session_.route.busy() ? tr("Finding the way...") : tr("No roads yet.");
    summary_->setTextFormat(found && session_.route.trouble().isEmpty() ? Qt::RichText : Qt::PlainText);
    if (summary_->text() != text) summary_->setText(text);
    summary_->setEnabled(session_.route.up_to_date());
}

void RoutePanel::fill_turns(QTreeWidgetItem& item) {
    const auto& found = session_.route.found();
    const std::size_t stop = item.data(0, kStop).toUInt();
    if (item.childCount() > 0 || !found || stop >= found->way.legs.size()) return;
    QList<QTreeWidgetItem*> turns;
    for (std::size_t s = found->way.legs[stop].first_step; s < found->way.end_of_steps(stop); ++s) {
        const auto& step = found->way.steps[s];
        auto* turn = new QTreeWidgetItem;
        const QString road = step.road.empty() ? tr("an unnamed road") : plain(step.road);
        const QString text = tr("%1 %2").arg(QString::fromUtf8(describe(step.turn).data()), road);
        turn->setText(0, text);
        turn->setToolTip(0, text);
        turn->setText(1, decimal(step.time.minutes(), 1));
        turn->setText(2, driven(step.distance));
        turn->setData(0, kLon, step.at.lon);
        turn->setData(0, kLat, step.at.lat);
        turn->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
        for (const int c : {1, 2}) turn->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        turns.append(turn);
    }
    filling_ = true;
    item.addChildren(turns);
    filling_ = false;
}

void RoutePanel::refresh() {
    const auto& route = session_.route.route();
    const auto& found = session_.route.found();
    setVisible(!route.stops.empty());
    const bool shown = session_.route.shown();
    heading_->setText((shown ? QString::fromUtf8("\u25be ") : QString::fromUtf8("\u25b8 ")) +
                      tr("ROUTE OVER %1").arg(counted(route.stops.size(), tr("STOP"), tr("STOPS"))));
    heading_->setAccessibleName(shown ? tr("Hide the route") : tr("Show the route"));
    body_->setVisible(shown);
    if (!shown) return;
    round_->setChecked(route.round);
    best_->setEnabled(route.stops.size() > 2 && !session_.route.busy());
    stop_->setVisible(session_.route.busy());
    refresh_summary();
    const bool fits = found && found->route == route && session_.route.trouble().isEmpty();
    if (session_.route.busy() && list_->topLevelItemCount() == static_cast<int>(route.stops.size()) && !fits)
        return;  // numbers follow when the way is there
    filling_ = true;
    const int current = list_->indexOfTopLevelItem(list_->currentItem());
    std::vector<bool> open;
    for (int i = 0; i < list_->topLevelItemCount(); ++i) open.push_back(list_->topLevelItem(i)->isExpanded());
    list_->clear();
    for (std::size_t i = 0; i < route.stops.size(); ++i) {
        const auto& stop = route.stops[i];
        auto* item = new QTreeWidgetItem(list_);
        const QString name = stop.name.empty() ? tr("stop") : plain(stop.name);
        item->setText(0, tr("%1  %2").arg(i + 1).arg(name));
        item->setToolTip(0, name);
        item->setData(0, kStop, static_cast<uint>(i));
        item->setData(0, kLon, stop.at.lon);
        item->setData(0, kLat, stop.at.lat);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsDragEnabled);
        for (const int c : {1, 2}) item->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        if (!fits || i >= found->way.legs.size()) continue;
        const auto& leg = found->way.legs[i];
        item->setText(1, decimal(leg.time.minutes(), 1));
        item->setText(2, driven(leg.distance));
        const QString to = i + 1 < route.stops.size() ? tr("to the next stop") : tr("back to the first stop");
        for (const int c : {1, 2}) item->setToolTip(c, to);
        item->setChildIndicatorPolicy(QTreeWidgetItem::ShowIndicator);
        if (i < open.size() && open[i]) {
            fill_turns(*item);
            filling_ = true;
            item->setExpanded(true);
        }
    }
    if (current >= 0 && current < list_->topLevelItemCount()) list_->setCurrentItem(list_->topLevelItem(current));
    const int row = list_->topLevelItemCount() > 0 ? std::max(1, list_->sizeHintForRow(0)) : 1;
    const int rows = std::clamp(static_cast<int>(route.stops.size()), 3, kMostRows);
    list_->setFixedHeight(list_->header()->sizeHint().height() + row * rows + 4);
    filling_ = false;
}

}  // namespace otoro::desktop
