#pragma once
/// \file
/// What an answer comes to, as JSON for programs: the sentence, counts by status, the verdict, loads, and what
/// capacities or records cost against the nearest.
#include <nlohmann/json_fwd.hpp>

#include "service/assign.h"
#include "service/more_room.h"
#include "service/reassign.h"

namespace otoro::files {

/// Times in minutes, lengths in kilometres; travel is weight times either. Members that say nothing are left out: no
/// verdict without a standard, no `capacity` where none counts.
nlohmann::json answer_json(const service::Ready& ready, const service::Outcome& outcome);

/// Who was reassigned, what that saves in all (minutes or kilometres for a weight of one), and the flows between sites.
nlohmann::json reassigned_json(const service::Outcome& outcome, const service::Reassignment& moved);

/// How far the straight line misleads: counts by how many times as far the way is, and the `most` worst.
nlohmann::json detours_json(const service::Ready& ready, const service::Outcome& outcome, std::size_t most);

/// What more places at full sites would bring, one object a site, the best first.
nlohmann::json more_room_json(const service::Outcome& outcome, const std::vector<service::MoreRoom>& all);

}  // namespace otoro::files
