#pragma once
/// \file
/// A study: one document of roads, places, a question and plans.
///
/// A value that is cheap to copy: the large parts are shared and never change, so that undo keeps whole studies.
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "geo/area.h"
#include "geo/flaw.h"
#include "roads/prepare.h"
#include "service/assign.h"
#include "service/plan.h"
#include "service/question.h"

namespace otoro::service {

/// Where something came from, and what was wrong with it.
struct Origin {
    std::string file;  ///< as it was named when brought in
    std::string layer;
    std::string description;  ///< which fields were used, in a sentence
    std::vector<Flaw> flaws;
    std::string path;                     ///< where it was, for bringing it in again; may be gone by now
    std::string crs;                      ///< how its coordinates were read: an EPSG code, or empty for the file's own
    std::string filter;                   ///< which of its records were wanted, in CQL2; empty for all
    std::vector<geo::LonLat> raw_sample;  ///< some coordinates as they stand in the file, to find out what they are
                                          ///< when they land in the wrong place
    std::map<std::string, std::string> fields = {};  ///< which field gave what (`id`, `weight`, `x`, ...), for reading
                                                     ///< it again with the same; `none` is an empty name
    /// How columns were taken that could have been taken otherwise, so that numbers and places mean what they do.
    std::vector<std::string> taken = {};
};

/// Roads as they were read, what was decided about them, and the network that follows from both.
struct RoadsIn {
    std::shared_ptr<const roads::Lines> lines;
    roads::Preparation preparation;
    std::shared_ptr<const roads::Network> network;
    Origin origin;
};
/// Works the network out. \throws Stopped; InputError if there is no line at all
RoadsIn roads_in(std::shared_ptr<const roads::Lines> lines, roads::Preparation preparation, Origin origin,
                 const Task& task);

struct DemandIn {
    std::shared_ptr<const places::DemandSet> set;
    Origin origin;
};
struct SitesIn {
    std::shared_ptr<const places::SiteSet> set;
    Origin origin;
};

struct ZonesIn {
    std::shared_ptr<const places::ZoneSet> set;
    Origin origin;
};

/// Where there is water: drawn on the map, and used to find roads that run over it.
struct WaterIn {
    std::shared_ptr<const std::vector<geo::Area>> areas;
    Origin origin;
};

/// A table of pairs, by which sites may be chosen.
struct PairsIn {
    std::shared_ptr<const places::PairValues> values;
    Origin origin;
};

/// Where a route calls.
struct Stop {
    std::string name;
    geo::LonLat at;
    bool operator==(const Stop&) const = default;
};

/// A route over several stops, such as a day's round. Which way it takes follows from the question and plan in sight.
struct Route {
    std::vector<Stop> stops;
    bool round = false;  ///< back to the first at the end
    bool operator==(const Route&) const = default;
};

/// A demand set and a site set may carry one name.
enum class SetKind : std::uint8_t { roads, demand, sites, zones, pairs };

/// One set of a study; the roads and the table of pairs have no name.
struct SetName {
    SetKind kind = SetKind::roads;
    std::string name = {};
    bool operator==(const SetName&) const = default;
};

struct Study {
    std::string name = "Untitled study";
    std::optional<RoadsIn> roads;
    std::optional<WaterIn> water;
    std::vector<DemandIn> demand;  ///< names are distinct
    std::vector<SitesIn> sites;    ///< names are distinct
    std::vector<ZonesIn> zones;    ///< names are distinct
    std::optional<PairsIn> pairs;
    Route route = {};
    std::vector<Question> questions{Question{}};          ///< never none; names are distinct
    std::size_t in_sight = 0;                             ///< number of the question that is looked at
    std::vector<Plan> plans{Plan{}};                      ///< the first is Today; they are under every question
    std::vector<travel::Profile> profiles;                ///< the study's own; names are distinct
    std::map<std::string, std::string> accepted;          ///< findings that somebody accepted, by key, with their note
    Millimetres gap_tolerance = Millimetres::metres(10);  ///< how near road ends must be to be listed as a gap

    [[nodiscard]] bool empty() const {
        return !roads && !water && !pairs && demand.empty() && sites.empty() && zones.empty();
    }
    /// The question in sight.
    [[nodiscard]] Question& question() { return questions[in_sight]; }
    [[nodiscard]] const Question& question() const { return questions[in_sight]; }
    [[nodiscard]] const Question* find_question(const std::string& question) const;
    [[nodiscard]] const DemandIn* find_demand(const std::string& set) const;
    [[nodiscard]] const SitesIn* find_sites(const std::string& set) const;
    [[nodiscard]] const ZonesIn* find_zones(const std::string& set) const;
    /// The sets that a question names, as far as the study has them.
    [[nodiscard]] places::Demand demand_of(const Question& question) const;
    [[nodiscard]] places::Sites sites_of(const Question& question) const;
    /// The zones by which a question's answer is summed up; null if the study has none.
    [[nodiscard]] std::shared_ptr<const places::ZoneSet> zones_of(const Question& question) const;
    [[nodiscard]] const Plan* find_plan(const std::string& plan) const;
    /// What a question is asked of; nothing while roads, or any of its demand or its sites, are missing.
    [[nodiscard]] std::optional<Inputs> inputs(const Question& question) const;
    /// What the question in sight is asked of.
    [[nodiscard]] std::optional<Inputs> inputs() const { return inputs(question()); }
};

/// `wanted`, or `wanted 2`, `wanted 3`... so that it is not among `taken`.
std::string free_name(const std::string& wanted, const std::vector<std::string>& taken);

/// A set brought in becomes part of the study. One of the same name is replaced; questions that had none of its kind
/// turn to it.
Study with_roads(Study study, RoadsIn roads);
Study with_demand(Study study, DemandIn demand);
Study with_sites(Study study, SitesIn sites);
Study with_zones(Study study, ZonesIn zones);

/// Without one of its sets. A question that is about other sets too is about those alone from now on; one that was
/// about this set alone goes on naming it, so that it can be added again.
Study without_demand(Study study, const std::string& set);
Study without_sites(Study study, const std::string& set);

/// A study with one question more, under a name that is free, put in sight.
Study with_question(Study study, Question question);
/// Without one of its questions. \pre there is another
Study without_question(Study study, std::size_t number);

/// Names of the sets of one kind.
std::vector<std::string> set_names(const Study& study, SetKind kind);

/// The same set under a name that is not among `taken`, so that it stands beside what is there.
DemandIn renamed(DemandIn in, const std::vector<std::string>& taken);
SitesIn renamed(SitesIn in, const std::vector<std::string>& taken);
ZonesIn renamed(ZonesIn in, const std::vector<std::string>& taken);

/// A set can serve as either: demand places as open sites without a limit of places, sites as demand that each count
/// one.
SitesIn sites_from(const DemandIn& demand);
DemandIn demand_from(const SitesIn& sites);

/// A set with one place more, made where there is none of that name; the id is new in it.
Study with_place(Study study, const std::string& demand_set, geo::LonLat at, Weight weight);

}  // namespace otoro::service
