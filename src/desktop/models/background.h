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

/// One kind of work: reading, saving, checking. What a piece of work returns is run on the interface thread when it is
/// done. Nothing that is thrown, here or there, ends the program: it becomes `failed`.
class Background : public QObject {
    Q_OBJECT
public:
    using Then = std::function<void()>;
    using Work = std::function<Then(const Task&)>;
    /// Run on the interface thread instead of `Then` when the work failed, with the reason, or was stopped, with none.
    using Otherwise = std::function<void(const QString& why)>;

    explicit Background(QObject* parent = nullptr);
    ~Background() override;
    /// \returns a number by which just this piece can be stopped
    quint64 run(Work work, Otherwise otherwise = {});
    /// Stops the work under way and gives up what waits.
    void stop();
    /// Stops one piece, whether it is under way or waits; nothing if it has ended.
    void stop(quint64 piece);
    [[nodiscard]] bool busy() const { return waiting_ > 0; }

signals:
    void progressed(const QString& step, double done);
    void failed(const QString& why);
    void stopped();
    void succeeded();
    void idle();

private:
    struct Piece {
        quint64 number = 0;
        Work work;
        Otherwise otherwise;
    };
    void loop(const std::stop_token& ending);
    /// Runs the end of a piece on the interface thread.
    void end(Then then);
    void give_up(const Otherwise& otherwise, const QString& why);

    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::deque<Piece> queue_;
    std::stop_source current_;
    quint64 current_number_ = 0, pieces_ = 0;
    int waiting_ = 0;  // interface thread only
    std::jthread thread_;
};

/// What an exception says, for a person.
QString what_went_wrong();

}  // namespace otoro::desktop
