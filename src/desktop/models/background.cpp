#include "desktop/models/background.h"

#include "desktop/models/behind_the_window.h"

namespace otoro::desktop {

Background::Background(QObject* parent) : QObject(parent) {
    thread_ = std::jthread([this](const std::stop_token& ending) { loop(ending); });
}

Background::~Background() {
    stop();
    thread_.request_stop();
    wake_.notify_all();
}

void Background::run(Work work) {
    ++waiting_;
    const std::lock_guard lock(mutex_);
    queue_.push_back(std::move(work));
    wake_.notify_all();
}

void Background::stop() {
    const std::lock_guard lock(mutex_);
    waiting_ -= static_cast<int>(queue_.size());
    queue_.clear();
    current_.request_stop();
}

void Background::loop(const std::stop_token& ending) {
    stand_behind_the_window(Behind::far);
    while (true) {
        Work work;
        std::stop_token stop;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, ending, [this] { return !queue_.empty(); })) return;
            work = std::move(queue_.front());
            queue_.pop_front();
            current_ = std::stop_source();
            stop = current_.get_token();
        }
        const auto on_interface = [this](Then then) {
            QMetaObject::invokeMethod(this, [this, then = std::move(then)] {
                --waiting_;
                then();
                if (waiting_ == 0) emit idle();
            });
        };
        try {
            const Task task(stop, [this](std::string_view step, double done) {
                emit progressed(QString::fromUtf8(step.data(), static_cast<qsizetype>(step.size())), done);
            });
            on_interface(work(task));
        } catch (const Stopped&) {
            on_interface([this] { emit stopped(); });
        } catch (const std::exception& e) {
            on_interface([this, why = QString::fromUtf8(e.what())] { emit failed(why); });
        }
    }
}

}  // namespace otoro::desktop
