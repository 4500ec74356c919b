#include "desktop/models/document.h"

#include <QDateTime>
#include <QUndoCommand>
#include <algorithm>

#include "desktop/models/study_memory.h"
#include "service/plan_changes.h"

namespace otoro::desktop {
namespace {

bool same_data(const service::Study& a, const service::Study& b) {
    const auto same_roads =
        a.roads.has_value() == b.roads.has_value() && (!a.roads || a.roads->network == b.roads->network);
    const auto same_sets = [](const auto& x, const auto& y) {
        return std::equal(x.begin(), x.end(), y.begin(), y.end(),
                          [](const auto& p, const auto& q) { return p.set == q.set; });
    };
    const bool same_water =
        a.water.has_value() == b.water.has_value() && (!a.water || a.water->areas == b.water->areas);
    const bool same_pairs =
        a.pairs.has_value() == b.pairs.has_value() && (!a.pairs || a.pairs->values == b.pairs->values);
    return same_roads && same_water && same_pairs && same_sets(a.demand, b.demand) && same_sets(a.sites, b.sites) &&
           same_sets(a.zones, b.zones);
}

/// What is kept beside data, question and plans.
bool same_notes(const service::Study& a, const service::Study& b) {
    return a.accepted == b.accepted && a.gap_tolerance == b.gap_tolerance && a.profiles == b.profiles;
}

bool same_study(const service::Study& a, const service::Study& b) {
    return same_data(a, b) && a.questions == b.questions && a.plans == b.plans && a.name == b.name &&
           same_notes(a, b) && a.route == b.route;
}

}  // namespace

/// One undoable step: the study before and after.
class Document::Edit : public QUndoCommand {
public:
    Edit(Document& document, const QString& what, State before, State after)
        : QUndoCommand(what), document_(document), before_(std::move(before)), after_(std::move(after)) {}
    [[nodiscard]] int id() const override {
        if (document_.rebuilding_) return -1;
        const bool one_question = before_.study.in_sight == after_.study.in_sight &&
                                  before_.study.questions.size() == after_.study.questions.size();
        return one_question && same_data(before_.study, after_.study) && !changes_plans() &&
                       same_notes(before_.study, after_.study) && before_.study.route == after_.study.route
                   ? 1
                   : -1;
    }
    bool mergeWith(const QUndoCommand* later) override {
        const auto* next = dynamic_cast<const Edit*>(later);
        // What is in the file stays a step of its own, so that undo can go back to it.
        if (!next || next->text() != text() || made_.msecsTo(next->made_) > kOneGestureMs ||
            after_.number == document_.saved_state_ || next->before_.study.in_sight != after_.study.in_sight)
            return false;  // nor do changes of two questions become one
        after_ = next->after_;
        parts_.clear();
        made_ = next->made_;
        if (same_study(before_.study, after_.study)) {  // taken back within the gesture: nothing was done
            setObsolete(true);
            document_.state_ = before_.number;
            emit document_.saved_state_changed();
        }
        return true;
    }
    void undo() override { document_.apply(before_, changes_plans()); }
    void redo() override {
        if (!document_.rebuilding_) document_.apply(after_, changes_plans());
    }
    /// The same step once more; this one is of no use then.
    [[nodiscard]] Edit* moved() {
        auto* same = new Edit(document_, text(), std::move(before_), std::move(after_));
        same->made_ = made_;
        same->parts_ = std::move(parts_);
        same->copies_ = copies_;
        return same;
    }
    /// What keeping it takes, beside the parts that are counted already.
    [[nodiscard]] std::size_t memory_beside(SharedParts& counted) const {
        if (parts_.empty()) {  // looked at once: there may be hundreds of steps
            copies_ = memory_of_copy(before_.study) + memory_of_copy(after_.study);
            add_shared_parts(before_.study, parts_);
            add_shared_parts(after_.study, parts_);
        }
        std::size_t bytes = copies_;
        for (const auto& [part, size] : parts_)
            if (counted.emplace(part, size).second) bytes += size;
        return bytes;
    }

private:
    [[nodiscard]] bool changes_plans() const { return before_.study.plans != after_.study.plans; }

