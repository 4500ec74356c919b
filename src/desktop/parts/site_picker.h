#pragma once
#include <QFrame>

#include "desktop/models/session.h"

class QLineEdit;
class QListWidget;

namespace otoro::desktop {

/// All sites of the question in a list that can be searched, thousands of them: pressing one makes a plan that opens
/// or closes it.
class SitePicker : public QFrame {
    Q_OBJECT
public:
    SitePicker(Session& session, QWidget* parent);
    [[nodiscard]] QLineEdit& filter() const { return *filter_; }
    [[nodiscard]] QListWidget& list() const { return *list_; }
    /// Opens or closes the site in a row, in a new plan.
    void take(int row);

protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

private:
    void narrow();
    Session& session_;
    std::vector<service::PlannedSite> sites_;
    QLineEdit* filter_;
    QListWidget* list_;
};

}  // namespace otoro::desktop
