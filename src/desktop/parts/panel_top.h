#pragma once
/// \file
/// The top line of a part of a page that is there only while it is wanted.
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace otoro::desktop {

/// A heading, and a button that closes the panel: it is hidden, and `closed` is called.
/// \param close what the button says to who does not see it
template <class Closed>
QHBoxLayout* panel_top(QWidget& panel, const QString& title, const QString& close, Closed closed) {
    auto* heading = new QLabel(title, &panel);
    heading->setProperty("role", "heading");
    auto* button = new QPushButton(QObject::tr("Close"), &panel);
    button->setObjectName("flat");
    button->setAccessibleName(close);
    QObject::connect(button, &QPushButton::clicked, &panel, [&panel, closed] {
        panel.hide();
        closed();
    });
    auto* top = new QHBoxLayout;
    top->addWidget(heading, 1);
    top->addWidget(button);
    return top;
}

}  // namespace otoro::desktop
