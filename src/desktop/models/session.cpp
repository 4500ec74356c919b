#include "desktop/models/session.h"

#include <QDateTime>
#include <QUndoCommand>
#include <algorithm>

namespace otoro::desktop {
namespace {

constexpr qint64 kLongSilenceMs = 1000;

bool same_data(const service::Study& a, const service::Study& b) {
    const auto same_roads =
        a.roads.has_value() == b.roads.has_value() && (!a.roads || a.roads->network == b.roads->network);
    const auto same_sets = [](const auto& x, const auto& y) {
        return std::equal(x.begin(), x.end(), y.begin(), y.end(),
                          [](const auto& p, const auto& q) { return p.set == q.set; });
    };
    const bool same_water =
        a.water.has_value() == b.water.has_value() && (!a.water || a.water->areas == b.water->areas);
    return same_roads && same_water && same_sets(a.demand, b.demand) && same_sets(a.sites, b.sites);
}

/// What is kept beside data, question and plans.
bool same_notes(const service::Study& a, const service::Study& b) {
    return a.accepted == b.accepted && a.gap_tolerance == b.gap_tolerance && a.profiles == b.profiles;
}

bool same_study(const service::Study& a, const service::Study& b) {
    return same_data(a, b) && a.question == b.question && a.plans == b.plans && a.name == b.name && same_notes(a, b);
}

/// A later change of the same kind to the same site takes the place of the one before.
void put_change(service::Plan& plan, const service::SiteChange& change) {
    std::erase_if(plan.changes, [&](const service::SiteChange& c) {
        const bool one_set = c.set == change.set || c.set.empty();
        return one_set && c.site == change.site && c.change != service::Change::add && c.change == change.change;
    });
    plan.changes.push_back(change);
}

/// Equal but for the standard, which needs no new search.
bool same_search(service::Question a, const service::Question& b) {
    a.standard = b.standard;
    return a == b;
}

}  // namespace

/// One undoable step: the study before and after.
class Session::Edit : public QUndoCommand {
public:
    Edit(Session& session, const QString& what, State before, State after)
        : QUndoCommand(what), session_(session), before_(std::move(before)), after_(std::move(after)) {}
    [[nodiscard]] int id() const override {
        return same_data(before_.study, after_.study) && !changes_plans() && same_notes(before_.study, after_.study)
                   ? 1
                   : -1;
    }
    bool mergeWith(const QUndoCommand* later) override {
        const auto* next = dynamic_cast<const Edit*>(later);
        // What is in the file stays a step of its own, so that undo can go back to it.
        if (!next || next->text() != text() || made_.msecsTo(next->made_) > kOneGestureMs ||
            after_.number == session_.saved_state_)
            return false;
        after_ = next->after_;
        made_ = next->made_;
        if (same_study(before_.study, after_.study)) {  // taken back within the gesture: nothing was done
            setObsolete(true);
            session_.state_ = before_.number;
            emit session_.saved_state_changed();
        }
        return true;
    }
    void undo() override { session_.apply(before_, changes_plans()); }
    void redo() override { session_.apply(after_, changes_plans()); }

private:
    [[nodiscard]] bool changes_plans() const { return before_.study.plans != after_.study.plans; }

