#pragma once
/// \file
/// `otoro-batch`: the same answers as the window, from the command line.

namespace otoro::batch {

/// Exit codes: 0 done, 1 bad input (or stopped), 2 misuse of the command line.
inline constexpr int kDone = 0;
inline constexpr int kBadInput = 1;
inline constexpr int kMisuse = 2;
/// `check --strict` found something.
inline constexpr int kFindings = 3;

/// Runs one command. Results go to stdout and to the files named, errors and progress to stderr.
int run(int argc, const char* const* argv);

}  // namespace otoro::batch
