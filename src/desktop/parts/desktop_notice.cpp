#include "desktop/parts/desktop_notice.h"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QVariantMap>

namespace otoro::desktop {

void tell_desktop(const QString& title, const QString& text) {
    auto bus = QDBusConnection::sessionBus();
    if (!bus.isConnected()) return;
    auto notify = QDBusMessage::createMethodCall("org.freedesktop.Notifications", "/org/freedesktop/Notifications",
                                                 "org.freedesktop.Notifications", "Notify");
    constexpr int kAsTheDesktopLikes = -1;
    notify << QString("Otoro") << 0U << QString("org.otoro.Otoro") << title << text << QStringList()
           << QVariantMap{{"desktop-entry", "org.otoro.Otoro"}} << kAsTheDesktopLikes;
    bus.call(notify, QDBus::NoBlock);
}

}  // namespace otoro::desktop
