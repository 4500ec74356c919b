#pragma once
/// \file
/// A file to a part of a study: what the window and `otoro-batch` do alike.
#include <optional>
#include <string>

#include "files/read_areas.h"
#include "files/read_pairs.h"
#include "files/read_places.h"
#include "files/read_roads.h"
#include "service/findings.h"
#include "service/study.h"

namespace otoro::files {

/// \throws InputError; Stopped
service::RoadsIn add_roads(const RoadChoice& choice, const roads::Preparation& preparation, const Task& task);
/// \param name what the set is to be called; empty: after the file
service::DemandIn add_demand(const DemandChoice& choice, const std::string& name, const Task& task);
service::SitesIn add_sites(const SiteChoice& choice, const std::string& name, const Task& task);

/// Polygons where there is water. \throws InputError; Stopped
service::WaterIn add_water(const LayerChoice& choice, const Task& task);

/// Polygons with names, by which answers are summed up. \throws InputError; Stopped
service::ZonesIn add_zones(const ZoneChoice& choice, const std::string& name, const Task& task);
/// \throws InputError; Stopped
service::PairsIn add_pairs(const PairChoice& choice, const Task& task);

/// The coordinate system that a set lying nowhere near the roads is probably in, from the coordinates as they stand in
/// the file: one under which most of them fall within the roads' extent. `EPSG:4326` where degrees were taken for
/// metres. Nothing if none of those tried does.
std::optional<std::string> likely_crs(const service::Origin& origin, const geo::Box& roads);

/// Offers `ReadAgain` for findings of a wrong coordinate system, where the file is still there and a likely one is
/// known.
void suggest_crs(std::vector<service::Finding>& findings, const service::Study& study);

/// The layer that something was read from, as it was chosen then.
LayerChoice layer_of(const service::Origin& origin);

/// The study with one set brought in again with another coordinate system. \throws InputError; Stopped
service::Study read_again(service::Study study, const service::ReadAgain& fix, const Task& task);

/// What of a study was read from this file, in words: `the roads`, `the demand households`; nothing if nothing was.
/// Such a file is never written over.
std::optional<std::string> read_from(const service::Study& study, const std::string& path);

}  // namespace otoro::files
