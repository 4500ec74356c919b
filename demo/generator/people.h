#pragma once
/// \file
/// Who lives along the streets, and who serves them.
#include <string>
#include <vector>

#include "generator/streets.h"

namespace demo {

struct Dwelling {
    std::string id;
    Point at;
    int people = 0;
    bool weight_missing = false;
    std::string recorded = {};  ///< id of the post that it belongs to today
};

/// Places beside streets, more where streets stand close. `count` of them, with ids `prefix` and a number.
std::vector<Dwelling> settle(const Terrain& terrain, const StreetPlan& plan, std::size_t count,
                             const std::string& prefix, int most_people, Dice& dice);

/// A household in the sea, an id used twice, a weight left empty.
void plant_flaws(const Terrain& terrain, std::vector<Dwelling>& dwellings, Dice& dice);

struct Post {
    std::string id, name, state;
    Point near;
    int capacity = 0;
};
/// Each post stands beside the street nearest to where it was wished.
std::vector<Post> put_beside_streets(const StreetPlan& plan, std::vector<Post> wishes);

/// Records of where everybody belongs today, as they grow over the years: most at the open post nearest as the crow
/// flies, now and then at the next, a few nowhere, a few at a post that has long been closed.
void record_posts(std::vector<Dwelling>& dwellings, const std::vector<Post>& posts);

}  // namespace demo
