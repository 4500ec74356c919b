#include "batch/console.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <csignal>
#include <cstdio>

namespace otoro::batch {
namespace {

/// The end of a pipe that the handler writes to; a handler may do little else.
volatile std::sig_atomic_t pipe_to_listener = -1;
volatile std::sig_atomic_t signals_heard = 0;

void on_signal(int number) {
    if (signals_heard > 0 && number == SIGINT) ::_exit(130);
    signals_heard = signals_heard + 1;
    const char byte = 1;
    if (pipe_to_listener >= 0) [[maybe_unused]]
        const auto written = ::write(pipe_to_listener, &byte, 1);
}

}  // namespace

Console::Console(bool quiet) : show_(!quiet && ::isatty(STDERR_FILENO) != 0), quiet_(quiet) {
    int ends[2];
    if (::pipe2(ends, O_CLOEXEC) != 0) return;
    signals_heard = 0;
    pipe_to_listener = ends[1];
    last_signal_fd_ = ends[1];
    listener_ = std::jthread([this, in = ends[0]] {
        // The signal may have come to this very thread: then reading was broken off by it, and has to go on.
        for (char byte = 0;;) {
            const auto got = ::read(in, &byte, 1);
            if (got < 0 && errno == EINTR) continue;
            if (got != 1 || byte != 1) break;
            stop_.request_stop();
        }
        ::close(in);
    });
    struct sigaction action {};
    action.sa_handler = on_signal;
    for (const int number : {SIGINT, SIGTERM, SIGHUP}) ::sigaction(number, &action, nullptr);
}

Console::~Console() {
    clear_line();
    if (last_signal_fd_ < 0) return;
    pipe_to_listener = -1;
    for (const int number : {SIGINT, SIGTERM, SIGHUP}) std::signal(number, SIG_DFL);
    const char end = 0;
    [[maybe_unused]] const auto written = ::write(last_signal_fd_, &end, 1);
    listener_.join();
    ::close(last_signal_fd_);
}

Task Console::task() {
    return Task(stop_.get_token(), [this](std::string_view step, double done) {
        const int percent = static_cast<int>(done * 100);
        if (!show_ || (percent == last_percent_ && step == last_step_)) return;
        last_percent_ = percent;
        last_step_ = step;
        fmt::print(stderr, "\r\033[K{} {} %", step, percent);
        std::fflush(stderr);
        line_used_ = true;
    });
}

bool Console::was_told_to_stop() { return signals_heard > 0; }

void Console::note(const std::string& text) {
    clear_line();
    if (!quiet_) fmt::print(stderr, "{}\n", text);
}

void Console::warn(const std::string& text) {
    clear_line();
    fmt::print(stderr, "{}\n", text);
}

void Console::clear_line() {
    if (line_used_) fmt::print(stderr, "\r\033[K");
    line_used_ = false;
}

}  // namespace otoro::batch
