#include "desktop/models/reassigner.h"

namespace otoro::desktop {

Reassigner::Reassigner(Answers& answers) : answers_(answers) {
    connect(&work_, &WorkedOutSignals::changed, this, &Reassigner::changed);
    connect(&work_, &WorkedOutSignals::failed, this, &Reassigner::failed);
    connect(&answers_, &Answers::changed, this, [this] {
        if (up_to_date()) return;
        who_.places.reset();  // they were places of another answer
        ask();
    });
    ask();
}

bool Reassigner::applies() const {
    const auto answer = answers_.shown();
    return answer && std::holds_alternative<service::AsRecorded>(answer->outcome.question.serving) &&
           answer->outcome.by_nearest;
}

void Reassigner::set_who(service::WhoMoves who) {
    who_ = std::move(who);
    ask();
}

void Reassigner::ask() {
    if (!applies()) return work_.forget();
    work_.ask([answer = answers_.shown(), who = who_](const Task&) {
        return std::make_shared<const Found>(Found{answer, who, reassign(*answer->ready, answer->outcome, who)});
    });
}

}  // namespace otoro::desktop
