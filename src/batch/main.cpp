#include "batch/commands.h"

int main(int argc, char** argv) { return otoro::batch::run(argc, argv); }
