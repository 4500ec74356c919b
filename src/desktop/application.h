#pragma once
#include <QApplication>

namespace otoro::desktop {

/// The program: what is thrown in a slot or an event becomes a message instead of the end.
class Application : public QApplication {
    Q_OBJECT
public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override;

signals:
    void trouble(const QString& why);
};

}  // namespace otoro::desktop
