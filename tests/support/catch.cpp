#define CATCH_CONFIG_RUNNER
#include <catch2/catch.hpp>

#include "support/run_tests.h"

int otoro::test::run_tests(int argc, char** argv) { return Catch::Session().run(argc, argv); }
