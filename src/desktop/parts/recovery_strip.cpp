#include "desktop/parts/recovery_strip.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <algorithm>

#include "desktop/parts/elided.h"

namespace otoro::desktop {

RecoveryStrip::RecoveryStrip(StudyFiles& files, QWidget* parent) : QFrame(parent), files_(files) {
    setObjectName("notice");
    text_ = new QLabel(this);
    text_->setWordWrap(true);
    text_->setTextFormat(Qt::PlainText);
    const auto button = [this](const QString& text, const QString& about) {
        auto* b = new QPushButton(text, this);
        b->setAccessibleName(about);
        return b;
    };
    bring_back_ = button(tr("Recover"), tr("Recover the study that was not saved"));
    throw_away_ = button(tr("Throw it away"), tr("Throw away the copy of the study that was not saved"));
    next_ = button(tr("Next"), tr("Show the next study that was not saved"));
    take_back_ = button(tr("Undo"), tr("Undo removing the copy"));
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(12, 6, 8, 6);
    box->addWidget(text_, 1);
    for (auto* b : {bring_back_, throw_away_, next_, take_back_}) box->addWidget(b);
    connect(bring_back_, &QPushButton::clicked, this, [this] { emit wanted(current_); });
    connect(throw_away_, &QPushButton::clicked, this, [this] {
        thrown_ = files_.discard(current_);
        if (thrown_.isEmpty()) emit trouble(tr("The copy %1 could not be moved; it is still there.").arg(current_));
        refresh();
    });
    connect(take_back_, &QPushButton::clicked, this, [this] {
        if (!files_.take_back(thrown_))
            emit trouble(tr("%1 could not be taken back; it is still there.").arg(thrown_));
        else
            thrown_.clear();
        refresh();
    });
    connect(next_, &QPushButton::clicked, this, [this] {
        const auto left = files_.left_behind();
        const auto at =
            std::find_if(left.begin(), left.end(), [this](const LeftCopy& c) { return c.path == current_; });
        if (!left.empty()) current_ = at == left.end() || at + 1 == left.end() ? left.front().path : (at + 1)->path;
        refresh();
    });
    connect(&files_, &StudyFiles::left_behind_changed, this, &RecoveryStrip::refresh);
    refresh();
}

QString RecoveryStrip::text() const { return isHidden() ? QString() : text_->text(); }

void RecoveryStrip::refresh() {
    const auto left = files_.left_behind();
    auto at = std::find_if(left.begin(), left.end(), [this](const LeftCopy& c) { return c.path == current_; });
    if (at == left.end()) at = left.begin();
    for (auto* b : {bring_back_, throw_away_}) b->setVisible(!left.empty());
    next_->setVisible(left.size() > 1);
    take_back_->setVisible(!thrown_.isEmpty());
    if (left.empty()) {
        current_.clear();
        text_->setText(tr("The copy was thrown away. It is kept for a month."));
        setVisible(!thrown_.isEmpty());
        return;
    }
    current_ = at->path;
    const QString when = at->kept.toString("d MMMM yyyy, hh:mm");
    QString text =
        at->study.isEmpty()
            ? tr("Otoro stopped before a study was saved (%1).").arg(when)
            : tr("Otoro stopped before a study was saved: \u2018%1\u2019 (%2).").arg(elided(at->study), when);
    if (!at->file.isEmpty()) text += tr(" Its file is %1.").arg(elided(QFileInfo(at->file).fileName()));
    if (left.size() > 1) text += tr(" It is one of %1.").arg(left.size());
    text_->setText(text);
    show();
}

}  // namespace otoro::desktop
