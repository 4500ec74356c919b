#include "roads/gaps.h"

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <queue>
#include <tuple>
#include <unordered_map>

#include "geo/ellipsoid.h"
#include "geo/local_frame.h"

namespace otoro::roads {
namespace {

using geo::LonLat;

/// Usable links by node.
struct Incidence {
    std::vector<std::uint32_t> first;
    std::vector<std::uint32_t> links;

    Incidence(const Network& network, const Pieces& pieces) : first(std::size_t{network.node_count()} + 1, 0) {
        const auto each = [&](auto&& use) {
            for (std::uint32_t i = 0; i < network.link_count(); ++i) {
                if (pieces.of_link[i] == kNoPiece) continue;
                const Ends e = network.ends(LinkId(i));
                use(e.from.value(), i);
                use(e.to.value(), i);
            }
        };
        each([&](std::uint32_t node, std::uint32_t) { ++first[node + 1]; });
        for (std::size_t n = 1; n < first.size(); ++n) first[n] += first[n - 1];
        links.resize(first.back());
        auto next = first;
        each([&](std::uint32_t node, std::uint32_t link) { links[next[node]++] = link; });
        // The shortest first, so that who goes no farther than so many metres need not look at all roads of a large
        // junction.
        for (std::size_t n = 0; n + 1 < first.size(); ++n)
            std::sort(links.begin() + first[n], links.begin() + first[n + 1], [&](std::uint32_t a, std::uint32_t b) {
                return std::pair(network.length(LinkId(a)), a) < std::pair(network.length(LinkId(b)), b);
            });
    }
    [[nodiscard]] std::span<const std::uint32_t> at(std::uint32_t node) const {
        return {links.data() + first[node], links.data() + first[node + 1]};
    }
};

/// The nearest point of a link to the frame's origin.
struct Foot {
    double metres = 1e300, squared = 1e300;
    std::uint32_t link = 0;
    std::size_t segment = 0;  ///< the vertex it comes after
    LonLat at;
    bool is_from = false, is_to = false;
};

/// \param most flat metres; a foot farther off than that is not worked out
Foot foot_on(const Network& network, const Run& run, LonLat from, const geo::LocalFrame& frame, double most) {
    const auto shape = network.shape(run.link);
    Foot best;
    best.link = static_cast<std::uint32_t>(run.link.value());
    geo::LineFoot foot = geo::foot_on_line(shape.subspan(run.first, run.last - run.first + 1), frame);
    foot.segment += run.first;
    best.segment = foot.segment;
    best.squared = foot.squared;
    if (foot.squared > most * most) return best;
    best.at = geo::between(shape[foot.segment], shape[foot.segment + 1], foot.along);
    // A point within a millimetre or so of an end is that end.
    const auto is = [&](LonLat p) { return geo::distance_metres(best.at, p) < 0.002; };
    best.is_from = is(shape.front());
    best.is_to = !best.is_from && is(shape.back());
    if (best.is_from) best.at = shape.front();
    if (best.is_to) best.at = shape.back();
    best.metres = geo::distance_metres(from, best.at);
    return best;
}

class Finder {
public:
    Finder(const Network& network, const Pieces& pieces, Millimetres within)
        : network_(network),
          pieces_(pieces),
          within_(within.metres()),
          incidence_(network, pieces),
          minor_runs_(runs_of_minor_pieces()),
          minor_(index_of(minor_runs_)),
          crowded_(crowded_links()),
          loose_runs_(runs_beside_crowds()),
          loose_(index_of(loose_runs_)) {}

    void set_within(Millimetres within) { within_ = within.metres(); }

    /// The gaps of one end.
    void look(std::uint32_t node, std::vector<Gap>& gaps) const {
        const auto own = incidence_.at(node);
        if (own.empty()) return;
        std::optional<std::uint32_t> read;  // the first in the file of its roads that was read and not added
        for (const std::uint32_t link : own)
            if (network_.lines().as_read(link) != Lines::kAdded && (!read || link < *read)) read = link;
        if (!read) return;
        const std::uint32_t piece = pieces_.of_link[own[0]];
        const bool dead_end = own.size() == 1;
        thread_local std::vector<Run> near;
        thread_local std::map<std::uint32_t, Foot> best;  // by piece
        best.clear();
        const LonLat from = network_.position(NodeId(node));
        const geo::LocalFrame frame(from);
        // Most nodes are junctions of the largest piece: they can only nearly meet the few links of others.
        const geo::Box around = frame.box_around(within_);
        if (piece == 0)
            find_runs(minor_, minor_runs_, around, near);
        else
            network_.runs_touching(around, near);
        for (const Foot& foot : feet(near, node, from, frame)) {
            const std::uint32_t other = pieces_.of_link[foot.link];
            if (other == piece || foot.metres > within_) continue;
            Foot& known = best[other];
            if (foot.metres < known.metres) known = foot;
        }
        if (dead_end)
            if (const auto foot = nearest_of_own(node, own[0], piece, from, frame)) best[piece] = *foot;
        for (const auto& [other, foot] : best) gaps.push_back(gap(node, *read, piece, foot, other));
    }

private:
    /// Roads of a large junction that are so short that one walks from the end of any to any point of another by a
    /// short way: none of them is a gap for another.
    static constexpr double kShortWay = 30;
    static constexpr std::size_t kCrowd = 64;

