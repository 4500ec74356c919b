#pragma once
/// \file
/// A file of points to demand or sites.
#include <string>
#include <vector>

#include "files/source.h"
#include "places/demand.h"

namespace otoro::files {

/// Which field says what. An empty name means that there is none: ids are then record numbers from 0, weights one.
struct DemandFields {
    std::string id;
    std::string weight;
    std::string road = {};      ///< the road that each place says it is on
    std::string group = {};     ///< by which answers are summed up
    std::string recorded = {};  ///< id of the site that each place belongs to today
    std::string priority = {};  ///< who comes first where sites fill up
    bool operator==(const DemandFields&) const = default;
};
/// \param key the layer's key among the fields, taken as id where there is no other
DemandFields guess_demand_fields(const std::vector<std::string>& fields, const std::string& key = {});

struct DemandChoice {
    LayerChoice layer;
    std::optional<std::string> id;             ///< none: `id` if there is one
    std::optional<std::string> weight;         ///< none: guessed by name
    std::optional<std::string> road = {};      ///< none: places do not say
    std::optional<std::string> group = {};     ///< none: guessed by name
    std::optional<std::string> recorded = {};  ///< none: guessed by name
    std::optional<std::string> priority = {};  ///< none: guessed by name
};

struct DemandRead {
    places::DemandSet
        demand;           ///< one place a record, in file order; a bad record is kept as a place without a position
    DemandFields fields;  ///< as used
    FlawList flaws;
    std::int64_t left_out = 0;            ///< records that the filter did not want
    std::vector<geo::LonLat> raw_sample;  ///< some coordinates as they stand in the file
    std::vector<std::string> remarks;     ///< what was taken in one of several ways
};

/// Every record becomes a demand place: one that cannot be located is kept as `bad_location`, one without a usable
/// weight counts 0; each such record is a flaw. \throws InputError if there are no records or none can be located;
/// Stopped
DemandRead read_demand(const DemandChoice& choice, const Task& task);

struct SiteFields {
    std::string id;
    std::string name;
    std::string state;
    std::string capacity;
    std::string zone = {};  ///< which zone the site answers for
    std::string cost = {};
    std::string limit = {};    ///< how far the site reaches; never guessed
    std::string least = {};    ///< that the site should serve; never guessed
    std::string turnout = {};  ///< before anybody from the site is on the road; never guessed
    bool operator==(const SiteFields&) const = default;
};
SiteFields guess_site_fields(const std::vector<std::string>& fields, const std::string& key = {});

struct SiteChoice {
    LayerChoice layer;
    std::optional<std::string> id;
    std::optional<std::string> name;
    std::optional<std::string> state;
    std::optional<std::string> capacity;
    std::optional<std::string> zone = {};
    std::optional<std::string> cost = {};
    std::optional<std::string> limit = {};  ///< texts with a unit, 8min or 800m; bare numbers are minutes
    std::optional<std::string> least = {};
    std::optional<std::string> turnout = {};  ///< texts with a unit, 90s or 2min; bare numbers are minutes
};

struct SitesRead {
    places::SiteSet sites;
    SiteFields fields;
    FlawList flaws;
    std::int64_t left_out = 0;
    std::vector<geo::LonLat> raw_sample;
    std::vector<std::string> remarks;
};

/// Like read_demand. A site that cannot be located is kept and serves nobody.
SitesRead read_sites(const SiteChoice& choice, const Task& task);

/// `winter-round_2.csv` as a set's name: `winter round 2`.
std::string set_name_from(const std::string& path);

}  // namespace otoro::files
