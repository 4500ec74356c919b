#pragma once
/// \file
/// What a planner feels of the real window: how long something takes, and how long the window holds its breath
/// meanwhile.
#include <fmt/format.h>

#include <QApplication>
#include <QElapsedTimer>
#include <algorithm>
#include <functional>
#include <string>
#include <vector>

#include "measure.h"

namespace otoro::desktop {
class MainWindow;
}

namespace otoro::bench {

/// Runs the window until something is so; says how long that took and what the longest pause between two turns of its
/// loop was.
struct Waited {
    double seconds = 0, longest_pause = 0;
};
inline Waited wait_for(const std::function<bool()>& done) {
    QElapsedTimer timer;
    timer.start();
    Waited w;
    constexpr qint64 kPatienceMs = 120'000;
    while (!done() && timer.elapsed() < kPatienceMs) {
        const double before = static_cast<double>(timer.nsecsElapsed()) / 1e9;
        QApplication::processEvents(QEventLoop::AllEvents, 2);
        w.longest_pause = std::max(w.longest_pause, static_cast<double>(timer.nsecsElapsed()) / 1e9 - before);
    }
    w.seconds = static_cast<double>(timer.nsecsElapsed()) / 1e9;
    return w;
}

/// Times of single frames, in seconds.
struct Frames {
    std::vector<double> times;
    void say(const std::string& what) {
        std::sort(times.begin(), times.end());
        const double p95 = times[times.size() * 95 / 100];
        row(what + fmt::format(", {} frames, 95 in 100", times.size()), ms(p95),
            fmt::format("one frame: 16 ms; median {}, slowest {}", ms(times[times.size() / 2]), ms(times.back())),
            p95 / 0.016, 1.0);
    }
};

/// What is done by a press: how long until it is there, and that the window does not hold its breath meanwhile.
inline void act(const std::string& what, const std::function<void()>& begin, const std::function<bool()>& done) {
    const double at_once = seconds(begin);
    auto w = wait_for(done);
    const double pause = std::max(at_once, w.longest_pause);
    row(what, ms(at_once + w.seconds), fmt::format("longest pause {}; 50 ms", ms(pause)), pause / 0.050, 1.0);
}

/// What is chosen and pressed about who serves whom.
void serving_acts(desktop::MainWindow& window);

}  // namespace otoro::bench
