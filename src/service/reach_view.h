#pragma once
/// \file
/// How the reach of a question is looked at.
#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

#include "geo/amounts.h"
#include "geo/units.h"

namespace otoro::service {

/// What becomes of ground that several sites reach.
enum class Overlap : std::uint8_t {
    each,     ///< every site has its own areas, which overlap
    nearest,  ///< ground is its nearest site's
    merged,   ///< all sites together
    count,    ///< how many sites reach it
};
std::string_view name(Overlap o);
std::optional<Overlap> parse_overlap(std::string_view text);

/// As what uncovered ground is listed.
enum class CoverList : std::uint8_t {
    patches,    ///< connected ground
    zones,      ///< zone by zone, by whichever site is nearest
    own_zones,  ///< zone by zone, by the sites that answer for it
};
std::string_view name(CoverList c);
std::optional<CoverList> parse_cover_list(std::string_view text);

/// As many limits as one question of reach may have.
inline constexpr std::size_t kMostLimits = 100;

/// Part of a question, and kept with it, but without a part in its answer.
struct ReachView {
    std::vector<Amount> limits = {};  ///< ascending, of one kind; empty: half the standard's, and all of it
    Overlap overlap = Overlap::nearest;
    bool full = false;                            ///< one fill from the sites to the last limit, and an edge a limit
    bool own_limits = false;                      ///< every site to a limit of its own, where sites have some
    bool off_water = false;                       ///< without what is water
    bool in_zones = false;                        ///< only what is in the question's zones
    bool roads = false;                           ///< the roads that are reached
    bool lines = false;                           ///< lines of equal time or distance
    bool circles = false;                         ///< straight-line circles
    Speed circle_speed = Speed::km_per_hour(40);  ///< how fast one would come straight, for limits in time
    CoverList cover = CoverList::patches;
    bool operator==(const ReachView&) const = default;
};

}  // namespace otoro::service
