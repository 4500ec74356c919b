#pragma once
#include <QWidget>

#include "desktop/models/fixer.h"

class QVBoxLayout;
class QMenu;

namespace otoro::desktop {

/// What was brought in, in a few lines, each with what can be done with it; and what is still needed.
class SourcesList : public QWidget {
    Q_OBJECT
public:
    SourcesList(Session& session, Fixer& fixer, QWidget* parent = nullptr);
    /// The entries for one set, or for the roads.
    void fill_menu(QMenu& menu, const service::SetName& set);

signals:
    void attaching_wanted(const otoro::service::SetName& set);
    void profiles_wanted();

private:
    void refresh();
    void add(const QString& kind, const QString& name, const QString& count, const service::Origin& origin,
             const std::function<void(QMenu&)>& fill);
    void fill_water_menu(QMenu& menu);
    Session& session_;
    Fixer& fixer_;
    QVBoxLayout* box_;
};

}  // namespace otoro::desktop
