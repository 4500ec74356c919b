#pragma once
/// \file
/// The name of an answer's inputs: two answers with the same digest were worked out from the same things.
#include <string>

#include "service/assign.h"

namespace otoro::service {

/// Of what a question is asked of. Names of roads count where places or sites are attached by them. Linear in all.
std::string digest_of(const Inputs& inputs);

/// Of all that can change an answer: inputs, question, plan.
std::string digest_of(const Ready& ready, const Plan& plan);

}  // namespace otoro::service
