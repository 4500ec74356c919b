#pragma once
/// \file
/// What stands beside the best set: the price of every step as a curve, others nearly as good, and how sure it is. Each
/// row, and each point of the curve, is seen on the map and can become a plan.
#include <qcustomplot.h>

#include <QWidget>
#include <array>
#include <memory>
#include <stop_token>
#include <vector>

#include "desktop/models/best_set_finder.h"
#include "desktop/models/worked_out.h"
#include "service/more_sets.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {

class MoreSetsView : public QWidget {
    Q_OBJECT
public:
    explicit MoreSetsView(QWidget* parent = nullptr);
    using BestFound = std::shared_ptr<const BestSetFinder::Found>;
    enum class Kind : std::uint8_t { price, near, sure };
    struct Found {
        BestFound best;
        Kind kind = Kind::price;
        std::vector<service::BestSet> sets;  ///< of *price* one a step, of *near* the others
        bool complete = true;                ///< of *near*: no others are as near; of *price*: up to the last step
        std::uint32_t enough = 0;            ///< of *price*: more than so many bring nothing; 0: all bring some
        service::HowSure sure;
    };
    /// Stands beside this set from now on; null: beside none, and out of sight.
    void follow(const BestFound& best);
    void ask(Kind kind);
    [[nodiscard]] QPushButton& button(Kind kind) const { return *buttons_[static_cast<std::size_t>(kind)]; }
    [[nodiscard]] QPushButton& plan_button() const { return *plan_; }
    [[nodiscard]] QTableWidget& list() const { return *list_; }
    [[nodiscard]] QCustomPlot& plot() const { return *plot_; }
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

signals:
    void marked(const std::vector<otoro::geo::LonLat>& where);
    void plan_wanted(const otoro::service::BestSet& set);
    void trouble(const QString& why);

private:
    void refresh();
    void fill_price(const Found& found);
    void fill_near(const Found& found);
    void fill_sure(const Found& found);
    void pick(int row);
    [[nodiscard]] const service::BestSet* set_of(int row) const;
    WorkedOut<Found> work_;
    std::stop_source enough_{std::nostopstate};
    BestFound best_;
    std::array<QPushButton*, 3> buttons_{};
    QPushButton* stop_;
    QLabel* note_;
    QCustomPlot* plot_;
    QCPGraph* values_;
    QCPGraph* bounds_;
    QTableWidget* list_;
    QPushButton* plan_;
};

}  // namespace otoro::desktop
