#include "desktop/parts/plan_list.h"

#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QShortcut>
#include <QSignalBlocker>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "desktop/parts/elided.h"
#include "desktop/parts/share_delegate.h"
#include "desktop/parts/shown_name.h"
#include "desktop/parts/site_picker.h"
#include "desktop/theme.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

/// Its name, or its id, as it stands under the plan.
QString name_of(const service::SiteChange& c, const std::vector<service::PlannedSite>& sites) {
    for (const auto& s : sites)
        if (change_of(s, c.change).same_site(c)) return QString::fromStdString(service::label(s.site));
    return QString::fromStdString(c.site);
}

QString words(const service::SiteChange& c, const QString& site) {
    switch (c.change) {
        case service::Change::open:
            return PlanList::tr("opens %1").arg(site);
        case service::Change::close:
            return PlanList::tr("closes %1").arg(site);
        case service::Change::move:
            return PlanList::tr("moves %1").arg(site);
        case service::Change::add:
            return PlanList::tr("adds %1").arg(site);
    }
    return {};
}

QString words(const roads::Closure& c) {
    const QString name = QString::fromStdString(c.name);
    switch (c.effect) {
        case roads::ClosureEffect::closed:
            return name;
        case roads::ClosureEffect::slowed:
            return PlanList::tr("%1 (slowed)").arg(name);
        case roads::ClosureEffect::delay:
            return PlanList::tr("%1 (delay)").arg(name);
    }
    return {};
}

/// What a plan does in the end to the sites that the question is about, and to the roads.
QString describe_changes(const service::Study& study, const service::Plan& plan) {
    if (plan.is_today()) return PlanList::tr("nothing changed");
    const auto& question = study.question();
    const auto sites = study.sites_of(question);
    const auto planned = sites_under(sites, plan, question.use);
    QStringList parts;
    for (const auto& c : net_effect(sites, plan)) parts << words(c, name_of(c, planned));
    for (const auto& c : plan.closures) parts << words(c);
    const auto elsewhere = std::count_if(plan.changes.begin(), plan.changes.end(),
                                         [&](const service::SiteChange& c) { return !applies(c, sites); });
    if (elsewhere > 0) {
        const QString to = QString::fromStdString(service::listed(question.sites));
        const bool nothing = elsewhere == static_cast<std::ptrdiff_t>(plan.changes.size()) && plan.closures.empty();
        parts << (nothing ? PlanList::tr("does not apply here: it changes other sites than the %1").arg(to)
                          : PlanList::tr("%1 of its changes do not apply to the %2").arg(elsewhere).arg(to));
    }
    return parts.isEmpty() ? PlanList::tr("nothing changed in the end") : parts.join(", ");
}

}  // namespace

PlanList::PlanList(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 10, 6, 8);
    auto* title = new QLabel(tr("PLANS"), this);
    title->setProperty("role", "heading");
    list_ = new QListWidget(this);
    list_->setAccessibleName(tr("Plans"));
    list_->setItemDelegate(new ShareDelegate(list_));
    list_->setContextMenuPolicy(Qt::CustomContextMenu);
    list_->setEditTriggers(QAbstractItemView::EditKeyPressed);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setMinimumSize(theme::scaled_column(185), theme::scaled(48));
    new_plan_ = new QPushButton(tr("New\u2026"), this);
    new_plan_->setObjectName("flat");
    new_plan_->setAccessibleName(tr("New plan from a site"));
    new_plan_->setToolTip(tr("Open a candidate, close a site, or double-click the map to add one"));
    best_ = new QPushButton(tr("Best\u2026"), this);
    best_->setObjectName("flat");
    best_->setAccessibleName(tr("Find the best set of sites"));
    best_->setToolTip(tr("Choose so many candidates that a goal is reached best, with a proof"));
    auto* heading = new QHBoxLayout;
    heading->addWidget(title, 1);
    heading->addWidget(best_);
    heading->addWidget(new_plan_);
    box->addLayout(heading);
    box->addWidget(list_, 1);
    connect(new_plan_, &QPushButton::clicked, this, &PlanList::offer_new_plan);
    connect(best_, &QPushButton::clicked, this, &PlanList::best_wanted);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0) session_.document.choose_plan(static_cast<std::size_t>(row));
    });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const auto row = static_cast<std::size_t>(list_->row(item));
        if (row >= session_.document.study().plans.size()) return;
        if (item->text().toStdString() != session_.document.study().plans[row].name)
            session_.document.rename_plan(row, item->text());
        refresh();
    });
    connect(list_, &QWidget::customContextMenuRequested, this, &PlanList::offer_plan_menu);
    auto* remove = new QShortcut(QKeySequence::Delete, list_, nullptr, nullptr, Qt::WidgetShortcut);
    connect(remove, &QShortcut::activated, this,
            [this] { session_.document.remove_plan(static_cast<std::size_t>(std::max(0, list_->currentRow()))); });
    connect(&session_.document, &Document::plans_changed, this, &PlanList::refresh);
    connect(&session_.document, &Document::plan_chosen, this, &PlanList::refresh);
    connect(&session_.answers, &Answers::changed, this, &PlanList::refresh);
    connect(&session_.document, &Document::question_changed, this, &PlanList::refresh);
    refresh();
}

