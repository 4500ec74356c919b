#include "desktop/parts/site_picker.h"

#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

QString name_of(const service::PlannedSite& s) { return QString::fromStdString(service::label(s.site)); }

}  // namespace

SitePicker::SitePicker(Session& session, QWidget* parent) : QFrame(parent, Qt::Popup), session_(session) {
    setObjectName("popup");
    setAttribute(Qt::WA_DeleteOnClose);
    setAccessibleName(tr("New plan from a site"));
    const auto& question = session.document.question();
    sites_ = sites_under(session.document.study().sites_of(question), {}, question.use);
    auto* title = new QLabel(tr("A new plan that opens or closes"), this);
    title->setProperty("role", "soft");
    filter_ = new QLineEdit(this);
    filter_->setPlaceholderText(tr("Find among %1").arg(counted(sites_.size(), tr("site"), tr("sites"))));
    filter_->setAccessibleName(tr("Find among the sites"));
    filter_->setClearButtonEnabled(true);
    list_ = new QListWidget(this);
    list_->setAccessibleName(tr("Sites"));
    list_->setUniformItemSizes(true);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setTextElideMode(Qt::ElideMiddle);
    for (const auto& s : sites_) {
        const bool open = s.site.state == places::SiteState::open;
        auto* item = new QListWidgetItem(open ? tr("Close %1").arg(name_of(s)) : tr("Open %1").arg(name_of(s)), list_);
        item->setToolTip(tr("%1, %2 today").arg(name_of(s), words(s.site.state)));
    }
    list_->setCurrentRow(0);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 8, 10, 10);
    box->addWidget(title);
    box->addWidget(filter_);
    box->addWidget(list_, 1);
    constexpr int kWide = 280, kMostRows = 14;
    resize(theme::scaled(kWide),
           theme::scaled(70) + (list_->sizeHintForRow(0) + 1) * std::clamp(list_->count(), 3, kMostRows));
    filter_->installEventFilter(this);
    filter_->setFocus();
    connect(filter_, &QLineEdit::textChanged, this, &SitePicker::narrow);
    connect(filter_, &QLineEdit::returnPressed, this, [this] { take(list_->currentRow()); });
    connect(list_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) { take(list_->row(item)); });
    connect(list_, &QListWidget::itemActivated, this, [this](QListWidgetItem* item) { take(list_->row(item)); });
}

void SitePicker::narrow() {
    const auto words = filter_->text().split(' ', Qt::SkipEmptyParts);
    int first = -1;
    for (int i = 0; i < list_->count(); ++i) {
        const QString text = list_->item(i)->text();
        const bool shown = std::all_of(words.begin(), words.end(),
                                       [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); });
        list_->setRowHidden(i, !shown);
        if (shown && first < 0) first = i;
    }
    list_->setCurrentRow(first);
}

bool SitePicker::eventFilter(QObject* watched, QEvent* e) {
    // Arrows go through the list while one types.
    if (watched == filter_ && e->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(e)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up || key == Qt::Key_PageDown || key == Qt::Key_PageUp) {
            QCoreApplication::sendEvent(list_, e);
            return true;
        }
    }
    return QFrame::eventFilter(watched, e);
}

void SitePicker::take(int row) {
    if (row < 0 || row >= static_cast<int>(sites_.size()) || list_->isRowHidden(row)) return;
    const auto site = sites_[static_cast<std::size_t>(row)];
    const bool open = site.site.state == places::SiteState::open;
    if (!close()) return;
    session_.document.new_plan(open ? tr("%1 closes").arg(name_of(site)) : tr("%1 opens").arg(name_of(site)),
                               {change_of(site, open ? service::Change::close : service::Change::open)});
}

}  // namespace otoro::desktop
