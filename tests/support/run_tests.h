#pragma once
/// \file
/// The test framework's own code is compiled once, for every program of tests.

namespace otoro::test {

/// \returns how many tests failed, as an exit code
int run_tests(int argc, char** argv);

}  // namespace otoro::test
