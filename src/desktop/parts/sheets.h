#pragma once
#include <QDialog>
#include <QPushButton>

namespace otoro::desktop {

/// Return in a sheet of settings ends the typing of a number; it presses no button that nobody looked at. Call when the
/// sheet has all its buttons.
inline void no_default_buttons(QDialog& sheet) {
    for (auto* b : sheet.findChildren<QPushButton*>()) {
        b->setAutoDefault(false);
        b->setDefault(false);
    }
}

}  // namespace otoro::desktop
