#include "desktop/application.h"

#include "desktop/models/background.h"

namespace otoro::desktop {

bool Application::notify(QObject* receiver, QEvent* event) {
    try {
        return QApplication::notify(receiver, event);
    } catch (...) {
        // Said once the event is over: the window may be in the middle of something now.
        QMetaObject::invokeMethod(
            this,
            [this, why = what_went_wrong()] {
                emit trouble(tr("Something went wrong, and what was being done was not finished. %1").arg(why));
            },
            Qt::QueuedConnection);
        return true;
    }
}

}  // namespace otoro::desktop
