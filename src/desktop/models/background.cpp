#include "desktop/models/background.h"

#include <algorithm>
#include <exception>
#include <new>

#include "desktop/models/behind_the_window.h"

namespace otoro::desktop {

QString what_went_wrong() {
    try {
        throw;
    } catch (const std::bad_alloc&) {
        return Background::tr(
            "There is not enough memory for this. Close other programs, or use a smaller part of the data.");
    } catch (const std::exception& e) {
        return QString::fromUtf8(e.what());
    } catch (...) {
        return Background::tr("Something unexpected went wrong.");
    }
}

Background::Background(QObject* parent) : QObject(parent) {
    thread_ = std::jthread([this](const std::stop_token& ending) { loop(ending); });
}

Background::~Background() {
    {
        const std::lock_guard lock(mutex_);
        queue_.clear();
        current_.request_stop();
    }
    thread_.request_stop();
    wake_.notify_all();
}

quint64 Background::run(Work work, Otherwise otherwise) {
    ++waiting_;
    const std::lock_guard lock(mutex_);
    queue_.push_back({++pieces_, std::move(work), std::move(otherwise)});
    wake_.notify_all();
    return pieces_;
}

void Background::stop(quint64 piece) {
    Otherwise otherwise;
    {
        const std::lock_guard lock(mutex_);
        if (current_number_ == piece) return void(current_.request_stop());
        const auto at = std::find_if(queue_.begin(), queue_.end(), [&](const Piece& p) { return p.number == piece; });
        if (at == queue_.end()) return;
        otherwise = std::move(at->otherwise);
        queue_.erase(at);
    }
    end([this, otherwise = std::move(otherwise)] { give_up(otherwise, {}); });
}

void Background::stop() {
    std::deque<Piece> given_up;
    {
        const std::lock_guard lock(mutex_);
        given_up.swap(queue_);
        current_.request_stop();
    }
    for (auto& piece : given_up) end([this, otherwise = std::move(piece.otherwise)] { give_up(otherwise, {}); });
}

void Background::give_up(const Otherwise& otherwise, const QString& why) {
    if (otherwise) otherwise(why);
    if (why.isEmpty())
        emit stopped();
    else
        emit failed(why);
}

void Background::end(Then then) {
    QMetaObject::invokeMethod(
        this,
        [this, then = std::move(then)] {
            --waiting_;
            try {
                then();
            } catch (...) {
                emit failed(what_went_wrong());
            }
            if (waiting_ == 0) emit idle();
        },
        Qt::QueuedConnection);
}

void Background::loop(const std::stop_token& ending) {
    stand_behind_the_window(Behind::far);
    while (true) {
        Piece piece;
        std::stop_token stop;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, ending, [this] { return !queue_.empty(); })) return;
            if (ending.stop_requested()) return;
            piece = std::move(queue_.front());
            queue_.pop_front();
            current_ = std::stop_source();
            current_number_ = piece.number;
            stop = current_.get_token();
        }
        try {
            const Task task(stop, [this](std::string_view step, double done) {
                emit progressed(QString::fromUtf8(step.data(), static_cast<qsizetype>(step.size())), done);
            });
            Then then = piece.work(task);
            end([this, then = std::move(then)] {
                then();
                emit succeeded();
            });
        } catch (const Stopped&) {
            end([this, otherwise = std::move(piece.otherwise)] { give_up(otherwise, {}); });
        } catch (...) {
            end([this, otherwise = std::move(piece.otherwise), why = what_went_wrong()] { give_up(otherwise, why); });
        }
    }
}

}  // namespace otoro::desktop
