#pragma once
/// \file
/// Two plans side by side under the question in sight: numbers, curves, who gains and who loses.
#include <QWidget>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/compare.h"

class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {
class CurveView;

/// The plan in sight against another, which is chosen here.
class DifferenceView : public QWidget {
    Q_OBJECT
public:
    explicit DifferenceView(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QComboBox& against() const { return *against_; }
    [[nodiscard]] QTableWidget& numbers() const { return *numbers_; }
    [[nodiscard]] QTableWidget& kinds() const { return *kinds_; }
    [[nodiscard]] QTableWidget& parts() const { return *parts_; }
    [[nodiscard]] QString note() const;

    struct Found {
        PlanAnswerPtr before, after;
        std::vector<service::PlaceDifference> all;
        service::DifferenceSums sums;
        service::PlanFigures was, is;
        std::vector<service::DifferenceRow> zones, groups;
        std::optional<service::Question> as_asked;  ///< the other question, where the plan is held against itself
    };
    /// The last that was found; null while one of the two answers is not there.
    [[nodiscard]] const std::shared_ptr<const Found>& found() const { return work_.found(); }

signals:
    /// Places were picked and are to be seen on the map.
    void show_wanted();
    /// What changes against that plan is to be seen on the map.
    void change_wanted(const std::string& plan);
    void trouble(const QString& why);

protected:
    void showEvent(QShowEvent* e) override;

private:
    void ask();
    void refresh();
    void refresh_plans();
    void fill_numbers(const Found& f);
    void fill_kinds(const Found& f);
    void fill_parts(const Found& f);
    void pick(const std::function<bool(std::uint32_t)>& wanted);
    /// The plan that the one in sight is held against.
    [[nodiscard]] std::size_t base() const;
    /// The question under which the same plan is what it is held against; null: it is another plan.
    [[nodiscard]] const service::Question* other_question() const;
    /// Whether both have answers that can be held together: the same places, measure and weights.
    [[nodiscard]] bool comparable(const service::Question& other) const;

    Session& session_;
    WorkedOut<Found> work_;
    std::string base_name_;  ///< of the plan that was chosen; empty: Today
    std::string question_;   ///< name of the question that was chosen instead; empty: none
    std::pair<PlanAnswerPtr, std::optional<service::Question>> under_way_;  ///< what is worked out for that
    QPushButton* on_map_;
    QLabel* title_;
    QComboBox* against_;
    QLabel* note_;
    QTableWidget* numbers_;
    CurveView* curve_;
    QTableWidget* kinds_;
    QTableWidget* parts_;
};

}  // namespace otoro::desktop
