#pragma once
/// \file
/// What a terminal sees while work runs.
#include <stop_token>
#include <string>
#include <thread>

#include "geo/task.h"

namespace otoro::batch {

/// Progress on stderr, on one line that is rewritten, only if stderr is a terminal and nobody asked for quiet. Ctrl+C,
/// or being told to end, stops the work within a moment; a second Ctrl+C ends the program at once.
class Console {
public:
    explicit Console(bool quiet);
    ~Console();
    Console(const Console&) = delete;
    Console& operator=(const Console&) = delete;

    [[nodiscard]] Task task();
    /// Whether somebody asked to stop, in any command of this program.
    [[nodiscard]] static bool was_told_to_stop();
    /// A remark for the person at the terminal, on stderr; silent when quiet.
    void note(const std::string& text);
    /// The same of what changes what numbers mean: also said when quiet.
    void warn(const std::string& text);
    [[nodiscard]] bool is_quiet() const { return quiet_; }

private:
    void clear_line();
    bool show_;
    bool quiet_;
    bool line_used_ = false;
    int last_percent_ = -1;
    std::string last_step_;
    std::stop_source stop_;
    std::jthread listener_;  ///< turns a signal into a wish to stop, also in the middle of a parallel loop
    int last_signal_fd_ = -1;
};

}  // namespace otoro::batch
