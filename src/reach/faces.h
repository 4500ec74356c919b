#pragma once
/// \file
/// Boundaries drawn anew where those that were walked do not close.
///
/// \par Problem
/// Lines between strips, lines across them and the sides of tiles are each rounded to the grid of the plane. Where
/// three of them meet in one point but for rounding, as on roads drawn on whole metres, one may end beside the others;
/// then the classes around that point contradict each other.
///
/// \par Method
/// All lines are noded, and the faces that they make are gone around. What is on the left of a face's rim is asked for
/// beside its longest edges; so every rim is of one class from end to end, whatever lines are
/// missing or too many.
///
/// \par Error
/// A face that two faces have become since the line between them was missing is of one class: at most one strip.
///
/// \par Cost
/// `n log n`, and seven questions a face.
#include <functional>
#include <span>
#include <vector>

#include "geo/task.h"
#include "reach/boundaries.h"
#include "reach/noding.h"

namespace otoro::reach {

/// Whether as many lines of each class come to every point as go on from it: then regions can be followed.
bool are_closed(std::span<const Boundary> boundaries);

/// \param lines all lines at which the class may change \param class_at what is there \throws Stopped
std::vector<Boundary> faces_of(std::span<const Segment> lines, const std::function<std::uint32_t(Spot)>& class_at,
                               const Task& task);

}  // namespace otoro::reach
