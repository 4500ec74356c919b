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

/// Takes the latest request and forgets earlier ones: work under way for an older request is stopped, and what it would have said is never said.
class Answerer : public QObject {
    Q_OBJECT
public:
    explicit Answerer(QObject* parent = nullptr);
    ~Answerer() override;

    /// Answers `plans` in this order. Replaces whatever was asked before.
    /// \returns the number that the answers to this request carry
    quint64 ask(const service::Inputs& inputs, const service::Question& question, std::vector<service::Plan> plans);
    /// Stops; nothing more is said about earlier requests.
    void stop();

signals:
    void answered(quint64 request, otoro::desktop::PlanAnswerPtr answer);
    void progressed(quint64 request, const QString& step, double done);
    void failed(quint64 request, const QString& why);
    void finished(quint64 request);

private:
    struct Request {
        quint64 number = 0;
        service::Inputs inputs;
        service::Question question;
        std::vector<service::Plan> plans;
        std::stop_token stop;
    };
    void run(const std::stop_token& ending);
    void work(const Request& request);

    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::optional<Request> next_;
    std::stop_source current_;
    quint64 count_ = 0;
    std::shared_ptr<const service::Ready> last_ready_;  // worker thread only
    std::jthread thread_;
};

}  // namespace otoro::desktop

Q_DECLARE_METATYPE(otoro::desktop::PlanAnswerPtr)
