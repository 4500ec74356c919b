#pragma once
/// \file
/// The study on the desk: the one object that owns the current question and plan. Pages only show it and send changes.
#include <QElapsedTimer>
#include <QObject>
#include <QString>
#include <QUndoStack>
#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "desktop/models/answerer.h"
#include "service/study.h"

namespace otoro::desktop {

/// What is picked out, everywhere at once.
struct Selection {
    std::vector<std::uint32_t> places;  ///< demand places, ascending
    std::optional<SiteIndex> site;
    bool operator==(const Selection&) const = default;
};

class Session : public QObject {
    Q_OBJECT
public:
    explicit Session(QObject* parent = nullptr);

    [[nodiscard]] const service::Study& study() const { return study_; }
    [[nodiscard]] const service::Question& question() const { return study_.question; }
    [[nodiscard]] QUndoStack& undo_stack() { return undo_; }

    /// Changes the study, so that it can be undone. Nothing happens if `change` leaves it as it was. Changes of the
    /// question with the same words that follow within a second or so (a number being turned, a cross being dragged)
    /// are undone as one.
    void edit(const QString& what, const std::function<void(service::Study&)>& change) {
        edit(what, change, {plan_, plan_});
    }
    /// Puts another study on the desk; undo starts afresh. An empty path: not saved yet.
    void put(service::Study study, const QString& path);
    [[nodiscard]] const QString& path() const { return path_; }
    /// One state of one document. Each change makes a new one; undo and redo go back to those there were.
    struct Point {
        quint64 document = 0, state = 0;
        bool operator==(const Point&) const = default;
    };
    [[nodiscard]] Point point() const { return {document_, state_}; }
    /// What stood at `saved` is in the file now. Nothing happens if another document is on the desk by now.
    void mark_saved(const QString& path, Point saved);
    /// Whether what is on the desk differs from what is in the file.
    [[nodiscard]] bool has_unsaved_changes() const { return state_ != saved_state_; }
    /// The study came back after a crash: it counts as changed until it is saved.
    void mark_recovered();

    [[nodiscard]] std::size_t plan_index() const { return plan_; }
    [[nodiscard]] const service::Plan& plan() const { return study_.plans[plan_]; }
    void choose_plan(std::size_t index);
    /// Makes a plan by `change` from the current one and goes to it. From Today a new plan with this name; otherwise
    /// the current plan is changed.
    void change_plan(const QString& new_name, const service::SiteChange& change);
    /// Always a new plan: Today and this change.
    void new_plan(const QString& name, std::vector<service::SiteChange> changes);
    /// Closures join the current plan, as one step; from Today a new plan of this name is made of them.
    void add_closures(const std::string& new_name, const std::vector<roads::Closure>& closures);
    void rename_plan(std::size_t index, const QString& name);
    void remove_plan(std::size_t index);
    /// Shows what a change would do, while the mouse moves; nothing is kept. No change: back to the current plan.
    /// Answers follow as fast as they are found: the last one stays and counts until the next.
    void try_out(const std::optional<service::SiteChange>& change);
    [[nodiscard]] bool trying_out() const { return trial_.has_value(); }

    /// The answer under the current plan (or the plan tried out), or null if there is none yet.
    [[nodiscard]] PlanAnswerPtr answer() const { return shown_; }
    /// The answer of any plan, if it has been worked out.
    [[nodiscard]] PlanAnswerPtr answer_of(std::size_t plan) const;
    /// Whether `answer()` was worked out from what the study says now.
    [[nodiscard]] bool up_to_date() const { return up_to_date_; }
    /// Whether an answer is being worked out.
    [[nodiscard]] bool asking() const { return asking_; }
    /// The verdict on the current answer by the current standard; nothing without both.
    [[nodiscard]] std::optional<service::Verdict> verdict() const;
    [[nodiscard]] std::optional<service::Verdict> verdict_of(std::size_t plan) const;
    /// The current answer, saying the current standard, for handing out.
    [[nodiscard]] std::optional<service::Outcome> outcome_to_hand_out() const;

    [[nodiscard]] const Selection& selection() const { return selection_; }
    void select(Selection selection);

    /// Stops working; the answer stays out of date until something is asked again.
    void stop_working();
    [[nodiscard]] Answerer& answerer() { return answerer_; }
    /// Works out again what is out of date.
    void ask_again() { ask(); }

signals:
    void study_replaced();  ///< another study is on the desk, or it has another name
    void edited();  ///< something was changed, undone or chosen: what a hand has begun on the state before is void
    void data_changed();      ///< roads, demand or sites
    void notes_changed();     ///< accepted findings, the tolerance for gaps, the study's own profiles
    void question_changed();  ///< any part of it, also the standard
    void plans_changed();     ///< the list, or what a plan says
    void plan_chosen();
    void answer_changed();  ///< `answer()` or `up_to_date()`
    void selection_changed();
    void saved_state_changed();
    void working(const QString& step, double done);
    void work_ended();
    void preparing(const QString& step, double done);  ///< behind the answers, which go on meanwhile
    void prepared();
    void failed(const QString& why);

private:
    class Edit;
    /// The plan in sight before and after a change.
    struct PlansShown {
        std::size_t before, after;
    };
    /// A study with what belongs to it on the desk.
    struct State {
        service::Study study;
        quint64 number = 0;
        std::size_t plan = 0;
    };
    void edit(const QString& what, const std::function<void(service::Study&)>& change, PlansShown shown);
    void apply(const State& state, bool changes_plans);
    [[nodiscard]] service::SiteChange of_this_set(service::SiteChange change) const;
    [[nodiscard]] std::string free_plan_name(const std::string& wanted) const;
    void ask();
    /// Whether the answers to this request are still wanted.
    [[nodiscard]] bool wants(quint64 request) const { return request >= first_wanted_ && request <= request_; }
    void take(const PlanAnswerPtr& answer);
    void keep(const PlanAnswerPtr& answer);
    void show(const PlanAnswerPtr& answer);

    service::Study study_;
    QString path_;
    QUndoStack undo_;
    quint64 document_ = 1;                 ///< another one is put: another number
    quint64 state_ = 1, saved_state_ = 1;  ///< of the document
    quint64 states_ = 1;                   ///< how many there were
    std::size_t plan_ = 0;
    std::optional<service::Plan> trial_;
    Answerer answerer_;
    quint64 request_ = 0, first_wanted_ = 0;
    QElapsedTimer shown_since_;
    PlanAnswerPtr tried_;  ///< the last answer to what was tried out
    std::vector<std::pair<service::Plan, PlanAnswerPtr>> answers_;
    PlanAnswerPtr shown_;
    bool up_to_date_ = false;
    bool asking_ = false;
    Selection selection_;
};

}  // namespace otoro::desktop
