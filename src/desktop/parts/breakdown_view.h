#pragma once
#include <QTimer>
#include <QWidget>

#include "desktop/models/answers.h"
#include "desktop/models/selection.h"
#include "service/breakdown.h"

class QPushButton;
class QLabel;
class QTableWidget;

namespace otoro::desktop {

/// The answer summed up by zone or by group; gone where there are neither. Pressing a row picks its places.
class BreakdownView : public QWidget {
    Q_OBJECT
public:
    BreakdownView(Answers& answers, Selection& selection, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget& table() const { return *table_; }
    [[nodiscard]] QPushButton* by(service::SummedBy by) const {
        return by == service::SummedBy::zone ? by_zone_ : by_group_;
    }

private:
    void refresh();
    void fill();
    void pick(int row);
    Answers& answers_;
    Selection& selection_;
    service::SummedBy by_ = service::SummedBy::zone;
    QPushButton* by_zone_;
    QPushButton* by_group_;
    QLabel* stale_;
    QTableWidget* table_;
    std::vector<service::BreakdownRow> rows_;
    QTimer later_;  ///< a large answer is summed up when the hand that drags a site rests
};

}  // namespace otoro::desktop
