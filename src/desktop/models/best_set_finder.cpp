#include "desktop/models/best_set_finder.h"

#include <QPointer>

namespace otoro::desktop {

BestSetFinder::BestSetFinder(Document& document, Answers& answers) : document_(document), answers_(answers) {
    connect(&work_, &WorkedOutSignals::changed, this, [this] {
        if (!work_.busy()) so_far_.reset();
        emit changed();
    });
    connect(&work_, &WorkedOutSignals::failed, this, &BestSetFinder::failed);
    connect(&work_, &WorkedOutSignals::progressed, this, &BestSetFinder::progressed);
    connect(&document_, &Document::settled, this, [this](Changes changes) {
        if (changes.document) forget();
    });
}

void BestSetFinder::forget() {
    ++asked_;
    so_far_.reset();
    work_.forget();
}

void BestSetFinder::leave_off() { enough_.request_stop(); }

bool BestSetFinder::up_to_date() const {
    const auto f = found();
    return f && answers_.up_to_date() && f->answer == answers_.shown();
}

void BestSetFinder::take_so_far(quint64 number, std::shared_ptr<const Found> found) {
    if (number != asked_ || !work_.busy()) return;
    so_far_ = std::move(found);
    emit changed();
}

void BestSetFinder::ask(const service::BestSetAsked& asked) {
    const auto answer = answers_.shown();
    if (!answer || !answers_.up_to_date()) return;
    const quint64 number = ++asked_;
    so_far_.reset();
    enough_ = std::stop_source();
    const QPointer<BestSetFinder> here(this);
    work_.ask([here, number, answer, asked, enough = enough_.get_token()](const Task& task) {
        service::SetChooser chooser(answer->ready, answer->outcome.plan, task);
        const std::string said = sentence(answer->ready->inputs, answer->ready->question, asked);
        const auto with = [&](const service::BestSet& set) {
            return std::make_shared<const Found>(Found{answer, asked, chooser.sites(), set, said});
        };
        std::vector<SiteIndex> told;
        const service::BestSetLimits limits{0, [&](const service::BestSet& set) {
                                                if (!set.any || set.chosen == told) return;
                                                told = set.chosen;
                                                QMetaObject::invokeMethod(qApp, [here, number, so_far = with(set)] {
                                                    if (here) here->take_so_far(number, so_far);
                                                });
                                            }};
        return with(chooser.best(asked, limits, task.leaving_off(std::nullopt, enough)));
    });
}

}  // namespace otoro::desktop
