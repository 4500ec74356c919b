#pragma once
#include <QWidget>

#include "desktop/models/fixer.h"

class QButtonGroup;
class QDoubleSpinBox;
class QLabel;
class QListWidget;
class QPushButton;

namespace otoro::desktop {

/// How the roads join: the three rules with what each would give, the tolerance for gaps, and the gaps that were
/// closed.
class JoinPanel : public QWidget {
    Q_OBJECT
public:
    JoinPanel(Session& session, Fixer& fixer, QWidget* parent = nullptr);
    [[nodiscard]] QButtonGroup& rules() const { return *rules_; }
    [[nodiscard]] QDoubleSpinBox& tolerance() const { return *tolerance_; }
    [[nodiscard]] QPushButton& compare_button() const { return *compare_; }
    /// What is said of a rule.
    [[nodiscard]] QString evidence(roads::JoinRule rule) const;

private:
    void refresh();
    Session& session_;
    Fixer& fixer_;
    QButtonGroup* rules_;
    std::array<QLabel*, 3> about_{};
    QPushButton* compare_;
    QDoubleSpinBox* tolerance_;
    QLabel* closed_;
    QPushButton* reopen_;
};

}  // namespace otoro::desktop
