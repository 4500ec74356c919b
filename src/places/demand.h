#pragma once
/// \file
/// The people or properties to be served, and the sites that serve them.
#include <optional>
#include <string>
#include <vector>

#include "geo/ids.h"
#include "geo/position.h"
#include "geo/units.h"

namespace otoro::places {

/// One demand place. A place that cannot be put on the globe is kept, without a position: it is part of the whole.
struct DemandPlace {
    std::string id;
    std::optional<geo::LonLat> position;
    Weight weight;
};

/// A set of demand places in file order.
struct DemandSet {
    std::string name;         ///< as the sentence says it: `households`
    std::string weight_name;  ///< what the weight counts: `residents`; empty if each place counts one
    std::vector<DemandPlace> places;

    [[nodiscard]] const DemandPlace& at(DemandIndex i) const { return places[i.value()]; }
    [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(places.size()); }
    [[nodiscard]] std::string digest() const;
};

enum class SiteState : std::uint8_t { open, candidate, closed };
std::string_view name(SiteState s);
/// `open`, `candidate`, `closed`, whatever their case; empty is open. Nothing for another word.
std::optional<SiteState> parse_site_state(std::string_view text);

/// Where service is given.
struct Site {
    std::string id;
    std::string name;  ///< the id, where the file names none
    std::optional<geo::LonLat> position;
    SiteState state = SiteState::open;
    std::optional<Weight> capacity;
};

/// A set of sites in file order. That order settles ties.
struct SiteSet {
    std::string name;
    std::vector<Site> sites;

    [[nodiscard]] const Site& at(SiteIndex i) const { return sites[i.value()]; }
    [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(sites.size()); }
    [[nodiscard]] std::string digest() const;
};

}  // namespace otoro::places
