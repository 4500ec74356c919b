#pragma once
/// \file
/// Something worked out off the interface thread from the answer that is shown: the newest request wins, and what is
/// out of date is never shown as the new.
#include <QObject>
#include <functional>
#include <memory>

#include "desktop/models/background.h"

namespace otoro::desktop {

class WorkedOutSignals : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;
signals:
    void changed();
    void failed(const QString& why);
    void progressed(const QString& step, double done);
};

template <class Result>
class WorkedOut : public WorkedOutSignals {
public:
    using Work = std::function<std::shared_ptr<const Result>(const Task&)>;

    explicit WorkedOut(QObject* parent = nullptr) : WorkedOutSignals(parent), work_(this) {
        connect(&work_, &Background::progressed, this, &WorkedOutSignals::progressed);
    }
    /// Works something out; what was under way is given up.
    void ask(Work work) {
        const quint64 number = ++asked_;
        busy_ = true;
        work_.stop();
        work_.run(
            [this, number, work = std::move(work)](const Task& task) -> Background::Then {
                auto result = work(task);
                return [this, number, result = std::move(result)] {
                    if (number != asked_) return;
                    found_ = result;
                    busy_ = false;
                    emit changed();
                };
            },
            [this, number](const QString& why) {
                if (number != asked_) return;
                busy_ = false;
                found_.reset();
                if (!why.isEmpty()) emit failed(why);
                emit changed();
            });
        emit changed();
    }
    /// Nothing is wanted any more.
    void forget() {
        if (!busy_ && !found_) return;
        ++asked_;
        work_.stop();
        busy_ = false;
        found_.reset();
        emit changed();
    }
    /// Gives up what is under way; what was found before goes too, since something else was asked for.
    void stop() { work_.stop(); }
    [[nodiscard]] bool busy() const { return busy_; }
    /// The last that was found.
    [[nodiscard]] const std::shared_ptr<const Result>& found() const { return found_; }

private:
    std::shared_ptr<const Result> found_;
    quint64 asked_ = 0;
    bool busy_ = false;
    Background work_;
};

}  // namespace otoro::desktop
