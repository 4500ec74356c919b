#pragma once
/// \file
/// What long work is given: a way to be stopped, and somewhere to say how far it is.
#include <algorithm>
#include <chrono>
#include <functional>
#include <optional>
#include <stop_token>
#include <string_view>
#include <vector>

#include "geo/error.h"

namespace otoro {

/// Passed by reference down every function that may take half a second. Cheap to ask; copyable.
///
/// Work is *stopped* when nobody wants it any more: then nothing comes out. Work that gets better the longer it goes on
/// is *left off* when the best by then is wanted, at a moment that is set for all of it or when somebody says so.
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
    [[nodiscard]] Task quietly() const {
        Task out = *this;
        out.report_ = {};
        return out;
    }
    using Clock = std::chrono::steady_clock;
    /// One that is left off at a moment, if there is one, or when `enough` says so, and with this one.
    [[nodiscard]] Task leaving_off(std::optional<Clock::time_point> at, std::stop_token enough = {}) const {
        Task out = *this;
        if (at) out.until_ = until_ ? std::min(*until_, *at) : *at;
        if (enough.stop_possible()) out.enough_.push_back(std::move(enough));
        return out;
    }
    /// One that is stopped with this one, and never left off: for what is told of work that was.
    [[nodiscard]] Task to_the_end() const {
        Task out = *this;
        out.until_.reset();
        out.enough_.clear();
        return out;
    }
    /// Whether what is known by now is to do.
    [[nodiscard]] bool leave_off() const {
        return std::any_of(enough_.begin(), enough_.end(), [](const auto& e) { return e.stop_requested(); }) ||
               (until_ && Clock::now() >= *until_);
    }
    [[nodiscard]] bool stop_requested() const { return stop_.stop_requested(); }
    /// \throws Stopped if the user asked to stop
    void check() const {
        if (stop_.stop_requested()) throw Stopped();
    }

private:
    std::stop_token stop_;
    std::vector<std::stop_token> enough_;
    std::optional<Clock::time_point> until_;
    Report report_;
};

}  // namespace otoro
