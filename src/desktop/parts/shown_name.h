#pragma once
#include <QString>

namespace otoro::desktop {

/// A text that comes from data, for a button, a box or a menu: there a single & would underline what follows.
inline QString on_button(QString text) { return text.replace('&', "&&"); }

}  // namespace otoro::desktop
