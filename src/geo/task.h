#pragma once
/// \file
/// What long work is given: a way to be stopped, and somewhere to say how far it is.
#include <functional>
#include <stop_token>
#include <string_view>

#include "geo/error.h"

namespace otoro {

/// Passed by reference down every function that may take more than a blink. Cheap to ask; copyable.
class Task {
public:
    using Report = std::function<void(std::string_view step, double done)>;

    Task() = default;
    explicit Task(std::stop_token stop, Report report = {}) : stop_(std::move(stop)), report_(std::move(report)) {}

    /// Says that `step` is `done` (0 to 1) done. May be called from one thread at a time.
    void at(std::string_view step, double done) const {
        check();
        if (report_) report_(step, done);
    }
    /// One that is stopped with this one and reports nothing: for work that is a step of other work.
    [[nodiscard]] Task quietly() const { return Task(stop_); }
    [[nodiscard]] bool stop_requested() const { return stop_.stop_requested(); }
    /// \throws Stopped if the user asked to stop
    void check() const {
        if (stop_.stop_requested()) throw Stopped();
    }

private:
    std::stop_token stop_;
    Report report_;
};

}  // namespace otoro