    static void find_runs(const geo::BoxIndex& index, const std::vector<Run>& runs, const geo::Box& area,
                          std::vector<Run>& found) {
        thread_local std::vector<std::uint32_t> numbers;
        index.touching(area, numbers);
        std::sort(numbers.begin(), numbers.end());
        found.clear();
        for (const auto n : numbers) found.push_back(runs[n]);
    }

    /// The foot on each usable link of some runs, sorted by link; not on links of the node itself, nor on what was
    /// added.
    [[nodiscard]] std::span<const Foot> feet(const std::vector<Run>& runs, std::uint32_t node, LonLat from,
                                             const geo::LocalFrame& frame) const {
        thread_local std::vector<Foot> out;
        out.clear();
        for (const Run& run : runs) {
            const auto link = static_cast<std::uint32_t>(run.link.value());
            if (pieces_.of_link[link] == kNoPiece || network_.lines().as_read(link) == Lines::kAdded) continue;
            const Ends e = network_.ends(run.link);
            if (e.from.value() == node || e.to.value() == node) continue;
            const Foot foot = foot_on(network_, run, from, frame, within_ * 1.02 + 1);
            if (foot.metres > within_) continue;
            if (!out.empty() && out.back().link == link) {
                if (foot.squared < out.back().squared) out.back() = foot;
            } else {
                out.push_back(foot);
            }
        }
        return out;
    }

    /// Where a dead end nearly meets a road of its own piece to which no short way leads: looked for in circles, so
    /// that in a thicket not all of it is gone through.
    [[nodiscard]] std::optional<Foot> nearest_of_own(std::uint32_t node, std::uint32_t own, std::uint32_t piece,
                                                     LonLat from, const geo::LocalFrame& frame) const {
        thread_local std::vector<Run> near;
        const bool in_crowd = !crowded_.empty() && crowded_[own];
        const auto on_itself = bends_back(node, own, from, frame);
        for (double radius = std::min(within_, std::max(0.25, within_ / 64));; radius = std::min(radius * 4, within_)) {
            const geo::Box around = frame.box_around(radius);
            if (in_crowd)
                find_runs(loose_, loose_runs_, around, near);
            else
                network_.runs_touching(around, near);
            std::optional<Foot> best;
            for (const Foot& foot : feet(near, node, from, frame)) {
                if (pieces_.of_link[foot.link] != piece || foot.metres > within_ ||
                    (best && foot.metres >= best->metres) || joined(node, foot))
                    continue;
                best = foot;
            }
            if (on_itself && (!best || on_itself->metres < best->metres)) best = on_itself;
            if (best && best->metres <= radius) return best;
            if (radius >= within_) return best;
        }
    }

    /// Where the road of a dead end nearly meets itself, as a crescent does, and the way round is no short one.
    [[nodiscard]] std::optional<Foot> bends_back(std::uint32_t node, std::uint32_t own, LonLat from,
                                                 const geo::LocalFrame& frame) const {
        const auto shape = network_.shape(LinkId(own));
        std::optional<Foot> best;
        if (network_.length(LinkId(own)).metres() <= kShortWay) return best;
        for (std::uint32_t i = 0; i + 1 < shape.size(); ++i) {
            const Foot foot = foot_on(network_, Run{LinkId(own), i, i + 1}, from, frame, within_ * 1.02 + 1);
            if (foot.metres > within_ || (best && foot.metres >= best->metres) || joined(node, foot)) continue;
            best = foot;
        }
        return best;
    }

