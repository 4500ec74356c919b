#pragma once
/// \file
/// One command of otoro-batch: its options, and what it does.
#include <memory>

#include "batch/commands.h"
#include "batch/options.h"

namespace otoro::batch {

struct Command {
    virtual ~Command() = default;
    virtual void add_to(Options& app) = 0;
    /// \returns the program's exit code \throws InputError, Stopped
    [[nodiscard]] virtual int run() const = 0;
};

std::unique_ptr<Command> check_command();
std::unique_ptr<Command> assign_command();
std::unique_ptr<Command> access_command();
std::unique_ptr<Command> candidates_command();
std::unique_ptr<Command> fairness_command();
std::unique_ptr<Command> locate_command();
std::unique_ptr<Command> standard_command();
std::unique_ptr<Command> table_command();
std::unique_ptr<Command> route_command();
std::unique_ptr<Command> reach_command();
std::unique_ptr<Command> surface_command();
std::unique_ptr<Command> uncovered_command();
std::unique_ptr<Command> reach_change_command();
std::unique_ptr<Command> weakest_command();
std::unique_ptr<Command> zones_command();
std::unique_ptr<Command> answer_command();
std::unique_ptr<Command> compare_command();
std::unique_ptr<Command> study_command();

}  // namespace otoro::batch
