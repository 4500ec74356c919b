#pragma once
/// \file
/// Everything that must be said to get one answer.
#include <optional>
#include <string>
#include <vector>

#include "geo/amounts.h"
#include "places/attach.h"
#include "places/demand.h"
#include "service/reach_view.h"
#include "service/serving.h"
#include "service/standard.h"
#include "travel/profile.h"

namespace otoro::service {

/// Which way people or vehicles go. It matters on one-way streets.
enum class Towards : std::uint8_t {
    demand,  ///< from the site to the place: a response
    site,    ///< from the place to the site: a journey to school
};

/// Which sites may serve.
enum class SiteUse : std::uint8_t { open, open_and_candidate };

/// One question. The names of demand and sites refer to the study's sets.
struct Question {
    std::string name = "Question";    ///< short; a study's questions have distinct names
    std::vector<std::string> demand;  ///< names of demand sets
    std::vector<std::string> sites;   ///< names of site sets; ties go to the sites of the first
    bool by_weight = true;            ///< count each place by its weight, or each as one
    SiteUse use = SiteUse::open;
    Serving serving;
    travel::Profile profile;
    Towards towards = Towards::demand;
    std::optional<Amount> limit;  ///< beyond it a place is not served at all
    bool own_limits = false;      ///< no site serves beyond the limit that its own record gives; those without one do
    std::optional<Standard> standard = Standard{};
    Millimetres attach_limit = places::kDefaultAttachLimit;
    /// Off-road legs count, at this speed; none: they are reported and not counted.
    std::optional<Speed> off_road_speed;
    /// Before anybody is on the road: taking the call, turning out. Part of every time, where a site has none of its
    /// own.
    Millis turnout = {};
    std::string zones = {};  ///< name of the zones by which the answer is summed up; empty: the study's first
    ReachView reach = {};
    bool operator==(const Question&) const = default;

    [[nodiscard]] routing::Measure measure() const { return measure_of(serving); }
};

/// Whether one more site changes the answer only for the better, place by place: then a candidate needs no new answer.
inline bool places_choose_alone(const Question& q) {
    return std::holds_alternative<Nearest>(q.serving) && !q.own_limits;
}

/// Whether the same answer holds for both: they are equal but for name, standard and how reach is looked at, and one
/// standard needs no more to be known than the other.
inline bool same_answer(Question a, const Question& b) {
    if (scopes(a.standard) != scopes(b.standard)) return false;
    a.name = b.name;
    a.standard = b.standard;
    a.reach = b.reach;
    return a == b;
}

}  // namespace otoro::service
