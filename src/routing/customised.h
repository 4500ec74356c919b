#pragma once
/// \file
/// The costs of one traveller on a hierarchy.
///
/// \par Problem
/// A hierarchy knows which nodes are joined; the costs of its arcs change with profile, hour and closure, and must be
/// there within a frame.
///
/// \par Method
/// *Whole*: nodes are taken in the order of taking out; each pair of arcs of a node offers its sum to the arc between
/// their heads. While the order climbs through a subtree, costs between the nodes above it wait in a triangle of memory
/// by their depths, so that nothing has to be looked for. Subtrees are worked through in parallel. *In part*: from the
/// arcs that changed upwards, an arc is worked out anew only if one of the sums it was the least of has changed
/// (Dibbelt, Strasser, Wagner 2016, section 5).
///
/// \par What is exact
/// Cost, and with it the amount of the other measure along the same route: pairs (cost, other) are added and compared
/// as one number, so of routes of equal cost the one with the least of the other measure is taken, as `nearest_of_many`
/// does. The same on any number of threads.
///
/// \par Cost
/// Whole: as many steps as the chordal graph has triangles (on a county 27 million, a twentieth of a second on two
/// cores). Memory: 16 bytes an arc.
///
/// \par Example
/// \code
///   const auto order = Hierarchy::of(graph, Task());
///   Customised fast(order, graph, Task());
///   const auto labels = nearest(fast, seeds, Run::with);      // see one_to_all.h
///   fast.update(with_a_road_shut, touched_arcs);
/// \endcode
#include <array>
#include <memory>
#include <span>
#include <utility>
#include <vector>

#include "geo/huge_pages.h"
#include "geo/task.h"
#include "routing/hierarchy.h"

namespace otoro::routing {

/// Which way costs run: `with` the arcs of the graph that was customised (costs from sources), or `against` them (costs
/// to sources).
enum class Run : std::uint8_t { with, against };
inline Run other_way(Run run) { return run == Run::with ? Run::against : Run::with; }

/// Amounts, one an arc or one a node.
using Amounts = std::vector<std::uint32_t, HugePages<std::uint32_t>>;

/// What it costs to go along an arc one way.
struct ArcWeight {
    std::uint32_t cost = kFar;
    std::uint32_t other = 0;
    bool operator==(const ArcWeight&) const = default;
};

class Customised {
public:
    /// \pre `graph` has the nodes and the joints that the hierarchy was ordered for; it may lack some arcs (a closure)
    /// \throws Stopped
    Customised(std::shared_ptr<const Hierarchy> hierarchy, const Graph& graph, const Task& task);

    [[nodiscard]] const Hierarchy& hierarchy() const { return *hierarchy_; }
    [[nodiscard]] const std::shared_ptr<const Hierarchy>& shared_hierarchy() const { return hierarchy_; }
    [[nodiscard]] Measure measure() const { return measure_; }

    /// From the node up to its head, with the run.
    [[nodiscard]] ArcWeight up(std::uint32_t slot, Run run) const {
        return run == Run::with ? ArcWeight{up_cost_[slot], up_other_[slot]}
                                : ArcWeight{down_cost_[slot], down_other_[slot]};
    }
    /// From the head down to the node, with the run.
    [[nodiscard]] ArcWeight down(std::uint32_t slot, Run run) const { return up(slot, other_way(run)); }
    [[nodiscard]] const Amounts& down_costs(Run run) const { return run == Run::with ? down_cost_ : up_cost_; }
    [[nodiscard]] const Amounts& down_others(Run run) const { return run == Run::with ? down_other_ : up_other_; }
    /// The largest cost of an arc that leads anywhere.
    [[nodiscard]] std::uint32_t largest_cost() const { return largest_cost_; }
    /// The largest amount of the other measure on any arc.
    [[nodiscard]] std::uint32_t largest_other() const { return largest_other_; }

    /// A pair of nodes of the graph.
    struct Joint {
        std::uint32_t tail, head;
    };
    /// What an arc was before.
    struct Earlier {
        std::uint32_t slot;
        ArcWeight up, down;
    };
    /// Takes over what changed. \param graph the whole graph as it is now \param touched every pair of nodes between
    /// which an arc is not what it was \returns what to give to `restore` to have it as before
    std::vector<Earlier> update(const Graph& graph, std::span<const Joint> touched);
    void restore(std::span<const Earlier> earlier);

    /// Bytes it takes, the hierarchy apart.
    [[nodiscard]] std::size_t bytes() const { return 4 * up_cost_.size() * sizeof(std::uint32_t); }

private:
    void put(std::uint32_t slot, const ArcWeight& up, const ArcWeight& down);

    std::shared_ptr<const Hierarchy> hierarchy_;
    Measure measure_;
    Amounts up_cost_, up_other_, down_cost_, down_other_;
    std::uint32_t largest_cost_ = 0, largest_other_ = 0;
};

}  // namespace otoro::routing
