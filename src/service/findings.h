#pragma once
/// \file
/// What is wrong with what was brought in, how much demand weight it touches, and what can be done about it.
///
/// \par Problem
/// A road file may look joined and not be; points may lie in the sea; a site may stand where nobody can drive away.
/// Wrong answers start here, and "no path" tells nobody where. `findings_of` tells everything, in plain sentences,
/// ordered by how much demand weight it touches, and for each what `fixed` can do. A source file is never changed: a
/// fix is kept in the study, and can be undone.
///
/// \par Cost
/// Linear but for attaching every place and the search for gaps; about as long as building the network.
///
/// \par Example
/// \code
///   const auto checked = check_study(study, Task());
///   for (const Finding& f : findings_of(study, *checked)) fmt::print("{}\n", f.sentence);
///   study = fixed(study, *findings.front().fix, Task());
/// \endcode
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "roads/gaps.h"
#include "service/check.h"
#include "service/study.h"

namespace otoro::service {

// ------------------------------------------------------------------------------------------------------------- fixes

/// Closes gaps with connectors.
struct CloseGaps {
    std::vector<roads::ClosedGap> gaps;
    bool operator==(const CloseGaps&) const = default;
};
/// Places whose longitude and latitude stand the wrong way round are turned.
struct SwapAxes {
    SetName set;
    std::vector<std::uint32_t> places;
    bool operator==(const SwapAxes&) const = default;
};
/// Missing ids become the record's number; a repeated id gets `-2`, `-3` and so on.
struct MakeIdsDistinct {
    SetName set;
    bool operator==(const MakeIdsDistinct&) const = default;
};
/// Places whose weight is missing or unusable count as this much.
struct GiveWeight {
    SetName set;
    std::vector<std::uint32_t> places;
    Weight weight;
    bool operator==(const GiveWeight&) const = default;
};
/// Attaches places at the road point nearest to them, however far.
struct AttachAnyway {
    SetName set;
    std::map<std::uint32_t, geo::LonLat> at;
    bool operator==(const AttachAnyway&) const = default;
};
/// Another rule for attaching a set.
struct SetAttachRule {
    SetName set;
    places::AttachRule rule;
    bool operator==(const SetAttachRule&) const = default;
};
/// The set must be brought in again with another coordinate system (done by `files`, which can read).
struct ReadAgain {
    SetName set;
    std::string crs;
    bool operator==(const ReadAgain&) const = default;
};
/// Stated times of some roads do not count: their stated speed does, or that of their class.
struct UseSpeeds {
    std::vector<std::uint32_t> lines;  ///< as read, ascending
    bool operator==(const UseSpeeds&) const = default;
};
using Fix =
    std::variant<CloseGaps, SwapAxes, MakeIdsDistinct, GiveWeight, AttachAnyway, SetAttachRule, ReadAgain, UseSpeeds>;

/// The study after a fix. Pure; slow only where roads change. A fix of a set that is not there changes nothing. \pre
/// not a `ReadAgain` \throws InputError if the roads are not those that a gap was found in; Stopped
Study fixed(Study study, const Fix& fix, const Task& task);

// ---------------------------------------------------------------------------------------------------------- findings

enum class FindingKind : std::uint8_t {
    records_set_aside,
    records_flawed,  // from reading
    cut_off_pieces,
    gaps,
    unreal_roads,
    roads_on_water,
    one_way_roads,  // roads
    swapped_axes,
    wrong_crs,
    outside,
    no_road_near,
    cut_off_places,
    one_way_places,
    on_motorway,
    far_from_road,
    stacked,  // places
    ids,
    weights,
    idle_sites,
    road_words,     // classes and one-way words that are missing or not known
    not_recorded,   // places whose record names no site
    unknown_pairs,  // pairs of ids that no place or no site has
    stated_times,   // minutes of roads that are none, or hard to believe
};
/// `cut_off_pieces`, as in JSON.
std::string_view name(FindingKind k);

/// One thing found, or one of many alike.
struct FindingItem {
    std::string text;
    std::optional<geo::LonLat> where;
    std::optional<std::uint32_t> place;  ///< in the set that the finding is about
    Weight weight;                       ///< demand weight it touches
    std::optional<Fix> fix;
};

/// Things of one kind, about the roads or one set.
struct Finding {
    FindingKind kind = FindingKind::records_flawed;
    std::string about;            ///< `roads` or the name of a set
    SetKind of = SetKind::roads;  ///< what kind of set that is
    std::string sentence;
    std::uint32_t count = 0;
    std::uint32_t places = 0;             ///< demand places touched
    Weight weight;                        ///< their weight
    std::vector<FindingItem> items;       ///< the weightiest first where that differs; at most `kMostItems`
    std::optional<Fix> fix;               ///< for all of it
    std::string fix_label;                ///< what pressing it does: "Close all 6"
    std::optional<std::string> accepted;  ///< the note it was accepted with
    static constexpr std::size_t kMostItems = 2000;
    /// Names the finding from one check to the next.
    [[nodiscard]] std::string key() const {
        return std::string(name(kind)) + ":" + about + (of == SetKind::sites ? " (sites)" : "");
    }
    /// As earlier versions named it, when a demand set and a site set could not be told apart.
    [[nodiscard]] std::string earlier_key() const { return std::string(name(kind)) + ":" + about; }
    [[nodiscard]] bool open() const { return !accepted; }
};

/// How one set meets the roads.
struct CheckedSet {
    std::vector<std::optional<places::Attachment>> attached;
};

/// What a check worked out, from which findings are told. A value; `after_closing` makes the next from it without
/// starting afresh.
struct Checked {
    std::shared_ptr<const roads::Network> network;
    RoadReport roads;  ///< as the question's traveller meets them
    std::vector<std::uint32_t>
        merged;              ///< into which piece each piece went when gaps were closed since; itself otherwise
    std::uint32_t main = 0;  ///< the largest piece after that
    std::vector<bool>
        both_ways;  ///< one a link: one can come there and leave again (its strongly connected part is the largest)
    std::uint32_t dead_ends = 0;
    std::vector<roads::Gap> gaps;  ///< those still open
    std::map<std::string, CheckedSet> demand, sites;
    std::map<std::uint32_t, roads::Gap>
        joins;  ///< the narrowest way to join a piece that is cut off to another, for the weightiest
    std::shared_ptr<const std::vector<Finding>> standing;  ///< findings that closing a gap does not change
    /// The piece of a link after what was closed.
    [[nodiscard]] std::uint32_t piece(LinkId link) const {
        const auto p = roads.piece_of_link[link.value()];
        return p == roads::kNoPiece ? p : merged[p];
    }
};

/// Looks at everything. \throws Stopped
std::shared_ptr<const Checked> check_study(const Study& study, const Task& task);

/// The check after one of its gaps was closed, exact but for what only a whole check can tell (one-way reach, dead
/// ends, and gaps of the node where a road was cut): pieces merged, places near the connector attached to it. Costs the
/// demand and sites near the gap and a copy of what a set knows, not the network.
std::shared_ptr<const Checked> after_closing(const Checked& before, const Study& study, const roads::Gap& gap);

/// Tells the findings, those that touch most weight first, accepted ones last. Quick.
std::vector<Finding> findings_of(const Study& study, const Checked& checked);

/// Findings that nobody accepted.
std::uint32_t count_open(const std::vector<Finding>& findings);

}  // namespace otoro::service
