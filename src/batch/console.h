#pragma once
/// \file
/// What a terminal sees while work runs.
#include <atomic>
#include <iosfwd>
#include <string>

#include "geo/task.h"

namespace otoro::batch {

/// Progress on stderr, on one line that is rewritten, only if stderr is a terminal and nobody asked for quiet. Ctrl+C stops the work.
class Console {
public:
    explicit Console(bool quiet);
    ~Console();
    Console(const Console&) = delete;
    Console& operator=(const Console&) = delete;

    [[nodiscard]] Task task();
    /// A remark for the person at the terminal, on stderr; silent when quiet.
    void note(const std::string& text);

private:
    void clear_line();
    bool show_;
    bool quiet_;
    bool line_used_ = false;
    int last_percent_ = -1;
    std::string last_step_;
    std::stop_source stop_;
};

}  // namespace otoro::batch
