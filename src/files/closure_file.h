#pragma once
/// \file
/// Closures from a file: points, lines and polygons in any of the vector formats. Fields found by name: `name`;
/// `effect` (closed or shut, slowed, delay; closed where there is none); `factor` (how many times as long, for slowed);
/// `delay_min` (minutes, for delay).
#include <string>
#include <vector>

#include "geo/task.h"
#include "roads/closure.h"

namespace otoro::files {

/// \throws InputError, also for a record that cannot be used: a closure left out unseen would change the answer
std::vector<roads::Closure> read_closures(const std::string& path, const Task& task);

}  // namespace otoro::files
