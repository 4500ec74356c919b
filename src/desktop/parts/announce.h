#pragma once
#include <QString>

class QWidget;

namespace otoro::desktop {

/// Tells screen readers what a widget says now, as its description. Nothing is shown.
void announce(QWidget& widget, const QString& text);

}  // namespace otoro::desktop
