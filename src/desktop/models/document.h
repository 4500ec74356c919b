#pragma once
/// \file
/// The study on the desk: what is open, what can be undone, whether it is saved, and which question and plan are in
/// sight. Pages show it and send changes.
#include <QObject>
#include <QString>
#include <QUndoStack>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "service/study.h"

namespace otoro::desktop {

/// What a change of the document touched, as far as answers go.
struct Changes {
    bool document = false;  ///< another study is on the desk
    bool search = false;    ///< roads, places, or the question in more than its standard or name
    bool question = false;  ///< the question in sight in any part
    bool plans = false;     ///< what plans there are, or which is in sight
};

class Document : public QObject {
    Q_OBJECT
public:
    explicit Document(QObject* parent = nullptr);

    [[nodiscard]] const service::Study& study() const { return study_; }
    [[nodiscard]] QUndoStack& undo_stack() { return undo_; }

    /// Changes the study, so that it can be undone. Nothing happens if `change` leaves it as it was. Changes of the
    /// question with the same words that follow within a second or so (a number being turned, a handle being dragged)
    /// are undone as one.
    void edit(const QString& what, const std::function<void(service::Study&)>& change) {
        edit(what, change, {plan_, plan_});
    }
    /// Steps back are kept within this many bytes beside the study itself: the oldest are forgotten first, the last
    /// never is.
    void set_undo_budget(std::size_t bytes) { undo_budget_ = bytes; }
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
    /// What is on the desk is being written, until `saving_ended` for this document: the file is about to be another.
    void saving_began() { ++saving_; }
    void saving_ended(quint64 document);
    /// Whether what is on the desk differs from what is in the file, or from what it may be in a moment.
    [[nodiscard]] bool has_unsaved_changes() const { return state_ != saved_state_ || saving_ > 0; }
    /// The study came back after a crash: it counts as changed until it is saved.
    void mark_recovered();

    /// The question in sight, and its number.
    [[nodiscard]] const service::Question& question() const { return study_.question(); }
    [[nodiscard]] std::size_t question_index() const { return study_.in_sight; }
    void choose_question(std::size_t index);
    /// A further question like the one in sight, put in sight.
    void copy_question();
    void rename_question(std::size_t index, const QString& name);
    /// \pre there is another
    void remove_question(std::size_t index);
    /// One place up (-1) or down (+1).
    void move_question(std::size_t index, int by);

    [[nodiscard]] std::size_t plan_index() const { return plan_; }
    [[nodiscard]] const service::Plan& plan() const { return study_.plans[plan_]; }
    void choose_plan(std::size_t index);
    /// Makes a plan by `change` from the current one and goes to it. From Today a new plan with this name; otherwise
    /// the current plan is changed.
    void change_plan(const QString& new_name, const service::SiteChange& change);
    /// The current plan with such a change, as `change_plan` would make it.
    [[nodiscard]] service::Plan plan_with(const service::SiteChange& change) const;
    /// Always a new plan: Today and these changes.
    void new_plan(const QString& name, std::vector<service::SiteChange> changes);
    /// This plan as one more, under a name that is free.
    void add_plan(service::Plan plan);
    /// Takes a site that the current plan adds out of it again.
    void take_out(const service::SiteChange& added);
    /// Closures join the current plan, as one step; from Today a new plan of this name is made of them.
    void add_closures(const std::string& new_name, const std::vector<roads::Closure>& closures);
    void rename_plan(std::size_t index, const QString& name);
    void remove_plan(std::size_t index);
    /// One place up (-1) or down (+1). Today stays the first.
    void move_plan(std::size_t index, int by);
    /// A further plan like this one, put in sight.
    void branch_plan(std::size_t index);
    /// All that another plan changes joins this one; where both change one site the other's word counts.
    void merge_plan(std::size_t into, std::size_t from);
    void note_plan(std::size_t index, const QString& note);
    /// One change of a plan, or one closure, is taken back; nothing if it is not there any more.
    void take_back(std::size_t index, const service::SiteChange& change);
    void take_back(std::size_t index, const roads::Closure& closure);

signals:
    void study_replaced();  ///< another study is on the desk, or it has another name
    void edited();  ///< something was changed, undone or chosen: what a hand has begun on the state before is void
    void data_changed();       ///< roads, demand, sites, zones, water or the table of pairs
    void notes_changed();      ///< accepted findings, the tolerance for gaps, the study's own profiles
    void route_changed();      ///< the stops of the route
    void question_changed();   ///< the question in sight: another one, or any part of it, also the standard
    void questions_changed();  ///< the list, or what one of them says
    void plans_changed();      ///< the list, or what a plan says
    void plan_chosen();
    void saved_state_changed();
    /// Something asked for was not done.
    void refused(const QString& why);
    /// All signals of one change have been given. \param changes what there was in it
    void settled(otoro::desktop::Changes changes);

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
    void forget_oldest_steps();
    [[nodiscard]] service::SiteChange of_this_set(service::SiteChange change) const;
    [[nodiscard]] std::string free_plan_name(const std::string& wanted) const;

    service::Study study_;
    QString path_;
    QUndoStack undo_;
    std::size_t undo_budget_ = 200'000'000;
    bool rebuilding_ = false;              ///< steps that were done are put in again
    quint64 document_ = 1;                 ///< another one is put: another number
    quint64 state_ = 1, saved_state_ = 1;  ///< of the document
    int saving_ = 0;                       ///< saves of this document under way
    quint64 states_ = 1;                   ///< how many there were
    std::size_t plan_ = 0;
};

}  // namespace otoro::desktop