    Session& session_;
    State before_;
    State after_;
    QDateTime made_ = QDateTime::currentDateTimeUtc();
    static constexpr qint64 kOneGestureMs = 1200;
};

Session::Session(QObject* parent) : QObject(parent), undo_(this), answerer_(this) {
    connect(&answerer_, &Answerer::answered, this, [this](quint64 request, const PlanAnswerPtr& answer) {
        if (wants(request)) take(answer);
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
    connect(&answerer_, &Answerer::preparing, this, &Session::preparing);
    connect(&answerer_, &Answerer::prepared, this, &Session::prepared);
    connect(&answerer_, &Answerer::preparing_failed, this, [this](const QString& why) {
        emit failed(tr("Faster answers could not be prepared; answers are right all the same. %1").arg(why));
    });
    connect(&answerer_, &Answerer::failed, this, [this](quint64 request, const QString& why) {
        if (request != request_) return;
        asking_ = false;
        emit work_ended();
        emit failed(why);
    });
}

void Session::edit(const QString& what, const std::function<void(service::Study&)>& change, PlansShown shown) {
    service::Study after = study_;
    change(after);
    if (same_study(study_, after)) return try_out(std::nullopt);
    undo_.push(new Edit(*this, what, {study_, state_, shown.before}, {std::move(after), ++states_, shown.after}));
}

void Session::put(service::Study study, const QString& path) {
    undo_.clear();
    ++document_;
    state_ = saved_state_ = ++states_;
    answerer_.forget();
    path_ = path;
    answerer_.keep_orders_beside(path.toStdString());
    plan_ = 0;
    trial_.reset();
    answers_.clear();
    tried_.reset();
    shown_.reset();
    up_to_date_ = false;
    selection_ = {};
    study_ = std::move(study);
    emit edited();
    emit study_replaced();
    emit data_changed();
    emit notes_changed();
    emit question_changed();
    emit plans_changed();
    emit plan_chosen();
    emit selection_changed();
    emit answer_changed();
    emit saved_state_changed();
    ask();
}

void Session::apply(const State& state, bool changes_plans) {
    const service::Study& study = state.study;
    const bool data = !same_data(study_, study);
    const bool question = !(study_.question == study.question);
    const bool search = data || !same_search(study_.question, study.question);
    const bool plans = study_.plans != study.plans;
    const bool renamed = study_.name != study.name;
    const bool notes = !same_notes(study_, study);
    const bool tried = trial_.has_value();  // what is shown is no plan's answer then
    const service::Plan shown = study_.plans[plan_];
    const std::size_t shown_index = plan_;
    study_ = study;
    state_ = state.number;
    trial_.reset();

    plan_ = std::min(changes_plans ? state.plan : plan_, study_.plans.size() - 1);
    const bool chosen = plan_ != shown_index || study_.plans[plan_].name != shown.name;
    if (search) {
        answers_.clear();
        tried_.reset();
    }
    if (search || plans || chosen || tried) up_to_date_ = false;
    if (search && !selection_.places.empty()) select({});

    emit edited();
    if (renamed) emit study_replaced();
    if (data) emit data_changed();
    if (notes) emit notes_changed();
    if (question || data) emit question_changed();
    if (plans) emit plans_changed();
    if (chosen) emit plan_chosen();
    if (!search && question) emit answer_changed();  // the same answer, judged anew
    if (search || plans || chosen || tried) ask();
    emit saved_state_changed();
}

void Session::mark_saved(const QString& path, Point saved) {
    if (saved.document != document_) return;
    path_ = path;
    answerer_.keep_orders_beside(path.toStdString());
    saved_state_ = saved.state;
    emit saved_state_changed();
}

void Session::mark_recovered() {
    saved_state_ = 0;
    emit saved_state_changed();
}

void Session::choose_plan(std::size_t index) {
    if (index >= study_.plans.size() || (index == plan_ && !trial_)) return;
    plan_ = index;
    trial_.reset();
    emit edited();
    emit plan_chosen();
    ask();
}

service::SiteChange Session::of_this_set(service::SiteChange change) const {
    if (change.set.empty()) change.set = study_.question.sites;
    return change;
}

std::string Session::free_plan_name(const std::string& wanted) const {
    std::vector<std::string> taken;
    for (const auto& p : study_.plans) taken.push_back(p.name);
    return service::free_name(wanted, taken);
}

void Session::change_plan(const QString& new_name, const service::SiteChange& change) {
    if (plan().is_today() && plan_ == 0) return new_plan(new_name, {change});
    const auto index = plan_;
    edit(new_name, [&](service::Study& s) { put_change(s.plans[index], of_this_set(change)); });
}

void Session::add_closures(const std::string& new_name, const std::vector<roads::Closure>& closures) {
    if (closures.empty()) return;
    const auto index = plan_;
    if (index == 0) {
        const auto free = free_plan_name(new_name);
        return edit(tr("new plan %1").arg(QString::fromStdString(free)),
                    [&](service::Study& s) {
                        s.plans.push_back({free, {}, closures});
                    },
                    {index, study_.plans.size()});
    }
    edit(closures.size() == 1 ? tr("closure") : tr("%1 closures").arg(closures.size()), [&](service::Study& s) {
        auto& all = s.plans[index].closures;
        all.insert(all.end(), closures.begin(), closures.end());
    });
}

void Session::new_plan(const QString& name, std::vector<service::SiteChange> changes) {
    for (auto& c : changes) c = of_this_set(std::move(c));
    const auto free = free_plan_name(name.toStdString());
    edit(tr("new plan %1").arg(QString::fromStdString(free)),
         [&](service::Study& s) {
             s.plans.push_back({free, changes, {}});
         },
         {plan_, study_.plans.size()});
}

void Session::rename_plan(std::size_t index, const QString& name) {
    if (index == 0 || index >= study_.plans.size() || name.trimmed().isEmpty() ||
        study_.find_plan(name.trimmed().toStdString()))
        return;
    edit(tr("rename plan"), [&](service::Study& s) { s.plans[index].name = name.trimmed().toStdString(); },
         {index, index});
}

void Session::remove_plan(std::size_t index) {
    if (index == 0 || index >= study_.plans.size()) return;
    const std::size_t after = plan_ > index ? plan_ - 1 : std::min(plan_, study_.plans.size() - 2);
    edit(tr("remove plan"),
         [&](service::Study& s) { s.plans.erase(s.plans.begin() + static_cast<std::ptrdiff_t>(index)); },
         {index, after});
}

void Session::try_out(const std::optional<service::SiteChange>& change) {
    if (!change) {
        if (!trial_) return;
        trial_.reset();
        return ask();
    }
    const auto inputs = study_.inputs();
    if (!inputs) return;
    const bool goes_on = trial_.has_value();
    trial_ = plan();
    put_change(*trial_, of_this_set(*change));
    asking_ = true;
    request_ = answerer_.try_out(*inputs, study_.question, *trial_);
    if (goes_on) return;
    first_wanted_ = request_;
    shown_since_.start();
}

PlanAnswerPtr Session::answer_of(std::size_t plan) const {
    if (plan >= study_.plans.size()) return nullptr;
    const auto at = std::find_if(answers_.begin(), answers_.end(),
                                 [&](const auto& a) { return a.first.same_as(study_.plans[plan]); });
    return at == answers_.end() ? nullptr : at->second;
}

void Session::ask() {
    const auto inputs = study_.inputs();
    if (!inputs) {
        answerer_.stop();
        answerer_.forget();
        request_ = first_wanted_ = 0;
        asking_ = false;
        shown_.reset();
        up_to_date_ = false;
        emit work_ended();
        emit answer_changed();
        return;
    }
    asking_ = true;
    trial_.reset();
    if (tried_ && tried_->outcome.plan.same_as(plan())) keep(tried_);  // a site let go of where it was tried
    std::vector<service::Plan> wanted;
    if (const auto known = answer_of(plan_)) {
        show(known);
    } else {
        wanted.push_back(plan());
        up_to_date_ = false;
        emit answer_changed();
    }
    for (std::size_t i = 0; i < study_.plans.size(); ++i)
        if (!answer_of(i) && !study_.plans[i].same_as(plan())) wanted.push_back(study_.plans[i]);
    // Also with nothing left to work out, so that what is under way for something older is dropped.
    request_ = first_wanted_ = answerer_.ask(*inputs, study_.question, std::move(wanted));
}

void Session::show(const PlanAnswerPtr& answer) {
    shown_ = answer;
    shown_since_.start();
    up_to_date_ = true;
    emit answer_changed();
}

void Session::take(const PlanAnswerPtr& answer) {
    if (trial_) {
        tried_ = answer;
        return show(answer);
    }
    keep(answer);
    if (answer->outcome.plan.same_as(plan()))
        show(answer);
    else
        emit plans_changed();
}

void Session::keep(const PlanAnswerPtr& answer) {
    const service::Plan& answered = answer->outcome.plan;
    const bool wanted = std::any_of(study_.plans.begin(), study_.plans.end(),
                                    [&](const service::Plan& p) { return p.same_as(answered); });
    const bool known =
        std::any_of(answers_.begin(), answers_.end(), [&](const auto& a) { return a.first.same_as(answered); });
    if (wanted && !known) answers_.emplace_back(answered, answer);
}

std::optional<service::Verdict> Session::verdict() const {
    if (!shown_ || !study_.question.standard) return std::nullopt;
    return service::judge(shown_->outcome, *study_.question.standard);
}

std::optional<service::Verdict> Session::verdict_of(std::size_t plan) const {
    const auto a = answer_of(plan);
    if (!a || !study_.question.standard) return std::nullopt;
    return service::judge(a->outcome, *study_.question.standard);
}

std::optional<service::Outcome> Session::outcome_to_hand_out() const {
    if (!shown_ || !up_to_date_ || trial_) return std::nullopt;
    service::Outcome o = shown_->outcome;
    o.question = study_.question;
    o.plan.name = plan().name;
    return o;
}

void Session::select(Selection selection) {
    std::sort(selection.places.begin(), selection.places.end());
    if (selection == selection_) return;
    selection_ = std::move(selection);
    emit selection_changed();
}

void Session::stop_working() {
    answerer_.stop();
    request_ = first_wanted_ = 0;
    asking_ = false;
    if (trial_) {  // what is shown is no plan's answer
        trial_.reset();
        up_to_date_ = false;
        emit answer_changed();
    }
    emit work_ended();
}

}  // namespace otoro::desktop
