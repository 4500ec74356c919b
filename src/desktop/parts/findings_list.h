#pragma once
#include <QWidget>

#include "desktop/models/fixer.h"

class QLabel;
class QLineEdit;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace otoro::desktop {

/// Findings, the weightiest first, each with what is in it, and what can be done: show, fix, accept.
class FindingsList : public QWidget {
    Q_OBJECT
public:
    FindingsList(Session& session, Fixer& fixer, QWidget* parent = nullptr);
    [[nodiscard]] QTreeWidget& list() const { return *list_; }
    [[nodiscard]] QLineEdit& search() const { return *search_; }
    [[nodiscard]] QPushButton& fix_button() const { return *fix_; }
    [[nodiscard]] QPushButton& show_button() const { return *show_; }
    [[nodiscard]] QPushButton& accept_button() const { return *accept_; }
    /// Picks a finding (and an item of it) as a click would.
    void pick(service::FindingKind kind, const QString& about, int item = -1);

signals:
    /// The map should go there and pick these places.
    void show_wanted(const otoro::service::SetName& set, const std::vector<std::uint32_t>& places,
                     const std::vector<otoro::geo::LonLat>& marks);

private:
    void refresh();
    void filter();
    void refresh_buttons();
    void show_current();
    void mend_current();
    void accept_current();
    [[nodiscard]] const service::Finding* current() const;
    [[nodiscard]] const service::FindingItem* current_item() const;

    Session& session_;
    Fixer& fixer_;
    QLineEdit* search_;
    QLabel* state_;
    QTreeWidget* list_;
    QPushButton* show_;
    QPushButton* fix_;
    QPushButton* accept_;
};

}  // namespace otoro::desktop
