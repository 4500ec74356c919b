#pragma once
/// \file
/// A study: one document of roads, places, a question and plans.
///
/// A value that is cheap to copy: the large parts are shared and never change, so that undo keeps whole studies.
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "geo/flaw.h"
#include "service/assign.h"
#include "service/plan.h"
#include "service/question.h"

namespace otoro::service {

/// Where something came from, and what was wrong with it.
struct Origin {
    std::string file;         ///< as it was named when brought in
    std::string layer;
    std::string description;  ///< which fields were used, in a sentence
    std::vector<Flaw> flaws;
};

struct RoadsIn {
    std::shared_ptr<const roads::Network> network;
    Origin origin;
};
struct DemandIn {
    std::shared_ptr<const places::DemandSet> set;
    Origin origin;
};
struct SitesIn {
    std::shared_ptr<const places::SiteSet> set;
    Origin origin;
};

struct Study {
    std::string name = "Untitled study";
    std::optional<RoadsIn> roads;
    std::vector<DemandIn> demand;  ///< names are distinct
    std::vector<SitesIn> sites;    ///< names are distinct
    Question question;
    std::vector<Plan> plans{Plan{}};  ///< the first is Today

    [[nodiscard]] bool empty() const { return !roads && demand.empty() && sites.empty(); }
    [[nodiscard]] const DemandIn* find_demand(const std::string& set) const;
    [[nodiscard]] const SitesIn* find_sites(const std::string& set) const;
    [[nodiscard]] const Plan* find_plan(const std::string& plan) const;
    /// What the question is asked of; nothing while roads, its demand or its sites are missing.
    [[nodiscard]] std::optional<Inputs> inputs() const;
};

/// `wanted`, or `wanted 2`, `wanted 3`... so that it is not among `taken`.
std::string free_name(const std::string& wanted, const std::vector<std::string>& taken);

/// A set brought in becomes part of the study. One of the same name is replaced; the question turns to it if it had none.
Study with_roads(Study study, RoadsIn roads);
Study with_demand(Study study, DemandIn demand);
Study with_sites(Study study, SitesIn sites);

}  // namespace otoro::service
