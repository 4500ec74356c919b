#pragma once
/// \file
/// From lines as read to a network: how they join, and which gaps were closed. The lines as read are never changed.
///
/// \par Which rule?
/// A file drawn for travel has an end wherever roads meet: join at ends. A file drawn for a picture has long lines that
/// pass through one another: join at shared vertices, or where lines of one level cross. `service/join_report.h` shows
/// what each would give.
///
/// \par Example
/// \code
///   Preparation p;
///   p.rule = JoinRule::crossings;
///   const Network net = prepare(lines, p, Task());
/// \endcode
#include <memory>
#include <optional>
#include <string_view>
#include <vector>

#include "roads/network.h"

namespace otoro::roads {

/// Where lines meet. Each joins all that the one before it joins.
enum class JoinRule : std::uint8_t {
    ends,             ///< at their ends only
    shared_vertices,  ///< at any vertex that they share
    crossings,        ///< also where they cross or touch on the same level (`Attributes::level`)
};
std::string_view name(JoinRule rule);
std::optional<JoinRule> parse_join_rule(std::string_view text);

/// A gap that the planner closed: a straight connector is added between two points of lines as read. It is of the class
/// of the road at `from`, both ways.
struct ClosedGap {
    geo::LonLat from;             ///< an end of `from_line`
    geo::LonLat to;               ///< an end or any other point of `to_line`
    std::uint32_t from_line = 0;  ///< lines as read
    std::uint32_t to_line = 0;
    bool operator==(const ClosedGap&) const = default;
};

/// Everything that was decided about how roads join.
struct Preparation {
    JoinRule rule = JoinRule::ends;
    std::vector<ClosedGap> closed;
    std::vector<std::uint32_t> by_speed;  ///< lines as read, ascending, whose stated times do not count
    bool operator==(const Preparation&) const = default;
};

/// Lines that join at their ends as the preparation says: times left aside and gaps closed first, then cut where the
/// rule joins them. Lines whose ends the source names are joined as it names them, whatever the rule. Connectors stand
/// last. With nothing to do, `lines` itself comes back. \par Cost Shared vertices: one sort of all vertices. Crossings:
/// a search of an R-tree of lines a line, parallel; segments of lines whose boxes touch are compared one by one.
/// \throws Stopped
std::shared_ptr<const Lines> prepared_lines(std::shared_ptr<const Lines> lines, const Preparation& preparation,
                                            const Task& task);

/// `join` of `prepared_lines`. \throws Stopped; InputError if there is no line at all
Network prepare(std::shared_ptr<const Lines> lines, const Preparation& preparation, const Task& task);

}  // namespace otoro::roads
