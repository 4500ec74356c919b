#pragma once
/// \file
/// Long work off the interface thread, one piece after another.
#include <QObject>
#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

#include "geo/task.h"

namespace otoro::desktop {

/// Reading, saving, checking. What a piece of work returns is run on the interface thread when it is done.
class Background : public QObject {
    Q_OBJECT
public:
    using Then = std::function<void()>;
    using Work = std::function<Then(const Task&)>;

    explicit Background(QObject* parent = nullptr);
    ~Background() override;
    void run(Work work);
    /// Stops the work under way and forgets what waits.
    void stop();
    [[nodiscard]] bool busy() const { return waiting_ > 0; }

signals:
    void progressed(const QString& step, double done);
    void failed(const QString& why);
    void stopped();
    void idle();

private:
    void loop(const std::stop_token& ending);
    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::deque<Work> queue_;
    std::stop_source current_;
    int waiting_ = 0;  // interface thread only
    std::jthread thread_;
};

}  // namespace otoro::desktop
