#include "support/run_tests.h"

int main(int argc, char** argv) { return otoro::test::run_tests(argc, argv); }
