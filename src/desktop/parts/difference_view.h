#pragma once
/// \file
/// Two plans side by side under the question in sight: numbers, curves, who gains and who loses.
#include <QWidget>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/compare.h"

class QComboBox;
class QLabel;
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
    };
    /// The last that was found; null while one of the two answers is not there.
    [[nodiscard]] const std::shared_ptr<const Found>& found() const { return work_.found(); }

signals:
    /// Places were picked and are to be seen on the map.
    void show_wanted();
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

    Session& session_;
    WorkedOut<Found> work_;
    std::string base_name_;  ///< of the plan that was chosen; empty: Today
    QLabel* title_;
    QComboBox* against_;
    QLabel* note_;
    QTableWidget* numbers_;
    CurveView* curve_;
    QTableWidget* kinds_;
    QTableWidget* parts_;
};

}  // namespace otoro::desktop
