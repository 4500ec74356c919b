#include "desktop/parts/findings_list.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalBlocker>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <set>

#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/amounts.h"

namespace otoro::desktop {
namespace {

constexpr int kMostChildren = 500;
constexpr int kFewChildren = 4;
constexpr std::size_t kMostMarks = 300;
enum Column { kSentence, kPlaces, kWeight, kState, kColumns };
enum Role { kFinding = Qt::UserRole, kItem };

}  // namespace

FindingsList::FindingsList(Session& session, Fixer& fixer, QWidget* parent)
    : QWidget(parent), session_(session), fixer_(fixer) {
    auto* title = new QLabel(tr("Findings"), this);
    title->setFont(theme::type(1.3, QFont::DemiBold));
    state_ = new QLabel(this);
    state_->setTextFormat(Qt::RichText);
    state_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    state_->setProperty("role", "soft");
    search_ = new QLineEdit(this);
    search_->setPlaceholderText(tr("Search the findings"));
    search_->setAccessibleName(tr("Search the findings"));
    search_->setClearButtonEnabled(true);
    search_->setMaximumWidth(theme::scaled(260));
    search_->setMinimumWidth(theme::scaled(110));
    auto* top = new QHBoxLayout;
    top->setSpacing(12);
    top->addWidget(title);
    top->addWidget(state_, 1);
    top->addWidget(search_);

    list_ = new QTreeWidget(this);
    list_->setAccessibleName(tr("Findings, those that touch most weight first"));
    list_->setColumnCount(kColumns);
    list_->setHeaderLabels({tr("what was found"), tr("places"), tr("weight"), tr("state")});
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(kSentence, QHeaderView::Stretch);
    for (int c = kPlaces; c < kColumns; ++c) list_->header()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    list_->setUniformRowHeights(false);
    list_->setWordWrap(true);
    list_->setStyleSheet("QTreeView::item { padding: 3px 2px; }");

    show_ = new QPushButton(tr("Show on the map"), this);
    fix_ = new QPushButton(tr("Fix"), this);
    accept_ = new QPushButton(tr("Accept\u2026"), this);
    auto* bottom = new QHBoxLayout;
    bottom->setSpacing(8);
    for (auto* b : {show_, fix_, accept_}) bottom->addWidget(b);
    bottom->addStretch(1);

    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(8);
    box->addLayout(top);
    box->addWidget(list_, 100);
    box->addLayout(bottom);
    box->addStretch(1);  // takes the room while the list is hidden
    connect(search_, &QLineEdit::textChanged, this, &FindingsList::filter);
    connect(list_, &QTreeWidget::currentItemChanged, this, &FindingsList::refresh_buttons);
    connect(list_, &QTreeWidget::itemActivated, this, &FindingsList::show_current);
    connect(show_, &QPushButton::clicked, this, &FindingsList::show_current);
    connect(fix_, &QPushButton::clicked, this, &FindingsList::mend_current);
    connect(accept_, &QPushButton::clicked, this, &FindingsList::accept_current);
    connect(&fixer_, &Fixer::findings_changed, this, &FindingsList::refresh);
    for (const auto changed : {&Document::data_changed, &Document::question_changed, &Document::notes_changed})
        connect(&session_.document, changed, this, [this] { state_->setText(tr("looking again\u2026")); });
    const auto not_looked = [this] {
        if (!fixer_.up_to_date() && !fixer_.checks().busy())
            state_->setText(tr("The data were not looked through to the end. <a href='again'>Look again</a>"));
    };
    connect(&fixer_.checks(), &Background::idle, this, not_looked);
    connect(state_, &QLabel::linkActivated, this, [this] {
        state_->setText(tr("looking again\u2026"));
        fixer_.look_again();
    });
    refresh();
}

void FindingsList::refresh() {
    // By what the rows say themselves: the findings are others by now.
    QString key;
    int child_before = -1, row_before = -1;
    QString child_text;
    if (const auto* was = list_->currentItem()) {
        const auto* top = was->parent() ? was->parent() : was;
        key = top->data(0, kItem).toString();
        row_before = list_->indexOfTopLevelItem(const_cast<QTreeWidgetItem*>(top));
        if (was->parent()) {
            child_before = top->indexOfChild(const_cast<QTreeWidgetItem*>(was));
            child_text = was->text(kSentence);
        }
    }
    std::set<std::string> open;
    for (int i = 0; i < list_->topLevelItemCount(); ++i)
        if (list_->topLevelItem(i)->isExpanded())
            open.insert(list_->topLevelItem(i)->data(0, kItem).toString().toStdString());
    const bool first_time = list_->topLevelItemCount() == 0;
    const QSignalBlocker quiet(list_);
    list_->clear();
    const auto& findings = fixer_.findings();
    for (std::size_t i = 0; i < findings.size(); ++i) {
        const auto& f = findings[i];
        auto* row = new QTreeWidgetItem(
            list_, {plain(f.sentence), f.places > 0 ? number(f.places) : QString(),
                    f.places > 0 ? plain(describe(f.weight)) : QString(),
                    f.accepted ? (f.accepted->empty() ? tr("accepted") : tr("accepted: %1").arg(plain(*f.accepted)))
                               : tr("open")});
        row->setData(0, kFinding, static_cast<int>(i));
        row->setData(0, kItem, plain(f.key()));
        const QString terms = explained(plain(f.sentence));
        row->setToolTip(0, plain(f.sentence) + (terms.isEmpty() ? QString() : "\n\n" + terms));
        row->setFont(0, theme::type(1.0, f.open() ? QFont::DemiBold : QFont::Normal));
        if (!f.open())
            for (int c = 0; c < kColumns; ++c) row->setForeground(c, theme::kSoftInk);
        for (const int c : {kPlaces, kWeight}) row->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        const int children = std::min<int>(static_cast<int>(f.items.size()), kMostChildren);
        for (int k = 0; k < children; ++k) {
            const auto& item = f.items[static_cast<std::size_t>(k)];
            auto* child = new QTreeWidgetItem(
                row, {plain(item.text), QString(), item.weight.count() > 0 ? plain(describe(item.weight)) : QString()});
            child->setData(0, kFinding, k);
            child->setTextAlignment(kWeight, Qt::AlignRight | Qt::AlignVCenter);
        }
        if (static_cast<int>(f.count) > children && children > 0)
            new QTreeWidgetItem(row,
                                {tr("\u2026 and %1 more").arg(number(f.count - static_cast<std::uint32_t>(children)))});
        row->setExpanded(open.contains(f.key()) || (first_time && f.open() && children <= kFewChildren));
        if (plain(f.key()) != key) continue;
        list_->setCurrentItem(row);
        if (child_before < 0 || row->childCount() == 0) continue;
        // The same item, or the one that has moved into its place.
        auto* item = row->child(std::min(child_before, row->childCount() - 1));
        for (int k = 0; k < row->childCount(); ++k)
            if (row->child(k)->text(kSentence) == child_text) item = row->child(k);
        list_->setCurrentItem(item);
    }
    if (!list_->currentItem() && list_->topLevelItemCount() > 0)
        list_->setCurrentItem(list_->topLevelItem(std::clamp(row_before, 0, list_->topLevelItemCount() - 1)));
    // An empty list is no list: what there is to say stands beside the title.
    for (QWidget* w : std::initializer_list<QWidget*>{list_, show_, fix_, accept_, search_})
        w->setVisible(!findings.empty());
    const auto n = service::count_open(findings);
    if (session_.document.study().empty())
        state_->setText(tr("No data yet, so there is nothing to find."));
    else if (n == 0)
        state_->setText(findings.empty() ? tr("Nothing wrong was found.") : tr("All accepted."));
    else
        state_->setText(theme::is_large() ? tr("%1 open").arg(n)
                                          : tr("%1 open; those that touch most people first").arg(n));
    filter();
    refresh_buttons();
}

void FindingsList::filter() {
    const auto words = search_->text().simplified().split(' ', Qt::SkipEmptyParts);
    const auto matches = [&](const QTreeWidgetItem* item) {
        return std::all_of(words.begin(), words.end(),
                           [&](const QString& w) { return item->text(0).contains(w, Qt::CaseInsensitive); });
    };
    for (int i = 0; i < list_->topLevelItemCount(); ++i) {
        auto* row = list_->topLevelItem(i);
        const bool whole = matches(row);
        bool any = whole;
        for (int k = 0; k < row->childCount(); ++k) {
            const bool shown = whole || matches(row->child(k));
            row->child(k)->setHidden(!shown);
            any = any || shown;
        }
        row->setHidden(!any);
        if (!words.isEmpty() && any && !whole) row->setExpanded(true);
    }
}

const service::Finding* FindingsList::current() const {
    const auto* item = list_->currentItem();
    if (!item) return nullptr;
    if (item->parent()) item = item->parent();
    const auto i = static_cast<std::size_t>(item->data(0, kFinding).toInt());
    return i < fixer_.findings().size() ? &fixer_.findings()[i] : nullptr;
}

const service::FindingItem* FindingsList::current_item() const {
    const auto* item = list_->currentItem();
    const auto* f = current();
    if (!f || !item || !item->parent() || !item->data(0, kFinding).isValid()) return nullptr;
    const auto k = static_cast<std::size_t>(item->data(0, kFinding).toInt());
    return k < f->items.size() ? &f->items[k] : nullptr;
}

void FindingsList::refresh_buttons() {
    const auto* f = current();
    const auto* item = current_item();
    const bool can_show = item ? item->where.has_value() || item->place
                               : f && !f->items.empty() && (f->items[0].where || f->items[0].place);
    show_->setEnabled(can_show);
    show_->setAccessibleName(f ? tr("Show on the map: %1").arg(plain(item ? item->text : f->sentence))
                               : tr("Show on the map"));
    fix_->setEnabled(item ? item->fix.has_value() : f && f->fix);
    fix_->setText(item && item->fix ? (std::holds_alternative<service::CloseGaps>(*item->fix) ? tr("Close this one")
                                                                                              : tr("Fix this one"))
                  : f && !item && f->fix ? plain(f->fix_label)
                                         : tr("Fix"));
    fix_->setAccessibleName(f ? tr("%1: %2").arg(fix_->text(), plain(item ? item->text : f->sentence)) : tr("Fix"));
    accept_->setEnabled(f != nullptr);
    accept_->setText(f && !f->open() ? tr("Reopen") : tr("Accept\u2026"));
    accept_->setAccessibleName(f ? tr("%1: %2").arg(accept_->text(), plain(f->sentence)) : tr("Accept the finding"));
}

void FindingsList::show_current() {
    const auto* f = current();
    if (!f) return;
    std::vector<std::uint32_t> places;
    std::vector<geo::LonLat> marks;
    const auto add = [&](const service::FindingItem& i) {
        if (i.place) places.push_back(*i.place);
        if (i.where && marks.size() < kMostMarks) marks.push_back(*i.where);
    };
    if (const auto* item = current_item())
        add(*item);
    else
        for (const auto& i : f->items) add(i);
    emit show_wanted({f->of, f->of == service::SetKind::roads ? std::string() : f->about}, places, marks);
}

void FindingsList::mend_current() {
    const auto* f = current();
    const auto* item = current_item();
    if (!f) return;
    const auto& fix = item ? item->fix : f->fix;
    if (fix) fixer_.fix(*fix, item ? fix_->text() : plain(f->fix_label));
}

void FindingsList::accept_current() {
    const auto* f = current();
    if (!f) return;
    if (!f->open()) return fixer_.reopen(*f);
    const service::Finding finding = *f;
    auto* ask = new QInputDialog(this);
    ask->setAttribute(Qt::WA_DeleteOnClose);
    ask->setWindowTitle(tr("Accept"));
    ask->setLabelText(tr("Why this may stay as it is (your note goes into the summary):"));
    connect(ask, &QInputDialog::textValueSelected, this,
            [this, finding](const QString& note) { fixer_.accept(finding, note.trimmed()); });
    ask->open();
}

void FindingsList::pick(service::FindingKind kind, const QString& about, int item) {
    for (int i = 0; i < list_->topLevelItemCount(); ++i) {
        const auto& f = fixer_.findings()[static_cast<std::size_t>(i)];
        if (f.kind != kind || plain(f.about) != about) continue;
        list_->setCurrentItem(item < 0 ? list_->topLevelItem(i) : list_->topLevelItem(i)->child(item));
        return;
    }
    list_->setCurrentItem(nullptr);
}

}  // namespace otoro::desktop
