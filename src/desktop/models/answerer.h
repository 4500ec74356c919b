#pragma once
/// \file
/// Works answers out, off the interface thread.
#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

#include "service/assign.h"
#include "service/study.h"

namespace otoro::desktop {

/// One plan's answer with what it was worked out from.
struct PlanAnswer {
    std::shared_ptr<const service::Ready> ready;
    service::Outcome outcome;
};
using PlanAnswerPtr = std::shared_ptr<const PlanAnswer>;

/// One question, and the plans to answer it under.
struct Asked {
    service::Inputs inputs;
    service::Question question;
    std::vector<service::Plan> plans;
};

/// Takes the latest request and forgets earlier ones: work under way for an older request is stopped, and what it would
/// have said is never said.
///
/// A large network is prepared for fast searches on a second thread, behind the answers; they are plain until it is
/// ready.
class Answerer : public QObject {
    Q_OBJECT
public:
    explicit Answerer(QObject* parent = nullptr);
    ~Answerer() override;

    /// Answers the question in sight, and then others, of which only the light part of the answer is kept. Replaces
    /// whatever was asked before.
    /// \returns the number that the answers to this request carry; later requests have larger ones
    quint64 ask(Asked in_sight, std::vector<Asked> others);
    /// Answers a plan that changes while the mouse moves. Of such requests the one under way is finished first and of
    /// those waiting only the last counts, so that answers keep coming however fast the mouse is.
    quint64 try_out(const service::Inputs& inputs, const service::Question& question, service::Plan plan);
    /// Stops answering; nothing more is said about earlier requests. Preparing goes on.
    void stop();
    /// Leaves the present network unprepared.
    void stop_preparing();
    /// Another study is asked about from now on: nothing that was prepared belongs to it.
    void forget();
    /// Where orders of networks are kept: beside this study; nowhere if empty. What was found before the study had a
    /// place is kept there then.
    void keep_orders_beside(const std::string& study);
    /// Networks of at least so many nodes are prepared, behind the answers.
    void prepare_from(std::uint32_t nodes);

signals:
    void answered(quint64 request, otoro::desktop::PlanAnswerPtr answer);
    void answered_out_of_sight(quint64 request, otoro::desktop::PlanAnswerPtr answer);  ///< without traces
    void progressed(quint64 request, const QString& step, double done);
    void failed(quint64 request, const QString& why);
    void finished(quint64 request);                    ///< with the question in sight; others go on
    void preparing(const QString& step, double done);  ///< behind the answers, which go on meanwhile
    void prepared();                                   ///< or given up, or not worth while
    void preparing_failed(const QString& why);         ///< answers go on without

private:
    struct Request {
        quint64 number = 0;
        Asked in_sight;
        std::vector<Asked> others;
        std::stop_token stop;
    };
    quint64 put_next(Asked in_sight, std::vector<Asked> others);
    void run(const std::stop_token& ending);
    void work(const Request& request);
    void answer_in_sight(const Request& request);
    void answer_others(const Request& request);
    void want_prepared(const Request& request);
    void prepare(const std::stop_token& ending);

    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::optional<Request> next_;
    std::stop_source current_;
    bool trying_out_ = false;  // whether the last request was of that kind
    quint64 count_ = 0;
    std::shared_ptr<const service::Ready> last_ready_;  // worker thread only

    // Behind the answers.
    std::condition_variable_any prepare_wake_;
    std::shared_ptr<const service::Ready> to_prepare_;
    std::stop_source preparing_;
    std::shared_ptr<const service::Prepared> prepared_;
    std::shared_ptr<const routing::Graph> tried_;  // prepared, or not worth it
    std::string study_path_;
    std::uint32_t least_nodes_ = routing::kWorthPreparing;
    std::jthread thread_, preparer_;
};

}  // namespace otoro::desktop

Q_DECLARE_METATYPE(otoro::desktop::PlanAnswerPtr)
