#pragma once
#include <QString>

namespace otoro::desktop {

/// Asks the desktop to show a notice (the freedesktop.org protocol over the session's bus). Nothing happens, and
/// nothing is waited for, where there is no such service.
void tell_desktop(const QString& title, const QString& text);

}  // namespace otoro::desktop
