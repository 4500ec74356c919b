#include "desktop/parts/strips.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QStyle>
#include <cmath>

#include "desktop/models/background.h"
#include "desktop/parts/announce.h"

namespace otoro::desktop {

namespace {
constexpr int kRemarkMs = 12'000;

/// Words so long that they would widen the window may be broken anywhere.
QString breakable(const QString& text) {
    constexpr int kLongWord = 40;
    QString out;
    int run = 0;
    for (const QChar c : text) {
        out += c;
        run = c.isSpace() ? 0 : run + 1;
        if (run == kLongWord) {
            out += QChar(0x200B);
            run = 0;
        }
    }
    return out;
}
}  // namespace

ProgressLine::ProgressLine(QWidget* parent) : ProgressLine(tr("Stop the work under way"), parent) {}

ProgressLine::ProgressLine(const QString& stopping, QWidget* parent) : QFrame(parent) {
    setObjectName("notice");
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(12, 4, 8, 4);
    text_ = new QLabel(this);
    text_->setMinimumWidth(320);
    bar_ = new QProgressBar(this);
    bar_->setRange(0, 1000);
    bar_->setTextVisible(false);
    stop_ = new QPushButton(tr("Stop"), this);
    stop_->setAccessibleName(stopping);
    stop_->setToolTip(stopping);
    box->addWidget(text_);
    box->addWidget(bar_, 1);
    box->addWidget(stop_);
    delay_.setSingleShot(true);
    delay_.setInterval(400);
    connect(&delay_, &QTimer::timeout, this, [this] { setVisible(busy_); });
    connect(stop_, &QPushButton::clicked, this, &ProgressLine::stop_wanted);
    hide();
}

void ProgressLine::follow(Background& work) {
    connect(&work, &Background::progressed, this, &ProgressLine::at);
    connect(&work, &Background::idle, this, &ProgressLine::end);
    connect(this, &ProgressLine::stop_wanted, &work, qOverload<>(&Background::stop));
}

QString ProgressLine::text() const { return isHidden() ? QString() : text_->text(); }

void ProgressLine::at(const QString& step, double done) {
    if (!busy_) {
        busy_ = true;
        since_.start();
        delay_.start();
    }
    if (step != step_) {  // another phase: its time is its own
        step_ = step;
        since_.start();
    }
    QString text = step;
    const double elapsed = static_cast<double>(since_.elapsed()) / 1000;
    if (done > 0.05 && elapsed > 1)
        text += tr(", about %1 s left").arg(static_cast<int>(std::ceil(elapsed * (1 - done) / done)));
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
    text_->setTextFormat(Qt::PlainText);
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    choices_ = new QHBoxLayout;
    close_ = new QPushButton(tr("Dismiss"), this);
    close_->setAccessibleName(tr("Dismiss this remark"));
    box->addWidget(text_, 1);
    box->addLayout(choices_);
    box->addWidget(close_);
    connect(close_, &QPushButton::clicked, this, &Notice::dismiss);
    fade_.setSingleShot(true);
    fade_.setInterval(kRemarkMs);
    connect(&fade_, &QTimer::timeout, this, [this] {
        if (underMouse())
            fade_.start();
        else
            hide();
    });
    hide();
}

QString Notice::text() const { return isHidden() ? QString() : text_->text().remove(QChar(0x200B)); }

bool Notice::is_trouble() const { return !isHidden() && objectName() == "trouble"; }

void Notice::show_as(const char* kind, const QString& text) {
    while (auto* item = choices_->takeAt(0)) {
        item->widget()->deleteLater();
        delete item;
    }
    fade_.stop();
    close_->setText(standing_.size() > 1 ? tr("Dismiss (%1 more)").arg(standing_.size() - 1) : tr("Dismiss"));
    setObjectName(kind);
    style()->unpolish(this);
    style()->polish(this);
    text_->setText(breakable(text));
    setAccessibleName(text);
    show();
    announce(*this, text);
}

void Notice::show_last() {
    if (standing_.empty()) return hide();
    const Standing& last = standing_.back();
    show_as(last.choices.empty() ? "trouble" : "notice", last.text);
    for (const auto& [name, act] : last.choices) {
        auto* b = new QPushButton(name, this);
        b->setAccessibleName(name);
        choices_->addWidget(b);
        connect(b, &QPushButton::clicked, this, [this, act = act] {
            dismiss();
            act();
        });
    }
}

void Notice::say(const QString& text) {
    if (!standing_.empty()) return;  // neither an error nor a question is hidden by a remark
    show_as("notice", text);
    fade_.start();
}

void Notice::stand(Standing what) {
    std::erase_if(standing_, [&](const Standing& s) {
        return s.text == what.text || (!s.topic.isEmpty() && s.topic == what.topic);
    });
    standing_.push_back(std::move(what));
    show_last();
}

void Notice::trouble(const QString& text, const QString& topic) { stand({text, topic, {}}); }

void Notice::offer(const QString& text, const std::vector<Choice>& choices, const QString& topic) {
    stand({text, topic, choices});
}

void Notice::settled(const QString& topic) {
    if (std::erase_if(standing_, [&](const Standing& s) { return !topic.isEmpty() && s.topic == topic; }) > 0)
        show_last();
}

void Notice::dismiss() {
    if (!standing_.empty()) standing_.pop_back();
    show_last();
}

}  // namespace otoro::desktop
