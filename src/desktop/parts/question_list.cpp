#include "desktop/parts/question_list.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QShortcut>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include "desktop/parts/share_delegate.h"
#include "desktop/theme.h"
#include "geo/amounts.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

/// Who travels how, and to what: what tells one question from another at a glance.
QString short_words(const service::Question& q) {
    const QString who = QString::fromStdString(service::listed(q.demand));
    const QString to = QString::fromStdString(service::listed(q.sites));
    return q.towards == service::Towards::demand ? QuestionList::tr("%1 to %2").arg(to, who)
                                                 : QuestionList::tr("%1 to %2").arg(who, to);
}

}  // namespace

QuestionList::QuestionList(Document& document, Answers& answers, QWidget* parent)
    : QWidget(parent), document_(document), answers_(answers) {
    auto* title = new QLabel(tr("QUESTIONS"), this);
    title->setProperty("role", "heading");
    list_ = new QListWidget(this);
    list_->setAccessibleName(tr("Questions"));
    list_->setItemDelegate(new ShareDelegate(list_));
    list_->setContextMenuPolicy(Qt::CustomContextMenu);
    list_->setEditTriggers(QAbstractItemView::EditKeyPressed);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setMinimumSize(theme::scaled_column(185), theme::scaled(48));
    new_ = new QPushButton(tr("New"), this);
    new_->setObjectName("flat");
    new_->setAccessibleName(tr("New question, like the one in sight"));
    new_->setToolTip(tr("A copy of this question, to be changed in the sentence above"));
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 10, 6, 0);
    auto* heading = new QHBoxLayout;
    heading->addWidget(title, 1);
    heading->addWidget(new_);
    box->addLayout(heading);
    box->addWidget(list_, 1);
    connect(new_, &QPushButton::clicked, this, [this] { document_.copy_question(); });
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0) document_.choose_question(static_cast<std::size_t>(row));
    });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const auto row = static_cast<std::size_t>(list_->row(item));
        if (row >= document_.study().questions.size()) return;
        if (item->text().toStdString() != document_.study().questions[row].name)
            document_.rename_question(row, item->text());
        refresh();
    });
    connect(list_, &QWidget::customContextMenuRequested, this, &QuestionList::offer_menu);
    auto* remove = new QShortcut(QKeySequence::Delete, list_, nullptr, nullptr, Qt::WidgetShortcut);
    connect(remove, &QShortcut::activated, this,
            [this] { document_.remove_question(static_cast<std::size_t>(std::max(0, list_->currentRow()))); });
    connect(&document_, &Document::questions_changed, this, &QuestionList::refresh);
    connect(&document_, &Document::plan_chosen, this, &QuestionList::refresh);
    connect(&answers_, &Answers::changed, this, &QuestionList::refresh);
    connect(&answers_, &Answers::verdicts_changed, this, &QuestionList::refresh);
    refresh();
}

void QuestionList::refresh() {
    const QSignalBlocker quiet(list_);
    const auto& questions = document_.study().questions;
    while (list_->count() > static_cast<int>(questions.size())) delete list_->takeItem(list_->count() - 1);
    while (list_->count() < static_cast<int>(questions.size())) list_->addItem(new QListWidgetItem);
    for (std::size_t i = 0; i < questions.size(); ++i) {
        const auto& q = questions[i];
        auto* item = list_->item(static_cast<int>(i));
        const auto v = answers_.verdict_on(i);
        item->setText(QString::fromStdString(q.name));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable);
        item->setData(kShare, v ? QVariant(v->share.ppm()) : QVariant());
        item->setData(kMet, v && v->met);
        if (v && v->judged() == service::Judged::nobody) item->setData(kShare, kNobodyThere);
        item->setData(kWanted, q.standard ? QVariant(q.standard->share.ppm()) : QVariant());
        item->setData(kDetail, short_words(q));
        item->setToolTip(QString::fromStdString(sentence(q, document_.study().demand_of(q))));
        item->setData(
            Qt::AccessibleTextRole,
            tr("%1, %2").arg(item->text(), v ? QString::fromStdString(describe(v->share)) : tr("not worked out yet")));
    }
    list_->setCurrentRow(static_cast<int>(document_.question_index()));
}

void QuestionList::offer_menu(const QPoint& at) {
    auto* item = list_->itemAt(at);
    if (item == nullptr) return;
    const int row = list_->row(item);
    const auto index = static_cast<std::size_t>(row);
    QMenu menu(this);
    menu.addAction(tr("Rename (F2)"), this, [this, row] {
        if (auto* there = list_->item(row)) list_->editItem(there);
    });
    menu.addAction(tr("Move up"), this, [this, index] { document_.move_question(index, -1); })->setEnabled(row > 0);
    menu.addAction(tr("Move down"), this, [this, index] { document_.move_question(index, 1); })
        ->setEnabled(row + 1 < list_->count());
    menu.addAction(tr("Remove (Delete)"), this, [this, index] { document_.remove_question(index); })
        ->setEnabled(list_->count() > 1);
    menu.exec(list_->mapToGlobal(at));
}

}  // namespace otoro::desktop
