#pragma once
#include <QWidget>

#include "desktop/models/mender.h"

class QVBoxLayout;
class QMenu;

namespace otoro::desktop {

/// What was brought in, in a few lines, each with what can be done with it; and what is still needed.
class SourcesList : public QWidget {
    Q_OBJECT
public:
    SourcesList(Session& session, Mender& mender, QWidget* parent = nullptr);
    /// The entries for one set, or for the roads (an empty name).
    void fill_menu(QMenu& menu, const QString& set);

signals:
    void attaching_wanted(const QString& set);
    void profiles_wanted();

private:
    void refresh();
    void add(const QString& kind, const QString& name, const QString& count, const service::Origin& origin, const QString& set);
    Session& session_;
    Mender& mender_;
    QVBoxLayout* box_;
};

}  // namespace otoro::desktop