void PlanList::refresh() {
    const QSignalBlocker quiet(list_);
    const auto& plans = session_.document.study().plans;
    while (list_->count() > static_cast<int>(plans.size())) delete list_->takeItem(list_->count() - 1);
    while (list_->count() < static_cast<int>(plans.size())) list_->addItem(new QListWidgetItem);
    for (std::size_t i = 0; i < plans.size(); ++i) {
        auto* item = list_->item(static_cast<int>(i));
        const auto v = session_.answers.verdict_of(i);
        item->setText(QString::fromStdString(plans[i].name));
        item->setFlags(i == 0 ? Qt::ItemIsEnabled | Qt::ItemIsSelectable
                              : Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable);
        item->setData(kShare, v ? QVariant(v->share.ppm()) : QVariant());
        item->setData(kMet, v && v->met);
        if (v && v->judged() == service::Judged::nobody) item->setData(kShare, kNobodyThere);
        item->setData(kWanted, session_.document.question().standard
                                   ? QVariant(session_.document.question().standard->share.ppm())
                                   : QVariant());
        item->setData(kDetail, describe_changes(session_.document.study(), plans[i]));
        const QString changes = describe_changes(session_.document.study(), plans[i]);
        const QString note = QString::fromStdString(plans[i].note);
        item->setToolTip(note.isEmpty() ? changes : changes + "\n" + note);
        item->setData(
            Qt::AccessibleTextRole,
            tr("%1, %2").arg(item->text(), v ? QString::fromStdString(describe(v->share)) : tr("not worked out yet")));
    }
    list_->setCurrentRow(static_cast<int>(session_.document.plan_index()));
    best_->setEnabled(session_.document.study().sites_of(session_.document.question()).count() > 0);
    new_plan_->setEnabled(session_.document.study().sites_of(session_.document.question()).count() > 0);
}

void PlanList::offer_new_plan() {
    auto* picker = new SitePicker(session_, this);
    picker->move(new_plan_->mapToGlobal(QPoint(0, new_plan_->height())));
    picker->show();
}

void PlanList::offer_plan_menu(const QPoint& at) {
    auto* item = list_->itemAt(at);
    const int row = list_->row(item);
    if (row < 0) return;
    const QPoint where = list_->mapToGlobal(at);
    plan_menu(static_cast<std::size_t>(row), where)->popup(where);
}

QMenu* PlanList::plan_menu(std::size_t index, const QPoint& at) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName("plan");
    Document& document = session_.document;
    const auto& study = document.study();
    if (index >= study.plans.size()) return menu;
    const auto add = [&](const QString& text, bool can, auto&& what) {
        auto* action = menu->addAction(text, this, what);
        action->setEnabled(can);
    };
    const bool today = index == 0;
    add(tr("Rename (F2)"), !today, [this, index] {
        if (auto* there = list_->item(static_cast<int>(index))) list_->editItem(there);
    });
    add(tr("Note\u2026"), true, [this, index, at] { edit_note(index, at); });
    add(tr("A plan like this one"), !today, [&document, index] { document.branch_plan(index); });
    add(tr("Up"), index > 1, [&document, index] { document.move_plan(index, -1); });
    add(tr("Down"), !today && index + 1 < study.plans.size(), [&document, index] { document.move_plan(index, 1); });
    auto* merge = menu->addMenu(tr("Merge into it"));
    merge->setEnabled(!today && study.plans.size() > 2);
    for (std::size_t other = 1; other < study.plans.size(); ++other)
        if (other != index)
            merge->addAction(on_button(elided(QString::fromStdString(study.plans[other].name))), this,
                             [&document, index, other] { document.merge_plan(index, other); });
    const service::Plan& plan = study.plans[index];
    auto* back = menu->addMenu(tr("Take back"));
    back->setEnabled(!plan.is_today());
    const auto planned = sites_under(study.sites_of(study.question()), plan, study.question().use);
    for (const auto& c : plan.changes)
        back->addAction(on_button(elided(words(c, name_of(c, planned)))), this,
                        [&document, index, c] { document.take_back(index, c); });
    for (const auto& c : plan.closures)
        back->addAction(on_button(elided(words(c))), this, [&document, index, c] { document.take_back(index, c); });
    add(tr("Remove (Delete)"), !today, [&document, index] { document.remove_plan(index); });
    return menu;
}

void PlanList::edit_note(std::size_t index, const QPoint& at) {
    const auto& plans = session_.document.study().plans;
    if (index >= plans.size()) return;
    auto* card = new QFrame(this, Qt::Popup);
    card->setObjectName("popup");
    card->setAttribute(Qt::WA_DeleteOnClose);
    auto* box = new QVBoxLayout(card);
    auto* title = new QLabel(tr("Note of %1").arg(elided(QString::fromStdString(plans[index].name))), card);
    title->setProperty("role", "soft");
    auto* text = new QPlainTextEdit(QString::fromStdString(plans[index].note), card);
    text->setAccessibleName(title->text());
    text->setTabChangesFocus(true);
    text->setMinimumSize(theme::scaled_column(320), theme::scaled(110));
    auto* keep = new QPushButton(tr("Keep the note"), card);
    box->addWidget(title);
    box->addWidget(text);
    box->addWidget(keep, 0, Qt::AlignRight);
    connect(keep, &QPushButton::clicked, card, [this, card, text, name = plans[index].name] {
        const auto& now = session_.document.study().plans;
        const auto there = std::find_if(now.begin(), now.end(), [&](const auto& p) { return p.name == name; });
        if (there != now.end())
            session_.document.note_plan(static_cast<std::size_t>(there - now.begin()), text->toPlainText());
        card->close();
    });
    card->adjustSize();
    card->move(at);
    card->show();
    text->setFocus();
}

}  // namespace otoro::desktop
