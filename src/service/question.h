#pragma once
/// \file
/// Everything that must be said to get one answer.
#include <optional>
#include <string>

#include "geo/amounts.h"
#include "places/attach.h"
#include "places/demand.h"
#include "routing/graph.h"
#include "travel/profile.h"

namespace otoro::service {

/// Which way people or vehicles go. It matters on one-way streets.
enum class Towards : std::uint8_t {
    demand,  ///< from the site to the place: a response
    site,    ///< from the place to the site: a journey to school
};

/// Which sites may serve.
enum class SiteUse : std::uint8_t { open, open_and_candidate };

/// A limit and the share of weight that must be inside it.
struct Standard {
    Share share = Share::percent(90);
    Amount limit = Millis::minutes(8);
    bool operator==(const Standard&) const = default;
};

/// One question. The names of demand and sites refer to the study's sets.
struct Question {
    std::string demand;     ///< name of a demand set
    std::string sites;      ///< name of a site set
    bool by_weight = true;  ///< count each place by its weight, or each as one
    SiteUse use = SiteUse::open;
    travel::Profile profile;
    Towards towards = Towards::demand;
    routing::Measure measure = routing::Measure::time;
    std::optional<Amount> limit;  ///< beyond it a place is not served at all
    std::optional<Standard> standard = Standard{};
    Millimetres attach_limit = places::kDefaultAttachLimit;
    std::optional<Speed>
        off_road_speed;  ///< off-road legs count, at this speed; none: they are reported and not counted
    bool operator==(const Question&) const = default;
};

/// The question as one sentence, the same wherever it is shown:
/// "The households, counted by residents, are each served by the nearest of the ambulance posts (open, by time),
/// driving to the place; 90 % must be within 8 min."
std::string sentence(const Question& question, const places::DemandSet& demand);

/// `towards` as a clause with the way of travelling: "driving to the place", "walking to the site".
std::string travel_clause(const Question& question);

}  // namespace otoro::service
