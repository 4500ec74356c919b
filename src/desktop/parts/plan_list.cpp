#include "desktop/parts/plan_list.h"

#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "desktop/parts/elided.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

enum Role { kShare = Qt::UserRole, kWanted, kMet, kDetail };

/// Name and share on one line, the bar with the standard's mark below, what the plan changes under that.
class PlanDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {120, 62}; }

    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        const bool chosen = option.state & QStyle::State_Selected;
        if (chosen) {
            p->fillRect(option.rect, theme::kAccentPale);
            p->fillRect(QRect(option.rect.topLeft(), QSize(4, option.rect.height())), theme::kAccent);
        }
        if (option.state & QStyle::State_HasFocus) {
            p->setPen(theme::kAccent);
            p->drawRect(option.rect.adjusted(0, 0, -1, -1));
        }
        const QRect r = option.rect.adjusted(12, 6, -10, -6);
        const QVariant share = index.data(kShare);
        const QColor colour = index.data(kMet).toBool() ? theme::kMet : theme::kNotMet;
        const QString number =
            share.isValid() ? QString::fromStdString(describe(Share(share.toInt()))) : QString::fromUtf8("\u2026");
        p->setFont(theme::type(1.0, QFont::DemiBold));
        const int number_width = p->fontMetrics().horizontalAdvance(number) + 6;
        p->setPen(theme::kInk);
        p->drawText(r.adjusted(0, 0, -number_width, 0), Qt::AlignTop | Qt::AlignLeft,
                    p->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, r.width() - number_width));
        p->setPen(share.isValid() ? colour : theme::kSoftInk);
        p->drawText(r, Qt::AlignTop | Qt::AlignRight, number);
        const QRectF bar(r.left(), r.top() + 22, r.width(), 7);
        p->setPen(Qt::NoPen);
        p->setBrush(QColor(0xE4, 0xDE, 0xD0));
        p->drawRect(bar);
        if (share.isValid()) {
            p->setBrush(colour);
            p->drawRect(QRectF(bar.topLeft(), QSizeF(bar.width() * share.toInt() / 1e6, bar.height())));
        }
        if (const QVariant wanted = index.data(kWanted); wanted.isValid()) {
            p->setPen(QPen(theme::kInk, 2));
            const double x = bar.left() + bar.width() * wanted.toInt() / 1e6;
            p->drawLine(QPointF(x, bar.top() - 3), QPointF(x, bar.bottom() + 3));
        }
        p->setFont(theme::type(0.88));
        p->setPen(theme::kSoftInk);
        p->drawText(r, Qt::AlignBottom | Qt::AlignLeft,
                    p->fontMetrics().elidedText(index.data(kDetail).toString(), Qt::ElideRight, r.width()));
        p->restore();
    }
};

/// What a plan changes, with the names of the sites.
QString describe_changes(const service::Study& study, const service::Plan& plan) {
    const auto* sites = study.find_sites(study.question.sites);
    if (plan.is_today()) return PlanList::tr("nothing changed");
    QStringList parts;
    int elsewhere = 0;
    for (const auto& c : plan.changes) {
        if (sites && !service::applies(c, *sites->set)) {
            ++elsewhere;
            continue;
        }
        QString id = QString::fromStdString(c.site);
        if (sites)
            for (const auto& s : sites->set->sites)
                if (s.id == c.site) id = QString::fromStdString(service::label(s));
        switch (c.change) {
            case service::Change::open:
                parts << PlanList::tr("opens %1").arg(id);
                break;
            case service::Change::close:
                parts << PlanList::tr("closes %1").arg(id);
                break;
            case service::Change::move:
                parts << PlanList::tr("moves %1").arg(id);
                break;
            case service::Change::add:
                parts << PlanList::tr("adds %1").arg(id);
                break;
        }
    }
    for (const auto& c : plan.closures) {
        const QString name = QString::fromStdString(c.name);
        switch (c.effect) {
            case roads::ClosureEffect::shut:
                parts << name;
                break;
            case roads::ClosureEffect::slowed:
                parts << PlanList::tr("%1 (slowed)").arg(name);
                break;
            case roads::ClosureEffect::delay:
                parts << PlanList::tr("%1 (delay)").arg(name);
                break;
        }
    }
    if (elsewhere > 0) {
        const QString to = QString::fromStdString(study.question.sites);
        const bool nothing =
            parts.isEmpty() && elsewhere == static_cast<int>(plan.changes.size()) && plan.closures.empty();
        parts << (nothing ? PlanList::tr("does not apply here: it changes other sites than the %1").arg(to)
                          : PlanList::tr("%1 of its changes do not apply to the %2").arg(elsewhere).arg(to));
    }
    return parts.join(", ");
}

}  // namespace

