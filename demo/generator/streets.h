#pragma once
/// \file
/// Streets grown over a terrain.
#include <string>
#include <vector>

#include "generator/terrain.h"

namespace demo {

struct Street {
    std::uint32_t a = 0, b = 0;  ///< corners
    std::string road_class;
    std::string name;
    int speed = 0;             ///< km/h; 0: the file leaves it empty
    int one_way = 0;           ///< 1 from a to b, 0 both
    std::vector<Point> shape;  ///< from a to b
    bool fixed = false;        ///< a bridge, ferry or causeway: keeps its shape
};

struct StreetPlan {
    std::vector<Point> corners;
    std::vector<Street> streets;
};

/// Corners by dart throwing with the terrain's spacing; streets between Gabriel neighbours on dry land; main roads
/// along the shortest ways between towns; curved so that straight-on continuations are smooth; one-way streets in old
/// towns that leave every corner reachable. Pieces smaller than the largest are left out.
StreetPlan grow_streets(const Terrain& terrain, Dice& dice);

/// Makes a copy's worth of the flaws that real files have: ends that miss by metres, and a piece cut off. Returns how
/// many of each kind of street were touched.
void plant_flaws(StreetPlan& plan, Dice& dice);

}  // namespace demo
