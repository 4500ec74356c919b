#include "desktop/models/answerer.h"

namespace otoro::desktop {

Answerer::Answerer(QObject* parent) : QObject(parent) {
    qRegisterMetaType<PlanAnswerPtr>();
    thread_ = std::jthread([this](const std::stop_token& ending) { run(ending); });
}

Answerer::~Answerer() {
    stop();
    thread_.request_stop();
    wake_.notify_all();
}

quint64 Answerer::ask(const service::Inputs& inputs, const service::Question& question, std::vector<service::Plan> plans) {
    const std::lock_guard lock(mutex_);
    current_.request_stop();
    current_ = std::stop_source();
    next_ = Request{++count_, inputs, question, std::move(plans), current_.get_token()};
    wake_.notify_all();
    return count_;
}

void Answerer::stop() {
    const std::lock_guard lock(mutex_);
    current_.request_stop();
    next_.reset();
}

void Answerer::run(const std::stop_token& ending) {
    while (!ending.stop_requested()) {
        Request request;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, ending, [this] { return next_.has_value(); })) return;
            request = std::move(*next_);
            next_.reset();
        }
        work(request);
    }
}

void Answerer::work(const Request& request) {
    try {
        const Task task(request.stop, [&](std::string_view step, double done) {
            emit progressed(request.number, QString::fromUtf8(step.data(), static_cast<qsizetype>(step.size())), done);
        });
        last_ready_ = service::prepare(request.inputs, request.question, last_ready_.get(), task);
        for (const auto& plan : request.plans) {
            auto answer = std::make_shared<PlanAnswer>(PlanAnswer{last_ready_, service::answer(*last_ready_, plan, task)});
            task.check();
            emit answered(request.number, answer);
        }
        emit finished(request.number);
    } catch (const Stopped&) {
        // A newer request has taken over, or nobody wants to know any more.
    } catch (const std::exception& e) {
        emit failed(request.number, QString::fromUtf8(e.what()));
    }
}

}  // namespace otoro::desktop