PlanList::PlanList(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 10, 6, 8);
    auto* title = new QLabel(tr("PLANS"), this);
    title->setProperty("role", "heading");
    list_ = new QListWidget(this);
    list_->setAccessibleName(tr("Plans"));
    list_->setItemDelegate(new PlanDelegate(list_));
    list_->setContextMenuPolicy(Qt::CustomContextMenu);
    list_->setEditTriggers(QAbstractItemView::EditKeyPressed);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    new_plan_ = new QPushButton(tr("New plan\u2026"), this);
    new_plan_->setAccessibleName(tr("New plan from a site"));
    new_plan_->setToolTip(tr("Open a candidate, close a site, or double-click the map to add one"));
    box->addWidget(title);
    box->addWidget(list_, 1);
    box->addWidget(new_plan_);
    connect(new_plan_, &QPushButton::clicked, this, &PlanList::offer_new_plan);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0) session_.choose_plan(static_cast<std::size_t>(row));
    });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const auto row = static_cast<std::size_t>(list_->row(item));
        if (row >= session_.study().plans.size()) return;
        if (item->text().toStdString() != session_.study().plans[row].name) session_.rename_plan(row, item->text());
        refresh();
    });
    connect(list_, &QWidget::customContextMenuRequested, this, &PlanList::offer_plan_menu);
    connect(&session_, &Session::plans_changed, this, &PlanList::refresh);
    connect(&session_, &Session::plan_chosen, this, &PlanList::refresh);
    connect(&session_, &Session::answer_changed, this, &PlanList::refresh);
    connect(&session_, &Session::question_changed, this, &PlanList::refresh);
    refresh();
}

void PlanList::refresh() {
    const QSignalBlocker quiet(list_);
    const auto& plans = session_.study().plans;
    while (list_->count() > static_cast<int>(plans.size())) delete list_->takeItem(list_->count() - 1);
    while (list_->count() < static_cast<int>(plans.size())) list_->addItem(new QListWidgetItem);
    for (std::size_t i = 0; i < plans.size(); ++i) {
        auto* item = list_->item(static_cast<int>(i));
        const auto v = session_.verdict_of(i);
        item->setText(QString::fromStdString(plans[i].name));
        item->setFlags(i == 0 ? Qt::ItemIsEnabled | Qt::ItemIsSelectable
                              : Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable);
        item->setData(kShare, v ? QVariant(v->share.ppm()) : QVariant());
        item->setData(kMet, v && v->met);
        item->setData(kWanted,
                      session_.question().standard ? QVariant(session_.question().standard->share.ppm()) : QVariant());
        item->setData(kDetail, describe_changes(session_.study(), plans[i]));
        item->setToolTip(describe_changes(session_.study(), plans[i]));
        item->setData(
            Qt::AccessibleTextRole,
            tr("%1, %2").arg(item->text(), v ? QString::fromStdString(describe(v->share)) : tr("not worked out yet")));
    }
    list_->setCurrentRow(static_cast<int>(session_.plan_index()));
    new_plan_->setEnabled(session_.study().find_sites(session_.question().sites) != nullptr);
}

void PlanList::offer_new_plan() {
    const auto* sites = session_.study().find_sites(session_.question().sites);
    if (!sites) return;
    QMenu menu(this);
    for (const auto& s : sites->set->sites) {
        const QString name = elided(QString::fromStdString(service::label(s)));
        const bool open = s.state == places::SiteState::open;
        menu.addAction(open ? tr("Close %1").arg(name) : tr("Open %1").arg(name), this, [this, name, open, id = s.id] {
            session_.new_plan(open ? tr("%1 closes").arg(name) : tr("%1 opens").arg(name),
                              {{open ? service::Change::close : service::Change::open, id, std::nullopt}});
        });
    }
    menu.exec(new_plan_->mapToGlobal(QPoint(0, new_plan_->height())));
}

void PlanList::offer_plan_menu(const QPoint& at) {
    auto* item = list_->itemAt(at);
    const int row = list_->row(item);
    if (row <= 0) return;
    QMenu menu(this);
    menu.addAction(tr("Rename (F2)"), this, [this, row] {
        if (auto* there = list_->item(row)) list_->editItem(there);
    });
    menu.addAction(tr("Remove"), this, [this, row] { session_.remove_plan(static_cast<std::size_t>(row)); });
    menu.exec(list_->mapToGlobal(at));
}

}  // namespace otoro::desktop
