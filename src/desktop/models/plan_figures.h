#pragma once
/// \file
/// Every plan under every question, in numbers, worked out off the interface thread while somebody looks at them.
#include <QObject>
#include <memory>

#include "desktop/models/answers.h"
#include "desktop/models/worked_out.h"
#include "service/compare.h"

namespace otoro::desktop {

class PlanFigures : public QObject {
    Q_OBJECT
public:
    PlanFigures(Document& document, Answers& answers);

    /// Whether anybody looks: nothing is worked out else.
    void look(bool on);
    struct Found {
        Document::Point point;  ///< of the document that they were worked out from
        service::AllFigures figures;
    };
    /// The last that was found; null before.
    [[nodiscard]] const std::shared_ptr<const Found>& found() const { return last_; }
    /// Whether that is what the study says now.
    [[nodiscard]] bool up_to_date() const { return last_ && !work_.busy() && last_->point == document_.point(); }
    [[nodiscard]] bool busy() const { return work_.busy(); }
    /// Gives up what is under way; what was found before stays, and is out of date.
    void stop() { work_.forget(); }

signals:
    void changed();
    void failed(const QString& why);
    void progressed(const QString& step, double done);

private:
    void ask();
    Document& document_;
    Answers& answers_;
    bool looked_at_ = false;
    Document::Point asked_;  ///< what is worked out, or was last
    std::shared_ptr<const Found> last_;
    WorkedOut<Found> work_;
};

}  // namespace otoro::desktop
