#pragma once
/// \file
/// What is found out about the ground of an answer: how far it reaches, what is uncovered, what changes.
///
/// Pure of widgets, and of the map: asked on any thread, for the lists beside the map, for what the map draws of exact
/// shapes, and for exported pictures alike, so that they cannot disagree.
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "desktop/models/answerer.h"
#include "geo/area.h"
#include "service/cover.h"

namespace otoro::desktop {

/// Another reach that ground is compared with: under another plan, or of another question.
struct Against {
    std::string said;  ///< as lists and files name it
    service::Inputs inputs;
    service::Question question;
    service::Plan plan;
    Amount limit;
    bool operator==(const Against&) const = default;
};

/// What is asked of ground.
struct GroundAsked {
    PlanAnswerPtr answer;
    bool uncovered = false;                ///< what is not reached, instead of what is
    service::ReachView view;               ///< its limits said
    Amount standard;                       ///< where uncovered ground begins
    std::optional<geo::LonLat> from = {};  ///< a spot instead of the question's sites
    std::vector<SiteIndex> sites = {};     ///< of those in use; empty: all
    std::optional<Against> against = {};
    std::shared_ptr<const std::vector<geo::Area>> water = {};
    std::shared_ptr<const places::ZoneSet> zones = {};
    bool operator==(const GroundAsked&) const = default;

    /// The request that its view makes; limits of their own where the view wants them. \param task for laying zones and
    /// water together
    [[nodiscard]] service::ReachRequest request(const Task& task) const;
};

/// What was found; parts that were not asked for are empty.
struct GroundFound {
    GroundAsked asked;
    std::shared_ptr<const service::Ready> ready;  ///< the answer's, or that of the spot
    std::optional<service::Reach> areas;
    std::vector<service::ReachedRoad> roads;
    std::vector<service::EqualLine> lines;
    std::vector<service::ReachCircle> circles;
    std::optional<service::Uncovered> uncovered;
    std::vector<service::ZoneCover> zones;
    std::optional<service::ReachChange> change;
};
using GroundFoundPtr = std::shared_ptr<const GroundFound>;

/// \param least_patch patches without places that are smaller, in square metres, are counted and not listed
/// \throws InputError, Stopped
GroundFoundPtr find_ground(GroundAsked asked, double least_patch, const Task& task);

/// Whether sites in use say which zone they answer for; whether sites have limits of their own. Without, what is asked
/// of those is asked of any site, and of the limits for all.
bool names_zones(const service::Outcome& outcome);
bool has_own_limits(const service::Outcome& outcome);

/// Limits for lines between sites and the farthest limit: steps of 1, 2 or 5 times a power of ten, about eight of them.
std::vector<Amount> line_steps(const Amount& farthest);

}  // namespace otoro::desktop
