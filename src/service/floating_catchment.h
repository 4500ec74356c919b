#pragma once
/// \file
/// Access where supply meets demand: the two-step floating catchment (Luo, Wang 2003).
///
/// \par Meaning
/// *First* every site's places are shared among all demand within the catchment of it: so many places a head. *Then*
/// what a demand place has access to is the sum of these over the sites within its catchment. It is near what everybody
/// would have where supply and demand are spread alike, more where there are many places for few, and nothing where no
/// site is near. Weighted by demand these add up to the places of all sites that anybody is near, whoever shares them.
///
/// \par Supply
/// The capacity of a site in use; where one in use states none, every site counts one.
///
/// \par Cost
/// A search for each eight sites, and a bit for each place and site.
#include <vector>

#include "service/assign.h"

namespace otoro::service {

struct SiteSupply {
    SiteIndex site;
    double supply = 0;  ///< places
    Weight demand;      ///< within its catchment
    double a_head = 0;  ///< supply over demand; 0 where there is none
};

struct FloatingCatchment {
    Amount within = Millis::minutes(15);
    bool by_capacity = false;       ///< supply is capacity; else every site counts one
    std::vector<double> access;     ///< one a demand place: places a unit of demand
    std::vector<SiteSupply> sites;  ///< those in use, in their order
    double mean = 0;                ///< by weight, of all demand
    Tally none;                     ///< who has access to nothing
};

/// Of the sites in use under an answer. \param within in the question's measure \throws InputError if it is in the
/// other measure; Stopped
FloatingCatchment floating_catchment(const Ready& ready, const Outcome& outcome, const Amount& within,
                                     const Task& task);

}  // namespace otoro::service
