#include "desktop/parts/strips.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QStyle>
#include <cmath>

namespace otoro::desktop {

ProgressLine::ProgressLine(QWidget* parent) : QFrame(parent) {
    setObjectName("notice");
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(12, 4, 8, 4);
    text_ = new QLabel(this);
    text_->setMinimumWidth(320);
    bar_ = new QProgressBar(this);
    bar_->setRange(0, 1000);
    bar_->setTextVisible(false);
    stop_ = new QPushButton(tr("Stop"), this);
    stop_->setAccessibleName(tr("Stop the work under way"));
    box->addWidget(text_);
    box->addWidget(bar_, 1);
    box->addWidget(stop_);
    delay_.setSingleShot(true);
    delay_.setInterval(400);
    connect(&delay_, &QTimer::timeout, this, [this] { setVisible(busy_); });
    connect(stop_, &QPushButton::clicked, this, &ProgressLine::stop_wanted);
    hide();
}

void ProgressLine::at(const QString& step, double done) {
    if (!busy_) {
        busy_ = true;
        since_.start();
        delay_.start();
    }
    QString text = step;
    const double elapsed = static_cast<double>(since_.elapsed()) / 1000;
    if (done > 0.05 && elapsed > 1) text += tr(", about %1 s left").arg(static_cast<int>(std::ceil(elapsed * (1 - done) / done)));
    text_->setText(text);
    bar_->setValue(static_cast<int>(done * 1000));
    setAccessibleName(text);
}

void ProgressLine::end() {
    busy_ = false;
    delay_.stop();
    hide();
}

Notice::Notice(QWidget* parent) : QFrame(parent) {
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(12, 6, 8, 6);
    text_ = new QLabel(this);
    text_->setWordWrap(true);
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    choices_ = new QHBoxLayout;
    close_ = new QPushButton(tr("Dismiss"), this);
    close_->setAccessibleName(tr("Dismiss this remark"));
    box->addWidget(text_, 1);
    box->addLayout(choices_);
    box->addWidget(close_);
    connect(close_, &QPushButton::clicked, this, &QWidget::hide);
    hide();
}

QString Notice::text() const { return isHidden() ? QString() : text_->text(); }

void Notice::show_as(const char* kind, const QString& text) {
    while (auto* item = choices_->takeAt(0)) {
        item->widget()->deleteLater();
        delete item;
    }
    setObjectName(kind);
    style()->unpolish(this);
    style()->polish(this);
    text_->setText(text);
    setAccessibleName(text);
    show();
}

void Notice::say(const QString& text) { show_as("notice", text); }
void Notice::trouble(const QString& text) { show_as("trouble", text); }

void Notice::offer(const QString& text, const std::vector<std::pair<QString, std::function<void()>>>& choices) {
    show_as("notice", text);
    for (const auto& [name, act] : choices) {
        auto* b = new QPushButton(name, this);
        b->setAccessibleName(name);
        choices_->addWidget(b);
        connect(b, &QPushButton::clicked, this, [this, act = act] {
            hide();
            act();
        });
    }
}

}  // namespace otoro::desktop
