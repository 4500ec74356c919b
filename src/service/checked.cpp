/// The work of a check: pieces, gaps, one-way traps, attaching.
#include <algorithm>
#include <boost/graph/compressed_sparse_row_graph.hpp>
#include <boost/graph/strong_components.hpp>
#include <numeric>
#include <utility>

#include "geo/ellipsoid.h"
#include "geo/local_frame.h"
#include "service/checked_parts.h"

namespace otoro::service {
namespace {

/// Strongly connected parts of the directed network (Tarjan 1972): the number of each node's part, and how large each
/// is. O(nodes + links).
struct StrongParts {
    std::vector<std::uint32_t> of_node;
    std::vector<std::uint32_t> nodes;
};

StrongParts strong_parts(const roads::Network& network, const std::vector<travel::TraversalTime>& crossings) {
    using Directed = boost::compressed_sparse_row_graph<boost::directedS, boost::no_property, boost::no_property,
                                                        boost::no_property, std::uint32_t, std::uint32_t>;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> arcs;
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        const auto e = network.ends(LinkId(i));
        if (crossings[i].along != travel::kNotAllowed) arcs.emplace_back(e.from.value(), e.to.value());
        if (crossings[i].against != travel::kNotAllowed) arcs.emplace_back(e.to.value(), e.from.value());
    }
    const Directed graph(boost::edges_are_unsorted_multi_pass, arcs.begin(), arcs.end(), network.node_count());
    StrongParts out;
    out.of_node.resize(network.node_count());
    const auto index = get(boost::vertex_index, graph);
    const std::uint32_t count =
        boost::strong_components(graph, boost::make_iterator_property_map(out.of_node.begin(), index));
    out.nodes.assign(count, 0);
    for (const std::uint32_t part : out.of_node) ++out.nodes[part];
    return out;
}

/// Links of the largest piece between nodes of its largest strongly connected part, and all links of other pieces.
std::vector<bool> links_both_ways(const roads::Network& network, const RoadReport& roads,
                                  const std::vector<travel::TraversalTime>& crossings) {
    const StrongParts parts = strong_parts(network, crossings);
    std::vector<bool> in_main(network.node_count());
    for (std::uint32_t i = 0; i < network.link_count(); ++i)
        if (roads.piece_of_link[i] == 0)
            in_main[network.ends(LinkId(i)).from.value()] = in_main[network.ends(LinkId(i)).to.value()] = true;
    std::uint32_t largest = 0xffffffff;
    for (std::uint32_t n = 0; n < network.node_count(); ++n)
        if (in_main[n] && (largest == 0xffffffff || parts.nodes[parts.of_node[n]] > parts.nodes[largest]))
            largest = parts.of_node[n];
    std::vector<bool> out(network.link_count(), true);
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        const auto e = network.ends(LinkId(i));
        if (roads.piece_of_link[i] == 0)
            out[i] = parts.of_node[e.from.value()] == largest && parts.of_node[e.to.value()] == largest;
    }
    return out;
}

/// Places that the connector would take: those without a road, and those whose road is farther. The connector has no
/// number yet, so they are attached at the link it meets.
template <class Records>
void attach_to_connector(std::vector<std::optional<places::Attachment>>& attached, const Records& records,
                         const places::Attaching& attaching, Millimetres limit, const roads::Gap& gap) {
    const Millimetres most = attaching.rule.limit.value_or(limit);
    const geo::Box box = geo::LocalFrame(gap.from).box_around(most.metres() + gap.distance.metres());
    for (std::uint32_t i = 0; i < records.size(); ++i) {
        const auto& position = records[i].position;
        if (!position || !box.contains(*position) || attaching.by_hand.contains(i)) continue;
        const geo::LocalFrame frame(*position);
        const auto a = frame.flat(gap.from), b = frame.flat(gap.to);
        const geo::LonLat at = geo::between(gap.from, gap.to, geo::foot_of_origin(a, b));
        const Millimetres away = geo::distance(*position, at);
        if (away > most || (attached[i] && attached[i]->off_road <= away)) continue;
        attached[i] = places::Attachment{gap.link, Millimetres(0), away, at};
    }
}

}  // namespace

std::shared_ptr<const Checked> check_study(const Study& study, const Task& task) {
    auto out = std::make_shared<Checked>();
    if (!study.roads) {
        out->standing = std::make_shared<const std::vector<Finding>>(standing_findings(study, *out, task));
        return out;
    }
    const auto& network = *study.roads->network;
    const auto& q = study.question();
    out->network = study.roads->network;
    out->roads = check_roads(network, q.profile, task);
    out->merged.resize(out->roads.pieces.size());
    std::iota(out->merged.begin(), out->merged.end(), 0U);
    task.at("looking for one-way traps", 0.2);
    const auto crossings = travel::traversal_times(network, q.profile, task);
    out->both_ways = links_both_ways(network, out->roads, crossings);
    task.at("looking for gaps", 0.4);
    const auto pieces = out->roads.as_pieces();
    out->dead_ends = count_dead_ends(network, pieces);
    out->gaps = find_gaps(network, pieces, std::min(study.gap_tolerance, roads::kWidestGap), task);
    task.at("attaching places", 0.7);
    std::vector<bool> usable(network.link_count());
    for (std::uint32_t i = 0; i < network.link_count(); ++i) usable[i] = crossings[i].usable();
    for (const auto& d : study.demand)
        out->demand[d.set->name].attached =
            attach_set(network, usable, positions(*d.set), d.set->attaching, q.attach_limit, task);
    for (const auto& s : study.sites)
        out->sites[s.set->name].attached =
            attach_set(network, usable, positions(*s.set), s.set->attaching, q.attach_limit, task);
    task.at("telling what was found", 0.9);
    add_joins(study, *out);
    out->standing = std::make_shared<const std::vector<Finding>>(standing_findings(study, *out, task));
    return out;
}

std::shared_ptr<const Checked> after_closing(const Checked& before, const Study& study, const roads::Gap& gap) {
    auto out = std::make_shared<Checked>(before);
    std::erase_if(out->gaps, [&](const roads::Gap& g) { return g.closing == gap.closing; });
    const std::uint32_t a = before.merged[gap.piece];
    const std::uint32_t b = before.merged[gap.other_piece];
    auto& pieces = out->roads.pieces;
    roads::Piece& stays = pieces[std::min(a, b)];
    stays.links += 1 + (gap.meets_end ? 0 : 1);  // the connector, and the road that it cuts in two
    stays.length = stays.length + gap.distance;
    if (a != b) {
        for (auto& m : out->merged)
            if (m == std::max(a, b)) m = std::min(a, b);
        stays.links += pieces[std::max(a, b)].links;
        stays.length = stays.length + pieces[std::max(a, b)].length;
    }
    for (std::uint32_t p = 0; p < pieces.size(); ++p) {
        if (out->merged[p] != p || p == out->main) continue;
        const roads::Piece& m = pieces[out->merged[out->main]];
        if (out->merged[out->main] != out->main || pieces[p].links > m.links ||
            (pieces[p].links == m.links && pieces[p].length > m.length))
            out->main = p;
    }
    if (a != b) keep_joins(*out, std::min(a, b), std::max(a, b));
    for (const auto& d : study.demand)
        attach_to_connector(out->demand.at(d.set->name).attached, d.set->places, d.set->attaching,
                            study.question().attach_limit, gap);
    for (const auto& s : study.sites)
        attach_to_connector(out->sites.at(s.set->name).attached, s.set->sites, s.set->attaching,
                            study.question().attach_limit, gap);
    return out;
}

}  // namespace otoro::service
