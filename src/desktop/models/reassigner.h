#pragma once
/// \file
/// Who should move from the recorded site to the nearest, found off the interface thread for the answer that is shown.
#include <QObject>
#include <memory>

#include "desktop/models/answers.h"
#include "desktop/models/worked_out.h"
#include "service/reassign.h"

namespace otoro::desktop {

class Reassigner : public QObject {
    Q_OBJECT
public:
    explicit Reassigner(Answers& answers);
    /// Whether the answer shown is by recorded sites.
    [[nodiscard]] bool applies() const;
    struct Found {
        PlanAnswerPtr answer;
        service::WhoMoves who;
        service::Reassignment moved;
    };
    /// The last that was found; null where it does not apply.
    [[nodiscard]] const std::shared_ptr<const Found>& found() const { return work_.found(); }
    [[nodiscard]] bool up_to_date() const { return found() && !work_.busy() && found()->answer == answers_.shown(); }
    [[nodiscard]] const service::WhoMoves& who() const { return who_; }
    void set_who(service::WhoMoves who);

signals:
    void changed();
    void failed(const QString& why);

private:
    void ask();
    Answers& answers_;
    service::WhoMoves who_;
    WorkedOut<Found> work_;
};

}  // namespace otoro::desktop
