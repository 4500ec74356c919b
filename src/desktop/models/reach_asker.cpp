#include "desktop/models/reach_asker.h"

namespace otoro::desktop {

ReachAsker::ReachAsker(QObject* parent) : QObject(parent), work_(this) {
    connect(&work_, &Background::progressed, this, &ReachAsker::progressed);
}

void ReachAsker::ask(GroundAsked asked) {
    if (wanted_ == asked) return;
    if (busy_) work_.stop(piece_);
    wanted_ = std::move(asked);
    busy_ = true;
    const quint64 number = ++number_;
    piece_ = work_.run(
        [this, number, wanted = *wanted_](const Task& task) -> Background::Then {
            auto found = find_ground(wanted, kLeastPatch, task);
            return [this, number, found = std::move(found)] {
                if (number != number_) return;
                busy_ = false;
                found_ = found;
                emit changed();
            };
        },
        [this, number](const QString& why) {
            if (number != number_) return;
            busy_ = false;
            // What was stopped may be asked for again.
            wanted_.reset();
            found_.reset();
            if (!why.isEmpty()) emit failed(why);
            emit changed();
        });
    emit changed();
}

void ReachAsker::stop() {
    if (busy_) work_.stop(piece_);
}

void ReachAsker::forget() {
    if (!wanted_ && !busy_) return;
    if (busy_) work_.stop(piece_);
    ++number_;
    busy_ = false;
    wanted_.reset();
    found_.reset();
    emit changed();
}

}  // namespace otoro::desktop
