#include "batch/console.h"

#include <fmt/format.h>
#include <unistd.h>

#include <csignal>
#include <cstdio>

namespace otoro::batch {
namespace {

std::atomic<bool> interrupted = false;
void on_interrupt(int) { interrupted = true; }

}  // namespace

Console::Console(bool quiet) : show_(!quiet && ::isatty(STDERR_FILENO) != 0), quiet_(quiet) { std::signal(SIGINT, on_interrupt); }

Console::~Console() { clear_line(); }

Task Console::task() {
    return Task(stop_.get_token(), [this](std::string_view step, double done) {
        if (interrupted) {
            stop_.request_stop();
            throw Stopped();
        }
        const int percent = static_cast<int>(done * 100);
        if (!show_ || (percent == last_percent_ && step == last_step_)) return;
        last_percent_ = percent;
        last_step_ = step;
        fmt::print(stderr, "\r\033[K{} {} %", step, percent);
        std::fflush(stderr);
        line_used_ = true;
    });
}

void Console::note(const std::string& text) {
    clear_line();
    if (!quiet_) fmt::print(stderr, "{}\n", text);
}

void Console::clear_line() {
    if (line_used_) fmt::print(stderr, "\r\033[K");
    line_used_ = false;
}

}  // namespace otoro::batch
