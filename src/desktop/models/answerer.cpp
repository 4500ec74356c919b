#include "desktop/models/answerer.h"

#include <QCoreApplication>
#include <QThread>
#include <QThreadPool>

#include "desktop/models/background.h"
#include "desktop/models/behind_the_window.h"
#include "files/order_file.h"

namespace otoro::desktop {
namespace {

/// An answer that is taken apart off the interface thread, whoever lets go of it last: that of a county takes a tenth
/// of a second.
std::shared_ptr<PlanAnswer> made(PlanAnswer answer) {
    return {new PlanAnswer(std::move(answer)), [](PlanAnswer* a) {
                const auto* app = QCoreApplication::instance();
                if (app == nullptr || QThread::currentThread() != app->thread()) return delete a;
                QThreadPool::globalInstance()->start([a] { delete a; });
            }};
}

}  // namespace

Answerer::Answerer(QObject* parent) : QObject(parent) {
    qRegisterMetaType<PlanAnswerPtr>();
    put_helpers_behind_the_window();
    thread_ = std::jthread([this](const std::stop_token& ending) { run(ending); });
    preparer_ = std::jthread([this](const std::stop_token& ending) { prepare(ending); });
}

Answerer::~Answerer() {
    stop();
    stop_preparing();
    thread_.request_stop();
    preparer_.request_stop();
    wake_.notify_all();
    prepare_wake_.notify_all();
}

quint64 Answerer::ask(Asked in_sight, std::vector<Asked> others) {
    const std::lock_guard lock(mutex_);
    current_.request_stop();
    current_ = std::stop_source();
    trying_out_ = false;
    return put_next(std::move(in_sight), std::move(others));
}

quint64 Answerer::try_out(const service::Inputs& inputs, const service::Question& question, service::Plan plan) {
    const std::lock_guard lock(mutex_);
    if (!trying_out_) {
        current_.request_stop();
        current_ = std::stop_source();
        trying_out_ = true;
    }
    return put_next({inputs, question, {std::move(plan)}}, {});
}

quint64 Answerer::put_next(Asked in_sight, std::vector<Asked> others) {
    next_ = Request{++count_, std::move(in_sight), std::move(others), current_.get_token()};
    wake_.notify_all();
    return count_;
}

void Answerer::stop() {
    const std::lock_guard lock(mutex_);
    current_.request_stop();
    trying_out_ = false;
    next_.reset();
}

void Answerer::stop_preparing() {
    const std::lock_guard lock(mutex_);
    if (to_prepare_) tried_ = to_prepare_->graph;
    preparing_.request_stop();
    to_prepare_.reset();
}

void Answerer::forget() {
    const std::lock_guard lock(mutex_);
    preparing_.request_stop();
    to_prepare_.reset();
    prepared_.reset();
    tried_.reset();
}

void Answerer::keep_orders_beside(const std::string& study) {
    const std::lock_guard lock(mutex_);
    study_path_ = study;
    prepare_wake_.notify_all();
}

void Answerer::prepare_from(std::uint32_t nodes) {
    const std::lock_guard lock(mutex_);
    least_nodes_ = nodes;
}

void Answerer::run(const std::stop_token& ending) {
    stand_behind_the_window(Behind::closely);
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
        answer_in_sight(request);
        emit finished(request.number);
        want_prepared(request);
        answer_others(request);
    } catch (const Stopped&) {
        // A newer request has taken over, or nobody wants to know any more.
    } catch (...) {
        emit failed(request.number, what_went_wrong());
    }
}

void Answerer::answer_in_sight(const Request& request) {
    const Task task(request.stop, [&](std::string_view step, double done) {
        emit progressed(request.number, QString::fromUtf8(step.data(), static_cast<qsizetype>(step.size())), done);
    });
    auto ready = service::prepare(request.in_sight.inputs, request.in_sight.question, last_ready_.get(), task);
    {
        const std::lock_guard lock(mutex_);
        if (prepared_ && prepared_->graph == ready->graph && ready->prepared != prepared_) {
            auto faster = std::make_shared<service::Ready>(*ready);
            faster->prepared = prepared_;
            ready = faster;
        }
    }
    last_ready_ = ready;
    for (const auto& plan : request.in_sight.plans) {
        auto answer = made({last_ready_, service::answer(*last_ready_, plan, task)});
        task.check();
        emit answered(request.number, answer);
    }
}

void Answerer::want_prepared(const Request& request) {
    const std::lock_guard lock(mutex_);
    if (!last_ready_->prepared && last_ready_->graph->node_count() >= least_nodes_ && tried_ != last_ready_->graph &&
        !(to_prepare_ && to_prepare_->graph == last_ready_->graph) && !request.stop.stop_requested()) {
        preparing_.request_stop();
        preparing_ = std::stop_source();
        to_prepare_ = last_ready_;
        prepare_wake_.notify_all();
    }
}

void Answerer::answer_others(const Request& request) {
    const Task task(request.stop, nullptr);
    for (const auto& asked : request.others) {
        const auto ready = service::prepare(asked.inputs, asked.question, last_ready_.get(), task);
        for (const auto& plan : asked.plans) {
            auto answer = made({ready, service::answer(*ready, plan, task)});
            answer->outcome.traces.reset();
            task.check();
            emit answered_out_of_sight(request.number, answer);
        }
    }
}

void Answerer::prepare(const std::stop_token& ending) {
    stand_behind_the_window(Behind::far);
    std::shared_ptr<const service::Ready> done;  // what was prepared last
    std::string kept_beside;
    while (!ending.stop_requested()) {
        std::shared_ptr<const service::Ready> ready;
        std::shared_ptr<const service::Prepared> earlier;
        std::optional<files::OrderFile> store;
        std::stop_token stop;
        std::uint32_t least = 0;
        {
            std::unique_lock lock(mutex_);
            const auto to_keep = [&] {
                return done && prepared_ && !study_path_.empty() && study_path_ != kept_beside;
            };
            if (!prepare_wake_.wait(lock, ending, [&] { return to_prepare_ || to_keep(); })) return;
            if (!study_path_.empty()) store.emplace(study_path_);
            kept_beside = study_path_;
            ready = to_prepare_;
            earlier = prepared_;
            stop = preparing_.get_token();
            least = least_nodes_;
        }
        if (!ready) {
            try {
                service::keep_order(*done, *earlier, *store);
            } catch (...) {
                emit preparing_failed(what_went_wrong());  // it is found again the next time
            }
            continue;
        }
        std::shared_ptr<const service::Prepared> found;
        bool stopped = false;
        try {
            const Task task(stop, [&](std::string_view step, double part) {
                emit preparing(QString::fromUtf8(step.data(), static_cast<qsizetype>(step.size())), part);
            });
            // Another network's order is of no use to this one.
            const bool same_roads = done && done->inputs.network == ready->inputs.network;
            found = service::prepare_searches(*ready, same_roads ? earlier.get() : nullptr, store ? &*store : nullptr,
                                              task, least);
            task.check();
        } catch (const Stopped&) {
            stopped = true;  // something else is to be prepared, or nothing
        } catch (...) {
            emit preparing_failed(what_went_wrong());  // answers stay plain, and right
        }
        {
            const std::lock_guard lock(mutex_);
            if (to_prepare_ == ready) to_prepare_.reset();
            if (!stopped && !stop.stop_requested()) {
                prepared_ = found;
                tried_ = ready->graph;
                if (found) done = ready;
            }
        }
        emit prepared();
    }
}

}  // namespace otoro::desktop
