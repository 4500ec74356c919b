#pragma once
/// \file
/// Boundaries with fewer vertices.
#include "reach/drawing.h"

namespace otoro::reach {

/// Chains of lines between the same two classes are each replaced by fewer lines, no vertex of theirs farther off than
/// this (Douglas, Peucker 1973). Where a simpler chain would cross or touch another one it is simplified less, in the
/// end not at all. \throws Stopped
void simplify(Drawing& drawing, double metres, const Task& task);

}  // namespace otoro::reach