    [[nodiscard]] static geo::BoxIndex index_of_runs(const Network& network, const std::vector<Run>& runs) {
        return {static_cast<std::uint32_t>(runs.size()), [&](std::uint32_t i) {
                    geo::Box box;
                    for (const LonLat p :
                         network.shape(runs[i].link).subspan(runs[i].first, runs[i].last - runs[i].first + 1))
                        box.add(p);
                    return box;
                }};
    }
    [[nodiscard]] geo::BoxIndex index_of(const std::vector<Run>& runs) const { return index_of_runs(network_, runs); }

    /// One a link, or nothing where there is no crowd.
    [[nodiscard]] std::vector<bool> crowded_links() const {
        std::vector<bool> out;
        for (std::uint32_t n = 0; n < network_.node_count(); ++n) {
            const auto links = incidence_.at(n);
            if (links.size() < kCrowd) continue;
            for (const std::uint32_t link : links) {
                if (network_.length(LinkId(link)).metres() > kShortWay / 2) break;  // sorted by length
                if (out.empty()) out.resize(network_.link_count(), false);
                out[link] = true;
            }
        }
        return out;
    }

    /// Runs of usable links that are in no crowd, where there is one. (Of two crowds of one piece side by side
    /// neither's short roads are gaps for the other's.)
    [[nodiscard]] std::vector<Run> runs_beside_crowds() const {
        std::vector<Run> out;
        if (crowded_.empty()) return out;
        for (std::uint32_t l = 0; l < network_.link_count(); ++l)
            if (pieces_.of_link[l] != kNoPiece && !crowded_[l])
                for (const Run& r : network_.runs_of(LinkId(l))) out.push_back(r);
        return out;
    }

    [[nodiscard]] std::vector<Run> runs_of_minor_pieces() const {
        std::vector<Run> out;
        for (std::uint32_t l = 0; l < pieces_.of_link.size(); ++l)
            if (pieces_.of_link[l] != kNoPiece && pieces_.of_link[l] != 0)
                for (const Run& r : network_.runs_of(LinkId(l))) out.push_back(r);
        return out;
    }

    [[nodiscard]] Gap gap(std::uint32_t node, std::uint32_t own, std::uint32_t piece, const Foot& foot,
                          std::uint32_t other) const {
        const Lines& lines = network_.lines();
        const LonLat from = network_.position(NodeId(node));
        const auto shape = network_.shape(LinkId(own));
        // The end of its own line as drawn, which may differ from the node by a hair.
        const LonLat own_end = network_.ends(LinkId(own)).from == NodeId(node) ? shape.front() : shape.back();
        return {NodeId(node),
                LinkId(foot.link),
                foot.is_from || foot.is_to,
                from,
                foot.at,
                Millimetres::from_metres(foot.metres),
                piece,
                other,
                {own_end, foot.at, lines.as_read(own), lines.as_read(foot.link)}};
    }

    /// Whether the roads already lead from the node to the foot by a short way.
    [[nodiscard]] bool joined(std::uint32_t node, const Foot& foot) const {
        const double most = std::max(4 * foot.metres, kShortWay);
        const Ends target = network_.ends(LinkId(foot.link));
        const auto shape = network_.shape(LinkId(foot.link));
        const double whole = network_.length(LinkId(foot.link)).metres();
        const double along = std::min(whole, network_.metres_to(LinkId(foot.link), foot.segment) +
                                                 geo::distance_metres(shape[foot.segment], foot.at));
        const double beyond_from = foot.is_from ? 0 : foot.is_to ? whole : along;
        const double beyond_to = foot.is_to ? 0 : foot.is_from ? whole : whole - along;
        thread_local std::unordered_map<std::uint32_t, double> known;
        known.clear();
        using Entry = std::pair<double, std::uint32_t>;
        std::priority_queue<Entry, std::vector<Entry>, std::greater<>> queue;
        queue.emplace(0.0, node);
        known[node] = 0;
        while (!queue.empty()) {
            const auto [cost, at] = queue.top();
            queue.pop();
            if (cost > known[at]) continue;
            if ((at == target.from.value() && cost + beyond_from <= most) ||
                (at == target.to.value() && cost + beyond_to <= most))
                return true;
            for (const std::uint32_t link : incidence_.at(at)) {
                const Ends e = network_.ends(LinkId(link));
                const std::uint32_t head = e.from.value() == at ? e.to.value() : e.from.value();
                const double next = cost + network_.length(LinkId(link)).metres();
                if (next > most) break;  // sorted by length
                const auto [found, added] = known.try_emplace(head, next);
                if (!added && found->second <= next) continue;
                found->second = next;
                queue.emplace(next, head);
            }
        }
        return false;
    }

