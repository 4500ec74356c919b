#pragma once
/// \file
/// Asking for the best set of sites: a sentence with blanks, the set with its proof, and a plan made of it.
#include <QWidget>

#include "desktop/models/best_set_finder.h"
#include "desktop/models/session.h"
#include "desktop/parts/candidate_adder.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QSpinBox;

namespace otoro::desktop {
class MoreSetsView;
class NumberBox;

class BestSetPanel : public QWidget {
    Q_OBJECT
public:
    explicit BestSetPanel(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] BestSetFinder& finder() { return finder_; }
    [[nodiscard]] QComboBox& goal() const { return *goal_; }
    [[nodiscard]] QSpinBox& choose() const { return *choose_; }
    [[nodiscard]] NumberBox& limit() const { return *limit_; }
    [[nodiscard]] QCheckBox& keep() const { return *keep_; }
    [[nodiscard]] QSpinBox& close_at_most() const { return *close_; }
    [[nodiscard]] QPushButton& find_button() const { return *find_; }
    [[nodiscard]] QPushButton& plan_button() const { return *plan_; }
    [[nodiscard]] MoreSetsView& more() const { return *more_; }
    [[nodiscard]] QString result() const;
    /// Comes into sight, its blanks filled from the question.
    void open();
    /// What a site is to be in the set.
    enum class Role : std::uint8_t { may, must, never };
    void set_role(const service::PlannedSite& site, Role role);
    [[nodiscard]] Role role_of(const service::PlannedSite& site) const;
    [[nodiscard]] QPushButton& rules_button() const { return *rules_; }
    [[nodiscard]] NumberBox& budget() const { return *budget_; }
    [[nodiscard]] NumberBox& apart() const { return *apart_; }
    [[nodiscard]] QCheckBox& room() const { return *room_; }
    [[nodiscard]] NumberBox& busy() const { return *busy_; }
    [[nodiscard]] CandidateAdder& adder() { return adder_; }

signals:
    /// Where the chosen sites stand, best so far; empty: nothing to show.
    void marked(const std::vector<otoro::geo::LonLat>& where);
    void trouble(const QString& why);

private:
    [[nodiscard]] service::BestSetAsked asked() const;
    void refresh();
    void make_plan(const service::BestSet& set);
    void show_rules(bool shown);
    Session& session_;
    BestSetFinder finder_;
    CandidateAdder adder_;
    std::vector<std::pair<service::SiteChange, Role>> roles_;  ///< by what names the site
    QPushButton* rules_;
    QWidget* rules_body_;
    NumberBox* budget_;
    NumberBox* apart_;
    QCheckBox* room_;
    NumberBox* busy_;
    QLabel* roles_said_;
    QPushButton* clear_roles_;
    QSpinBox* choose_;
    QLabel* of_;
    QCheckBox* keep_;
    QSpinBox* close_;
    int open_too_ = 0;  ///< how many were added to the number when open ones came to count
    QComboBox* goal_;
    QLabel* within_;
    NumberBox* limit_;
    QComboBox* unit_;
    QPushButton* find_;
    QPushButton* leave_off_;
    QLabel* result_;
    QPushButton* plan_;
    MoreSetsView* more_;
};

}  // namespace otoro::desktop
