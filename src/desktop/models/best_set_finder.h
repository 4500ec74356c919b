#pragma once
/// \file
/// The best set of sites, looked for off the interface thread; the best so far is known while it runs.
#include <QObject>
#include <memory>
#include <optional>
#include <stop_token>

#include "desktop/models/answers.h"
#include "desktop/models/worked_out.h"
#include "service/best_set.h"

namespace otoro::desktop {

class BestSetFinder : public QObject {
    Q_OBJECT
public:
    BestSetFinder(Document& document, Answers& answers);

    struct Found {
        PlanAnswerPtr answer;  ///< its question and plan are those that sites were chosen for
        service::BestSetAsked asked;
        std::vector<service::SiteOutcome> sites;  ///< by index
        service::BestSet set;
        std::string sentence;
    };
    /// Looks for it, for the answer that is shown. What was looked for before is given up.
    void ask(const service::BestSetAsked& asked);
    /// Leaves off proving: the best so far counts.
    void leave_off();
    void stop() { work_.stop(); }
    void forget();
    [[nodiscard]] bool busy() const { return work_.busy(); }
    /// The last that was found; null before, and while it runs.
    [[nodiscard]] std::shared_ptr<const Found> found() const { return work_.busy() ? nullptr : work_.found(); }
    /// While it runs: the best there is yet.
    [[nodiscard]] const std::shared_ptr<const Found>& so_far() const { return so_far_; }
    /// Whether what was found is of the question and plan in sight.
    [[nodiscard]] bool up_to_date() const;

signals:
    void changed();
    void failed(const QString& why);
    void progressed(const QString& step, double done);

private:
    void take_so_far(quint64 number, std::shared_ptr<const Found> found);
    Document& document_;
    Answers& answers_;
    std::stop_source enough_{std::nostopstate};
    std::shared_ptr<const Found> so_far_;
    quint64 asked_ = 0;
    WorkedOut<Found> work_;
};

}  // namespace otoro::desktop