    const Network& network_;
    const Pieces& pieces_;
    double within_;
    Incidence incidence_;
    std::vector<Run> minor_runs_;
    geo::BoxIndex minor_;
    std::vector<bool> crowded_;
    std::vector<Run> loose_runs_;
    geo::BoxIndex loose_;
};

}  // namespace

std::vector<Gap> find_gaps(const Network& network, const Pieces& pieces, Millimetres within, const Task& task) {
    const Finder finder(network, pieces, within);
    tbb::enumerable_thread_specific<std::vector<Gap>> found;
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, network.node_count(), 2048), [&](const auto& range) {
        if (task.stop_requested()) return;
        auto& gaps = found.local();
        for (std::uint32_t n = range.begin(); n != range.end(); ++n) finder.look(n, gaps);
    });
    task.check();
    std::vector<Gap> all;
    for (const auto& gaps : found) all.insert(all.end(), gaps.begin(), gaps.end());
    const auto key = [](const Gap& g) { return std::tuple(g.distance, g.end, g.link); };
    std::sort(all.begin(), all.end(), [&](const Gap& a, const Gap& b) { return key(a) < key(b); });

    // Two ends that see each other are one gap; so are two roads that each see the other a little beside its end.
    std::vector<Gap> out;
    std::unordered_map<std::uint32_t, std::vector<std::size_t>> kept_at;  // by end
    const auto is_end_of = [&](NodeId node, LinkId link) {
        return network.ends(link).from == node || network.ends(link).to == node;
    };
    const auto seen_from_there = [&](const Gap& g) {
        const Ends e = network.ends(g.link);
        for (const NodeId n : {e.from, e.to})
            if (const auto at = kept_at.find(n.value()); at != kept_at.end())
                for (const std::size_t k : at->second)
                    if (is_end_of(g.end, out[k].link) && geo::distance(out[k].from, g.from) <= within + within)
                        return true;
        return false;
    };
    std::unordered_map<std::uint64_t, bool> seen;
    for (const Gap& g : all) {
        if (g.meets_end) {
            const Ends e = network.ends(g.link);
            const auto other = g.to == network.shape(g.link).front() ? e.from.value() : e.to.value();
            const auto low = std::min(g.end.value(), other);
            const auto high = std::max(g.end.value(), other);
            if (!seen.try_emplace((std::uint64_t{low} << 32U) | high, true).second) continue;
        }
        if (seen_from_there(g)) continue;
        kept_at[g.end.value()].push_back(out.size());
        out.push_back(g);
    }
    return out;
}

std::vector<std::optional<Gap>> nearest_joins(const Network& network, const Pieces& pieces,
                                              const std::vector<std::uint32_t>& wanted) {
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> nodes;
    for (const std::uint32_t p : wanted) nodes[p];
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        const auto at = nodes.find(pieces.of_link[i]);
        if (at == nodes.end()) continue;
        at->second.push_back(network.ends(LinkId(i)).from.value());
        at->second.push_back(network.ends(LinkId(i)).to.value());
    }
    Finder finder(network, pieces, Millimetres(0));
    const auto key = [](const Gap& g) { return std::tuple(g.distance, g.end, g.link); };
    std::vector<std::optional<Gap>> out;
    for (const std::uint32_t p : wanted) {
        auto& mine = nodes[p];
        std::sort(mine.begin(), mine.end());
        mine.erase(std::unique(mine.begin(), mine.end()), mine.end());
        std::optional<Gap> best;
        for (const std::int64_t metres : {20, 100, 500}) {
            finder.set_within(Millimetres::metres(metres));
            std::vector<Gap> found;
            for (const std::uint32_t n : mine) finder.look(n, found);
            std::erase_if(found, [](const Gap& g) { return !g.joins_pieces(); });
            if (const auto least = std::min_element(found.begin(), found.end(),
                                                    [&](const Gap& x, const Gap& y) { return key(x) < key(y); });
                least != found.end())
                best = *least;
            if (best) break;
        }
        out.push_back(best);
    }
    return out;
}

std::uint32_t count_dead_ends(const Network& network, const Pieces& pieces) {
    std::vector<std::uint8_t> degree(network.node_count(), 0);
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        if (pieces.of_link[i] == kNoPiece) continue;
        const Ends e = network.ends(LinkId(i));
        for (const NodeId n : {e.from, e.to})
            degree[n.value()] = static_cast<std::uint8_t>(std::min(2, degree[n.value()] + 1));
    }
    return static_cast<std::uint32_t>(std::count(degree.begin(), degree.end(), 1));
}

}  // namespace otoro::roads
