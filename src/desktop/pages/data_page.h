#pragma once
#include <QWidget>

#include "desktop/models/findings.h"
#include "desktop/pages/bring_in_panel.h"

class QTreeWidget;
class QTreeWidgetItem;
class QLabel;
class QVBoxLayout;

namespace otoro::desktop {

/// What was brought in, and what is wrong with it.
class DataPage : public QWidget {
    Q_OBJECT
public:
    DataPage(Session& session, Background& background, QWidget* parent = nullptr);
    [[nodiscard]] BringInPanel& bring_in() const { return *bring_in_; }
    [[nodiscard]] const std::vector<Finding>& findings() const { return findings_; }
    [[nodiscard]] QTreeWidget& list() const { return *list_; }

signals:
    void findings_changed(int count);
    void show_wanted(const std::vector<std::uint32_t>& places, const std::optional<otoro::geo::LonLat>& where);
    void files_wanted();

private:
    void refresh_sources();
    void look_again();
    void show_findings(std::vector<Finding> findings);
    void show_current();

    Session& session_;
    Background checks_;
    BringInPanel* bring_in_;
    QVBoxLayout* sources_;
    QTreeWidget* list_;
    QLabel* empty_;
    std::vector<Finding> findings_;
};

}  // namespace otoro::desktop
