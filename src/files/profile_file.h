#pragma once
/// \file
/// A travel profile as a file of its own, so that offices can exchange them: JSON with `mode`, `name`, `classes` and so
/// on, the same as in the study file, under
/// `"otoro_travel_profile": 1`.
#include <string>

#include "travel/profile.h"

namespace otoro::files {

/// Atomic. \throws InputError
void write_profile(const travel::Profile& profile, const std::string& path);
/// \throws InputError if it is no profile, is damaged, or is over a megabyte
travel::Profile read_profile(const std::string& path);

}  // namespace otoro::files
