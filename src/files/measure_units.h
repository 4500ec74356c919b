#pragma once
/// \file
/// Units of tables: minutes, and kilometres.
#include "routing/graph.h"

namespace otoro::files {

/// Milliseconds of a minute, or millimetres of a kilometre.
inline double unit_of(routing::Measure m) { return m == routing::Measure::time ? 60'000.0 : 1'000'000.0; }
inline const char* unit_name(routing::Measure m) { return m == routing::Measure::time ? "min" : "km"; }

}  // namespace otoro::files
