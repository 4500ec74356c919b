#pragma once
/// \file
/// What each rule of joining would give, so that the choice is made on evidence.
#include <string>
#include <vector>

#include "service/findings.h"

namespace otoro::service {

/// One rule's consequences, for the question's traveller and demand.
struct JoinEvidence {
    roads::JoinRule rule = roads::JoinRule::ends;
    std::uint32_t links = 0;
    std::uint32_t pieces = 0;
    std::uint32_t dead_ends = 0;
    Tally cut_off;  ///< demand on pieces without a site in use; off the largest piece while there are no sites
};

/// The three rules one after another: three times the work of building the network. Roads whose source names its own
/// joints give the same for each. \pre the study has roads \throws Stopped
std::vector<JoinEvidence> compare_join_rules(const Study& study, const Task& task);

/// `at ends: 5,994 links in 3 pieces, 812 dead ends, 23 places (55) cut off`
std::string describe(const JoinEvidence& e);
/// `where road ends touch`
std::string clause(roads::JoinRule rule);

}  // namespace otoro::service
