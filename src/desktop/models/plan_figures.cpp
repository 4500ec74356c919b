#include "desktop/models/plan_figures.h"

namespace otoro::desktop {

PlanFigures::PlanFigures(Document& document, Answers& answers) : document_(document), answers_(answers) {
    connect(&work_, &WorkedOutSignals::changed, this, [this] {
        if (!work_.busy() && work_.found()) last_ = work_.found();
        emit changed();
    });
    connect(&work_, &WorkedOutSignals::failed, this, &PlanFigures::failed);
    connect(&work_, &WorkedOutSignals::progressed, this, &PlanFigures::progressed);
    connect(&document_, &Document::settled, this, [this](Changes changes) {
        if (changes.document) last_.reset();
        if (looked_at_)
            ask();
        else
            emit changed();
    });
}

void PlanFigures::look(bool on) {
    looked_at_ = on;
    if (on && !up_to_date()) ask();
    // At once: what ends only in a moment would count as under way for who comes back before that.
    if (!on && work_.busy()) work_.forget();
}

void PlanFigures::ask() {
    // Only what is in sight may be another.
    const bool under_way = work_.busy() && asked_ == document_.point();
    if (up_to_date() || under_way) return;
    asked_ = document_.point();
    std::vector<std::shared_ptr<const service::Ready>> earlier;
    if (last_) earlier = last_->figures.ready;
    if (const auto shown = answers_.shown()) {
        earlier.resize(std::max(earlier.size(), document_.question_index() + 1));
        earlier[document_.question_index()] = shown->ready;
    }
    work_.ask([study = document_.study(), point = asked_, earlier = std::move(earlier)](const Task& task) {
        return std::make_shared<const Found>(Found{point, figures_of_all(study, earlier, task)});
    });
}

}  // namespace otoro::desktop