    Document& document_;
    State before_;
    State after_;
    QDateTime made_ = QDateTime::currentDateTimeUtc();
    mutable SharedParts parts_;
    mutable std::size_t copies_ = 0;
    static constexpr qint64 kOneGestureMs = 1200;
};

Document::Document(QObject* parent) : QObject(parent), undo_(this) { qRegisterMetaType<Changes>(); }

void Document::edit(const QString& what, const std::function<void(service::Study&)>& change, PlansShown shown) {
    service::Study after = study_;
    change(after);
    if (same_study(study_, after)) {
        emit settled({});  // what was tried out meanwhile is over all the same
        return;
    }
    undo_.push(new Edit(*this, what, {study_, state_, shown.before}, {std::move(after), ++states_, shown.after}));
    forget_oldest_steps();
}

/// A stack of steps forgets nothing but all: those that stay are put in again.
void Document::forget_oldest_steps() {
    SharedParts counted;
    add_shared_parts(study_, counted);
    std::size_t bytes = 0;
    int first = undo_.count();
    while (first > 0) {
        bytes += static_cast<const Edit*>(undo_.command(first - 1))->memory_beside(counted);
        if (bytes > undo_budget_ && first < undo_.count()) break;
        --first;
    }
    if (first == 0) return;
    std::vector<Edit*> stay;
    for (int i = first; i < undo_.count(); ++i)  // the stack is emptied at once
        stay.push_back(const_cast<Edit*>(static_cast<const Edit*>(undo_.command(i)))->moved());
    rebuilding_ = true;
    undo_.clear();
    for (Edit* step : stay) undo_.push(step);
    rebuilding_ = false;
}

void Document::put(service::Study study, const QString& path) {
    undo_.clear();
    ++document_;
    state_ = saved_state_ = ++states_;
    saving_ = 0;
    path_ = path;
    plan_ = 0;
    study_ = std::move(study);
    emit edited();
    emit study_replaced();
    emit data_changed();
    emit notes_changed();
    emit route_changed();
    emit question_changed();
    emit questions_changed();
    emit plans_changed();
    emit plan_chosen();
    emit settled({true, true, true, true});
    emit saved_state_changed();
}

void Document::apply(const State& state, bool changes_plans) {
    const service::Study before = study_;
    const std::size_t plan_before = plan_;
    study_ = state.study;
    state_ = state.number;
    plan_ = std::min(changes_plans ? state.plan : plan_, study_.plans.size() - 1);

    const bool data = !same_data(before, study_);
    const bool another = before.in_sight != study_.in_sight;
    const bool question = another || !(before.question() == study_.question());
    const bool plans = before.plans != study_.plans;
    const bool chosen = plan_ != plan_before || study_.plans[plan_].name != before.plans[plan_before].name;

    emit edited();
    if (before.name != study_.name) emit study_replaced();
    if (data) emit data_changed();
    if (!same_notes(before, study_)) emit notes_changed();
    if (!(before.route == study_.route)) emit route_changed();
    if (question || data) emit question_changed();
    if (before.questions != study_.questions || another) emit questions_changed();
    if (plans) emit plans_changed();
    if (chosen) emit plan_chosen();
    emit settled({false, data || !same_answer(before.question(), study_.question()), question, plans || chosen});
    emit saved_state_changed();
}

void Document::mark_saved(const QString& path, Point saved) {
    if (saved.document != document_) return;
    path_ = path;
    saved_state_ = saved.state;
    emit saved_state_changed();
}

void Document::saving_ended(quint64 document) {
    if (document != document_ || saving_ == 0) return;
    --saving_;
    emit saved_state_changed();
}

void Document::mark_recovered() {
    saved_state_ = 0;
    emit saved_state_changed();
}

void Document::choose_question(std::size_t index) {
    if (index >= study_.questions.size() || index == study_.in_sight) return;
    const bool same = same_answer(study_.question(), study_.questions[index]);
    study_.in_sight = index;
    emit edited();
    emit question_changed();
    emit questions_changed();
    emit settled({false, !same, true, false});
}

void Document::copy_question() {
    edit(tr("new question"), [](service::Study& s) {
        auto same = s.question();
        s = with_question(std::move(s), std::move(same));
    });
}

void Document::rename_question(std::size_t index, const QString& name) {
    const std::string wanted = name.trimmed().toStdString();
    if (index >= study_.questions.size() || wanted.empty()) return;
    if (study_.find_question(wanted))
        return emit refused(
            tr("There is a question called \u2018%1\u2019 already. Choose another name.").arg(name.trimmed()));
    edit(tr("rename question"), [&](service::Study& s) { s.questions[index].name = wanted; });
}

void Document::remove_question(std::size_t index) {
    if (index >= study_.questions.size() || study_.questions.size() == 1) return;
    edit(tr("remove question"), [&](service::Study& s) { s = without_question(std::move(s), index); });
}

void Document::move_question(std::size_t index, int by) {
    const auto to = static_cast<std::size_t>(static_cast<std::ptrdiff_t>(index) + by);
    if (index >= study_.questions.size() || to >= study_.questions.size()) return;
    edit(tr("order of questions"), [&](service::Study& s) {
        std::swap(s.questions[index], s.questions[to]);
        if (s.in_sight == index)
            s.in_sight = to;
        else if (s.in_sight == to)
            s.in_sight = index;
    });
}

void Document::choose_plan(std::size_t index) {
    if (index >= study_.plans.size()) return;
    const bool another = index != plan_;
    plan_ = index;
    if (another) emit edited();
    if (another) emit plan_chosen();
    emit settled({false, false, false, another});
}

/// Named for good: a change that names no set means the question's first that has the site.
service::SiteChange Document::of_this_set(service::SiteChange change) const {
    if (!change.set.empty()) return change;
    const auto sites = study_.sites_of(study_.question());
    for (const auto& set : sites.sets())
        if (applies(change, places::Sites(set))) {
            change.set = set->name;
            break;
        }
    return change;
}

service::Plan Document::plan_with(const service::SiteChange& change) const {
    service::Plan plan = this->plan();
    put_change(plan, of_this_set(change));
    return plan;
}

std::string Document::free_plan_name(const std::string& wanted) const {
    std::vector<std::string> taken;
    for (const auto& p : study_.plans) taken.push_back(p.name);
    return service::free_name(wanted, taken);
}

void Document::change_plan(const QString& new_name, const service::SiteChange& change) {
    if (plan().is_today() && plan_ == 0) return new_plan(new_name, {change});
    const auto index = plan_;
    edit(new_name, [&](service::Study& s) { put_change(s.plans[index], of_this_set(change)); });
}

void Document::add_closures(const std::string& new_name, const std::vector<roads::Closure>& closures) {
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

void Document::new_plan(const QString& name, std::vector<service::SiteChange> changes) {
    for (auto& c : changes) c = of_this_set(std::move(c));
    const auto free = free_plan_name(name.toStdString());
    edit(tr("new plan %1").arg(QString::fromStdString(free)),
         [&](service::Study& s) {
             s.plans.push_back({free, changes, {}, {}});
         },
         {plan_, study_.plans.size()});
}

void Document::add_plan(service::Plan plan) {
    plan.name = free_plan_name(plan.name);
    edit(tr("new plan %1").arg(QString::fromStdString(plan.name)), [&](service::Study& s) { s.plans.push_back(plan); },
         {plan_, study_.plans.size()});
}

void Document::rename_plan(std::size_t index, const QString& name) {
    if (index == 0 || index >= study_.plans.size() || name.trimmed().isEmpty()) return;
    if (study_.find_plan(name.trimmed().toStdString()))
        return emit refused(
            tr("There is a plan called \u2018%1\u2019 already. Choose another name.").arg(name.trimmed()));
    edit(tr("rename plan"), [&](service::Study& s) { s.plans[index].name = name.trimmed().toStdString(); },
         {index, index});
}

void Document::remove_plan(std::size_t index) {
    if (index == 0 || index >= study_.plans.size()) return;
    const std::size_t after = plan_ > index ? plan_ - 1 : std::min(plan_, study_.plans.size() - 2);
    edit(tr("remove plan"),
         [&](service::Study& s) { s.plans.erase(s.plans.begin() + static_cast<std::ptrdiff_t>(index)); },
         {index, after});
}

void Document::move_plan(std::size_t index, int by) {
    const auto to = static_cast<std::size_t>(static_cast<std::ptrdiff_t>(index) + by);
    if (index == 0 || to == 0 || index >= study_.plans.size() || to >= study_.plans.size()) return;
    const std::size_t after = plan_ == index ? to : plan_ == to ? index : plan_;
    edit(tr("order of plans"), [&](service::Study& s) { std::swap(s.plans[index], s.plans[to]); }, {plan_, after});
}

void Document::branch_plan(std::size_t index) {
    if (index >= study_.plans.size()) return;
    add_plan(study_.plans[index]);
}

void Document::merge_plan(std::size_t into, std::size_t from) {
    if (into == 0 || into == from || into >= study_.plans.size() || from >= study_.plans.size()) return;
    edit(tr("merge %1").arg(QString::fromStdString(study_.plans[from].name)),
         [&](service::Study& s) { s.plans[into] = merged(s.plans[into], s.plans[from]); }, {plan_, plan_});
}

void Document::note_plan(std::size_t index, const QString& note) {
    if (index >= study_.plans.size()) return;
    edit(tr("note of a plan"), [&](service::Study& s) { s.plans[index].note = note.trimmed().toStdString(); },
         {plan_, plan_});
}

void Document::take_back(std::size_t index, const service::SiteChange& change) {
    if (index == 0 || index >= study_.plans.size()) return;
    edit(tr("take back a change"),
         [&](service::Study& s) {
             // Without the site nothing that is done to it means anything.
             if (change.change == service::Change::add)
                 std::erase_if(s.plans[index].changes, [&](const auto& c) { return c.same_site(change); });
             else
                 std::erase(s.plans[index].changes, change);
         },
         {plan_, plan_});
}

void Document::take_back(std::size_t index, const roads::Closure& closure) {
    if (index == 0 || index >= study_.plans.size()) return;
    edit(tr("take back a closure"),
         [&](service::Study& s) {
             auto& all = s.plans[index].closures;
             if (const auto at = std::find(all.begin(), all.end(), closure); at != all.end()) all.erase(at);
         },
         {plan_, plan_});
}

void Document::take_out(const service::SiteChange& added) {
    const auto index = plan_;
    if (index == 0) return;
    edit(tr("take %1 out").arg(QString::fromStdString(added.site)), [&](service::Study& s) {
        std::erase_if(s.plans[index].changes, [&](const service::SiteChange& c) { return c.same_site(added); });
    });
}

}  // namespace otoro::desktop
