#pragma once
/// How the benchmark times work and prints a row.
#include <fmt/format.h>

#include <chrono>
#include <cstdint>
#include <functional>
#include <string>

namespace otoro::bench {

using Clock = std::chrono::steady_clock;

inline double seconds(const std::function<void()>& work) {
    const auto begin = Clock::now();
    work();
    return std::chrono::duration<double>(Clock::now() - begin).count();
}

/// The least of some runs: the one least disturbed.
inline double best_of(int runs, const std::function<void()>& work) {
    double best = 1e300;
    for (int i = 0; i < runs; ++i) best = std::min(best, seconds(work));
    return best;
}

inline volatile std::uint64_t kept = 0;  // keeps the compiler from leaving work out

inline void row(const std::string& work, const std::string& figure, const std::string& against, double ratio,
                double target) {
    fmt::print("{:<44} {:>12}   {:<40}", work, figure, against);
    if (ratio > 0) fmt::print(" {:>8.3f}", ratio);
    if (target > 0) fmt::print("   at most {:<6g} {}", target, ratio <= target ? "met" : "NOT MET");
    fmt::print("\n");
}

inline std::string ms(double s) { return fmt::format("{:.1f} ms", s * 1000); }

}  // namespace otoro::bench
