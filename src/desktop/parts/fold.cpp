#include "desktop/parts/fold.h"

#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

namespace otoro::desktop {

Fold::Fold(const Names& names, const char* setting, QWidget* parent)
    : QWidget(parent), names_(names), setting_(setting) {
    open_ = new QPushButton(this);
    open_->setObjectName("flat");
    open_->setCheckable(true);
    body_ = new QWidget(this);
    inside_ = new QVBoxLayout(body_);
    inside_->setContentsMargins(0, 0, 0, 0);
    inside_->setSpacing(4);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(2);
    box->addWidget(open_, 0, Qt::AlignLeft);
    box->addWidget(body_);
    connect(open_, &QPushButton::clicked, this, [this](bool on) {
        QSettings().setValue(setting_, on);
        set_open(on);
    });
    constexpr int kPauseMs = 250;
    later_.setSingleShot(true);
    later_.setInterval(kPauseMs);
}

bool Fold::is_open() const { return open_->isChecked(); }

void Fold::recall() { set_open(QSettings().value(setting_, false).toBool()); }

void Fold::set_open(bool open) {
    open_->setChecked(open);
    open_->setText((open ? QString::fromUtf8("\u25be ") : QString::fromUtf8("\u25b8 ")) + names_.title);
    open_->setAccessibleName(open ? names_.to_close : names_.to_open);
    body_->setVisible(open);
    if (!open) closed();
    follow();
}

}  // namespace otoro::desktop
