#pragma once
/// \file
/// How each rule of serving is answered: one function a rule, each in a file of its own.
#include "service/assign.h"

namespace otoro::service {

/// Fills in the places of an outcome, and what it leaves for hovering. \pre its question, plan and sites are there.
/// \throws Stopped
void serve(const Nearest& rule, const Ready& ready, Outcome& outcome, const Task& task);

}  // namespace otoro::service
