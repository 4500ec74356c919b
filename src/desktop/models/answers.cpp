#include "desktop/models/answers.h"

#include <algorithm>

namespace otoro::desktop {
namespace {

constexpr qint64 kLongSilenceMs = 1000;
constexpr std::size_t kMostKnown = 400;  // verdicts on questions out of sight

}  // namespace

Answers::Answers(Document& document, QObject* parent) : QObject(parent), document_(document), answerer_(this) {
    connect(&answerer_, &Answerer::answered, this, [this](quint64 request, const PlanAnswerPtr& answer) {
        if (wants(request)) take(answer);
    });
    connect(&answerer_, &Answerer::answered_out_of_sight, this, [this](quint64 request, const PlanAnswerPtr& answer) {
        if (!wants(request)) return;
        keep_verdict(answer, answer->outcome.question);
        emit verdicts_changed();
    });
    connect(&answerer_, &Answerer::progressed, this, [this](quint64 request, const QString& step, double done) {
        // While a site is dragged answers are its progress, unless they stay away.
        if (wants(request) && !(trial_ && shown_since_.elapsed() < kLongSilenceMs)) emit working(step, done);
    });
    connect(&answerer_, &Answerer::finished, this, [this](quint64 request) {
        if (request != request_) return;
        asking_ = false;
        emit work_ended();
    });
    connect(&answerer_, &Answerer::preparing, this, &Answers::preparing);
    connect(&answerer_, &Answerer::prepared, this, &Answers::prepared);
    connect(&answerer_, &Answerer::preparing_failed, this, [this](const QString& why) {
        emit failed(tr("Faster answers could not be prepared; answers are right all the same. %1").arg(why));
    });
    connect(&answerer_, &Answerer::failed, this, [this](quint64 request, const QString& why) {
        if (request != request_) return;
        asking_ = false;
        emit work_ended();
        emit failed(why);
    });
    connect(&document_, &Document::settled, this, &Answers::follow);
    connect(&document_, &Document::saved_state_changed, this,
            [this] { answerer_.keep_orders_beside(document_.path().toStdString()); });
}

void Answers::follow(Changes changes) {
    if (changes.document) {
        answerer_.forget();
        answerer_.keep_orders_beside(document_.path().toStdString());
        known_.clear();
        shown_.reset();
    }
    const bool tried = trial_.has_value();  // what is shown is no plan's answer then
    trial_.reset();
    if (changes.search || changes.document) {
        answers_.clear();
        tried_.reset();
        forget_other_data();
    }
    if (changes.plans) answers_.let_go(document_.study().plans, document_.plan_index());
    // What was let go of cannot be judged anew.
    const bool unknown = changes.question && answers_.has_let_go();
    const bool again = changes.document || changes.search || changes.plans || tried || unknown;
    if (again) up_to_date_ = false;
    if (changes.document || (!again && changes.question)) emit changed();  // the same answer, judged anew
    if (again) ask();
}

void Answers::try_out(const std::optional<service::SiteChange>& change) {
    if (!change) {
        if (!trial_) return;
        trial_.reset();
        return ask();
    }
    const auto inputs = document_.study().inputs();
    if (!inputs) return;
    const bool goes_on = trial_.has_value();
    trial_ = document_.plan_with(*change);
    asking_ = true;
    request_ = answerer_.try_out(*inputs, document_.question(), *trial_);
    if (goes_on) return;
    first_wanted_ = request_;
    shown_since_.start();
}

/// What is known of roads and places that no question is about any more would keep them for ever.
void Answers::forget_other_data() {
    const auto& study = document_.study();
    std::vector<service::Inputs> asked;
    for (const auto& q : study.questions)
        if (auto inputs = study.inputs(q)) asked.push_back(std::move(*inputs));
    std::erase_if(known_,
                  [&](const Known& k) { return std::find(asked.begin(), asked.end(), k.inputs) == asked.end(); });
}

PlanAnswerPtr Answers::of_plan(std::size_t plan) const {
    const auto& plans = document_.study().plans;
    return plan < plans.size() ? answers_.find(plans[plan]) : nullptr;
}

void Answers::want(std::size_t plan) {
    const auto& plans = document_.study().plans;
    if (plan >= plans.size() || !answers_.was_let_go(plans[plan])) return;
    answers_.want(plans[plan]);
    if (!asking_ && !trial_) ask();
}

void Answers::ask() {
    const auto& study = document_.study();
    const auto inputs = study.inputs();
    if (!inputs) {
        answerer_.stop();
        answerer_.forget();
        request_ = first_wanted_ = 0;
        asking_ = false;
        shown_.reset();
        up_to_date_ = false;
        emit work_ended();
        emit changed();
        return;
    }
    asking_ = true;
    trial_.reset();
    const auto& plan = document_.plan();
    if (tried_ && tried_->outcome.plan.same_as(plan)) keep(tried_);  // a site let go of where it was tried
    std::vector<service::Plan> wanted;
    if (const auto there = of_plan(document_.plan_index())) {
        show(there);
    } else {
        wanted.push_back(plan);
        up_to_date_ = false;
        emit changed();
    }
    for (std::size_t i = 0; i < study.plans.size(); ++i)
        if (!of_plan(i) && !study.plans[i].same_as(plan) &&
            !(answers_.was_let_go(study.plans[i]) && known(study.in_sight, study.plans[i])))
            wanted.push_back(study.plans[i]);
    // Also with nothing left to work out, so that what is under way for something older is dropped.
    request_ = first_wanted_ = answerer_.ask({*inputs, document_.question(), std::move(wanted)}, others());
}

std::vector<Asked> Answers::others() const {
    std::vector<Asked> out;
    const auto& study = document_.study();
    for (std::size_t i = 0; i < study.questions.size(); ++i) {
        if (i == study.in_sight || known(i, document_.plan())) continue;
        if (const auto inputs = study.inputs(study.questions[i]))
            out.push_back({*inputs, study.questions[i], {document_.plan()}});
    }
    return out;
}

const Answers::Known* Answers::known(std::size_t question, const service::Plan& plan) const {
    const auto& study = document_.study();
    const auto inputs = study.inputs(study.questions[question]);
    if (!inputs) return nullptr;
    const auto at = std::find_if(known_.begin(), known_.end(), [&](const Known& k) {
        const auto& asked = study.questions[question];
        return k.inputs == *inputs && same_answer(k.question, asked) && k.question.standard == asked.standard &&
               k.plan.same_as(plan);
    });
    return at == known_.end() ? nullptr : &*at;
}

void Answers::show(const PlanAnswerPtr& answer) {
    shown_ = answer;
    shown_since_.start();
    up_to_date_ = true;
    emit changed();
}

void Answers::take(const PlanAnswerPtr& answer) {
    if (trial_) {
        tried_ = answer;
        return show(answer);
    }
    keep(answer);
    if (answer->outcome.plan.same_as(document_.plan()))
        show(answer);
    else
        emit verdicts_changed();
}

void Answers::keep(const PlanAnswerPtr& answer) {
    const service::Plan& answered = answer->outcome.plan;
    const auto& plans = document_.study().plans;
    const bool wanted =
        std::any_of(plans.begin(), plans.end(), [&](const service::Plan& p) { return p.same_as(answered); });
    if (!wanted) return;
    keep_verdict(answer, document_.question());
    answers_.keep(answer);
    answers_.let_go(plans, document_.plan_index());
}

void Answers::keep_verdict(const PlanAnswerPtr& answer, const service::Question& question) {
    const auto& o = answer->outcome;
    std::erase_if(known_, [&](const Known& k) {
        return same_answer(k.question, question) && k.question.standard == question.standard &&
               k.plan.same_as(o.plan) && k.inputs == answer->ready->inputs;
    });
    if (known_.size() >= kMostKnown) known_.erase(known_.begin());
    known_.push_back({answer->ready->inputs, question, o.plan,
                      question.standard ? std::optional(service::judge(o, *question.standard)) : std::nullopt});
}

const service::Question& Answers::question() const {
    const service::Question& in_sight = document_.question();
    return !shown_ || same_answer(shown_->outcome.question, in_sight) ? in_sight : shown_->outcome.question;
}

std::optional<service::Verdict> Answers::verdict() const {
    if (!shown_ || !question().standard) return std::nullopt;
    return service::judge(shown_->outcome, *question().standard);
}

std::optional<service::Verdict> Answers::verdict_of(std::size_t plan) const {
    const auto& plans = document_.study().plans;
    if (plan >= plans.size() || !document_.question().standard) return std::nullopt;
    if (const auto a = of_plan(plan)) return service::judge(a->outcome, *document_.question().standard);
    const Known* k = known(document_.question_index(), plans[plan]);
    return k ? k->verdict : std::nullopt;
}

std::optional<service::Verdict> Answers::verdict_on(std::size_t question) const {
    if (question == document_.question_index()) return verdict_of(document_.plan_index());
    const Known* k = known(question, document_.plan());
    return k ? k->verdict : std::nullopt;
}

std::optional<Answers::ToExport> Answers::to_export() const {
    if (!shown_ || !up_to_date_ || trial_) return std::nullopt;
    return ToExport{shown_, document_.question(), document_.plan().name};
}

service::Outcome Answers::ToExport::outcome() const {
    service::Outcome o = answer->outcome;
    o.question = question;
    o.plan.name = plan;
    return o;
}

void Answers::stop_working() {
    answerer_.stop();
    request_ = first_wanted_ = 0;
    asking_ = false;
    if (trial_) {  // what is shown is no plan's answer
        trial_.reset();
        up_to_date_ = false;
        emit changed();
    }
    emit work_ended();
}

}  // namespace otoro::desktop
