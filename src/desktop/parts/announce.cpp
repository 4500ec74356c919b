#include "desktop/parts/announce.h"

#include <QAccessible>
#include <QWidget>

namespace otoro::desktop {

void announce(QWidget& widget, const QString& text) {
    widget.setAccessibleDescription(text);
    if (!QAccessible::isActive()) return;
    // Readers speak descriptions that change under the focus, and alerts wherever they are.
    QAccessibleEvent changed(&widget, QAccessible::DescriptionChanged);
    QAccessible::updateAccessibility(&changed);
    if (widget.hasFocus()) return;
    QAccessibleEvent alert(&widget, QAccessible::Alert);
    QAccessible::updateAccessibility(&alert);
}

}  // namespace otoro::desktop
