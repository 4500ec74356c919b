#pragma once
/// \file
/// The people or properties to be served, and the sites that serve them.
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "geo/amounts.h"
#include "geo/ids.h"
#include "geo/position.h"
#include "geo/units.h"
#include "places/attach.h"
#include "places/text_column.h"

namespace otoro::places {

/// One demand place. A place that cannot be put on the globe is kept, without a position: it is part of the whole.
struct DemandPlace {
    std::string id;
    std::optional<geo::LonLat> position;
    Weight weight;
};

/// How the places of one set are attached.
struct Attaching {
    AttachRule rule;
    /// Moved by hand: attached at the point of a usable road nearest to this, however far from the place.
    std::map<std::uint32_t, geo::LonLat> by_hand;
    /// The road that each place says it is on; empty, or one a place (an empty name: not said). Taken if it is within
    /// the limit, else the nearest road is.
    std::vector<std::string> road_names;
    bool operator==(const Attaching&) const = default;
};

struct DemandSet;
/// Sums are exact whole numbers: none is more than such a number holds, nine million million.
/// \param what "the capacities of the sites" \throws InputError that says what, and how much
void check_sum(Wide millionths, const std::string& what, const std::string& remedy);
/// So of the weights of a set. \throws InputError that names the set
void check_weights(const DemandSet& set);
/// The same of several sets together.
void check_weights(const std::vector<std::shared_ptr<const DemandSet>>& sets);

/// A set of demand places in file order.
struct DemandSet {
    using Record = DemandPlace;
    std::string name;         ///< as the sentence says it: `households`
    std::string weight_name;  ///< what the weight counts: `residents`; empty if each place counts one
    std::vector<DemandPlace> places;
    Attaching attaching;
    TextColumn group = {};     ///< by which answers are summed up, such as an age or a kind of household; may be empty
    TextColumn recorded = {};  ///< id of the site that each place belongs to today; may be empty
    TextColumn priority = {};  ///< who comes first where sites fill up: low numbers, then texts; may be empty

    [[nodiscard]] const std::vector<DemandPlace>& records() const { return places; }
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
    std::string zone = {};             ///< of the zone that it answers for; empty: none
    std::optional<Weight> cost = {};   ///< of having it, in whatever the file counts; millionths like a weight
    std::optional<Amount> limit = {};  ///< how far it reaches, where sites differ in that
    std::optional<Weight> least = {};  ///< that it should serve, or it is not worth having
    /// Before anybody from there is on the road, where sites differ in that.
    std::optional<Millis> turnout = {};
};

/// A set of sites in file order. That order settles ties.
struct SiteSet {
    using Record = Site;
    std::string name;
    std::vector<Site> sites;
    Attaching attaching;

    [[nodiscard]] const std::vector<Site>& records() const { return sites; }
    [[nodiscard]] const Site& at(SiteIndex i) const { return sites[i.value()]; }
    [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(sites.size()); }
    [[nodiscard]] std::string digest() const;
};

/// Attaches the places of a set as it says. \param limit the question's, where the set has none of its own \throws
/// Stopped
std::vector<std::optional<Attachment>> attach_set(const roads::Network& network, const std::vector<bool>& usable,
                                                  const std::vector<std::optional<geo::LonLat>>& positions,
                                                  const Attaching& attaching, Millimetres limit, const Task& task);
/// One place of it. \param may the links that `attachable` gave
std::optional<Attachment> attach_one(const roads::Network& network, const std::vector<bool>& may, geo::LonLat position,
                                     std::uint32_t index, const Attaching& attaching, Millimetres limit);

std::vector<std::optional<geo::LonLat>> positions(const DemandSet& demand);
std::vector<std::optional<geo::LonLat>> positions(const SiteSet& sites);

}  // namespace otoro::places
