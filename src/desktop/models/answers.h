#pragma once
/// \file
/// What is known of the document's questions under its plans: worked out off the interface thread, asked again whenever
/// the document changes, told apart from what has gone out of date.
#include <QElapsedTimer>
#include <QObject>
#include <QString>
#include <optional>
#include <vector>

#include "desktop/models/answer_store.h"
#include "desktop/models/answerer.h"
#include "desktop/models/document.h"

namespace otoro::desktop {

class Answers : public QObject {
    Q_OBJECT
public:
    explicit Answers(Document& document, QObject* parent = nullptr);

    /// The answer to the question in sight under the plan in sight (or the plan tried out), or null if there is none
    /// yet.
    [[nodiscard]] PlanAnswerPtr shown() const { return shown_; }
    /// The answer of any plan to the question in sight, if it has been worked out.
    [[nodiscard]] PlanAnswerPtr of_plan(std::size_t plan) const;
    /// Wants the answer of a plan that was let go of, as somebody looks at it.
    void want(std::size_t plan);
    /// Answers are kept within so many bytes from now on.
    void set_budget(std::size_t bytes) { answers_ = AnswerStore(bytes); }
    /// About how many bytes are kept.
    [[nodiscard]] std::size_t memory_kept() const { return answers_.bytes(); }
    /// Whether `shown()` was worked out from what the study says now.
    [[nodiscard]] bool up_to_date() const { return up_to_date_; }
    /// What the answer shown was asked: the question in sight as it is now if it still has that answer (its standard
    /// may have changed, and is judged anew), else the question that it was worked out for. Whatever shows the answer
    /// goes by this and never by the document's question, so that nothing is judged by another question's standard.
    /// Without an answer the question in sight.
    [[nodiscard]] const service::Question& question() const;
    /// Whether an answer is being worked out.
    [[nodiscard]] bool asking() const { return asking_; }
    /// The verdict on the answer shown by the standard of `question()`; nothing without both.
    [[nodiscard]] std::optional<service::Verdict> verdict() const;
    /// The same of any plan.
    [[nodiscard]] std::optional<service::Verdict> verdict_of(std::size_t plan) const;
    /// The verdict on any question under the plan in sight; nothing until it is known.
    [[nodiscard]] std::optional<service::Verdict> verdict_on(std::size_t question) const;
    /// The answer shown, for handing out; nothing while it is no plan's or out of date.
    struct ToExport {
        PlanAnswerPtr answer;
        service::Question question;  ///< its standard as it is now
        std::string plan;
        /// A copy that says so, which takes a while: made where it is written.
        [[nodiscard]] service::Outcome outcome() const;
    };
    [[nodiscard]] std::optional<ToExport> to_export() const;

    /// Shows what a change would do, while the mouse moves; nothing is kept. No change: back to the plan in sight.
    /// Answers follow as fast as they are found: the last one stays and counts until the next.
    void try_out(const std::optional<service::SiteChange>& change);
    [[nodiscard]] bool trying_out() const { return trial_.has_value(); }

    /// Stops working; the answer stays out of date until something is asked again.
    void stop_working();
    /// Works out again what is out of date.
    void ask_again() { ask(); }
    [[nodiscard]] Answerer& answerer() { return answerer_; }

signals:
    void changed();           ///< `shown()` or `up_to_date()`
    void verdicts_changed();  ///< of other plans, or on other questions
    void working(const QString& step, double done);
    void work_ended();
    void preparing(const QString& step, double done);  ///< behind the answers, which go on meanwhile
    void prepared();
    void failed(const QString& why);

private:
    /// What is known of a question that is not in sight.
    struct Known {
        service::Inputs inputs;
        service::Question question;
        service::Plan plan;
        std::optional<service::Verdict> verdict;
    };
    void follow(Changes changes);
    void forget_other_data();
    void ask();
    /// Other questions under the plan in sight, as far as they are not known.
    [[nodiscard]] std::vector<Asked> others() const;
    [[nodiscard]] const Known* known(std::size_t question, const service::Plan& plan) const;
    /// Whether the answers to this request are still wanted.
    [[nodiscard]] bool wants(quint64 request) const { return request >= first_wanted_ && request <= request_; }
    void take(const PlanAnswerPtr& answer);
    void keep(const PlanAnswerPtr& answer);
    /// What the list of questions says of one, also when another is in sight.
    void keep_verdict(const PlanAnswerPtr& answer, const service::Question& question);
    void show(const PlanAnswerPtr& answer);

    Document& document_;
    std::optional<service::Plan> trial_;
    Answerer answerer_;
    quint64 request_ = 0, first_wanted_ = 0;
    QElapsedTimer shown_since_;
    PlanAnswerPtr tried_;  ///< the last answer to what was tried out
    AnswerStore answers_;
    std::vector<Known> known_;
    PlanAnswerPtr shown_;
    bool up_to_date_ = false;
    bool asking_ = false;
};

}  // namespace otoro::desktop
