#include "roads/network.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <bit>

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "geo/digest.h"
#include "geo/ellipsoid.h"

namespace otoro::roads {
namespace {

constexpr std::uint32_t kNoNode = 0xffffffff;

/// Finds the node at a point: open addressing over cells of 1e-7 degrees, with a look over the fence where the point is
/// within the tolerance of its cell's edge.
class NodeFinder {
public:
    explicit NodeFinder(std::uint32_t most_nodes, std::vector<geo::LonLat>& positions)
        : positions_(positions), slots_(std::bit_ceil(std::size_t{most_nodes} + most_nodes / 2 + 16), kNoNode) {}

    NodeId at(geo::LonLat p) {
        const double x = p.lon * kCells;
        const double y = p.lat * kCells;
        const auto cx = static_cast<std::int64_t>(std::floor(x));
        const auto cy = static_cast<std::int64_t>(std::floor(y));
        const std::int64_t sx = fence(x - std::floor(x));
        const std::int64_t sy = fence(y - std::floor(y));
        std::uint32_t found = probe(cx, cy, p);
        if (found == kNoNode && sx != 0) found = probe(cx + sx, cy, p);
        if (found == kNoNode && sy != 0) found = probe(cx, cy + sy, p);
        if (found == kNoNode && sx != 0 && sy != 0) found = probe(cx + sx, cy + sy, p);
        if (found == kNoNode) {
            found = static_cast<std::uint32_t>(positions_.size());
            positions_.push_back(p);
            std::size_t slot = start(cx, cy);
            while (slots_[slot] != kNoNode) slot = (slot + 1) & (slots_.size() - 1);
            slots_[slot] = found;
        }
        return NodeId(found);
    }

private:
    static constexpr double kCells = 1e7;
    static constexpr double kTolerance = 0.1;  // of a cell: 1e-8 degrees

    static std::int64_t fence(double within) { return within < kTolerance ? -1 : within > 1 - kTolerance ? 1 : 0; }
    std::size_t start(std::int64_t cx, std::int64_t cy) const {
        auto h = static_cast<std::uint64_t>(cx) * 0x9e3779b97f4a7c15U ^ static_cast<std::uint64_t>(cy) * 0xc2b2ae3d27d4eb4fU;
        h ^= h >> 29U;
        h *= 0xbf58476d1ce4e5b9U;
        return static_cast<std::size_t>(h >> 20U) & (slots_.size() - 1);
    }
    std::uint32_t probe(std::int64_t cx, std::int64_t cy, geo::LonLat p) const {
        for (std::size_t slot = start(cx, cy); slots_[slot] != kNoNode; slot = (slot + 1) & (slots_.size() - 1)) {
            const geo::LonLat q = positions_[slots_[slot]];
            if (std::abs(q.lon - p.lon) * kCells <= kTolerance && std::abs(q.lat - p.lat) * kCells <= kTolerance) return slots_[slot];
        }
        return kNoNode;
    }

    std::vector<geo::LonLat>& positions_;
    std::vector<std::uint32_t> slots_;
};

struct Joined {
    std::vector<Ends> ends;
    std::vector<geo::LonLat> positions;
};

Joined join_by_place(const Lines& lines) {
    Joined out;
    out.ends.reserve(lines.count());
    out.positions.reserve(std::size_t{2} * lines.count());
    NodeFinder finder(2 * lines.count(), out.positions);
    for (std::uint32_t i = 0; i < lines.count(); ++i) {
        const auto shape = lines.shape(i);
        const NodeId from = finder.at(shape.front());
        out.ends.push_back({from, finder.at(shape.back())});
    }
    return out;
}

Joined join_by_number(const Lines& lines) {
    Joined out;
    std::unordered_map<std::uint32_t, NodeId> known;
    const auto node = [&](std::uint32_t number, geo::LonLat p) {
        const auto [at, added] = known.try_emplace(number, NodeId(out.positions.size()));
        if (added) out.positions.push_back(p);
        return at->second;
    };
    for (std::uint32_t i = 0; i < lines.count(); ++i) {
        const auto shape = lines.shape(i);
        const NodeId from = node(lines.named_ends[i].from, shape.front());
        out.ends.push_back({from, node(lines.named_ends[i].to, shape.back())});
    }
    return out;
}

std::string digest_of(const Lines& lines, const std::vector<Ends>& ends) {
    Digest d;
    d.array(lines.vertices).array(lines.first).array(ends);
    // A road's name changes no answer, and its number in the list depends on what was set aside.
    for (Attributes a : lines.attributes) {
        a.name = 0;
        d.bytes(&a, sizeof a);
    }
    return d.hex();
}

}  // namespace

Millimetres Network::total_length() const {
    return Millimetres(std::accumulate(lengths_.begin(), lengths_.end(), std::int64_t{0}));
}

Network join(Lines lines, const Task& task) {
    if (lines.count() == 0) throw InputError({"", std::nullopt, "there is no road line to travel on", "Bring in a file of lines"});
    Network net;
    task.at("joining road ends", 0.0);
    auto joined = lines.named_ends.empty() ? join_by_place(lines) : join_by_number(lines);
    net.ends_ = std::move(joined.ends);
    net.node_positions_ = std::move(joined.positions);

    task.at("measuring roads", 0.4);
    net.lengths_.resize(lines.count());
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, lines.count(), 4096), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i)
            net.lengths_[i] = static_cast<std::uint32_t>(std::min(geo::line_length(lines.shape(i)), kLongestLine).count());
    });
    for (const auto& p : lines.vertices) net.extent_.add(p);

    task.at("indexing roads", 0.6);
    net.index_ = std::make_unique<geo::BoxIndex>(lines.count(), [&](std::uint32_t i) {
        geo::Box b;
        for (const auto& p : lines.shape(i)) b.add(p);
        return b;
    });
    task.at("indexing roads", 1.0);
    net.digest_ = digest_of(lines, net.ends_);
    net.lines_ = std::move(lines);
    return net;
}

Pieces find_pieces(const Network& network, const std::vector<bool>& usable) {
    std::vector<std::uint32_t> parent(network.node_count());
    std::iota(parent.begin(), parent.end(), 0U);
    const auto root = [&](std::uint32_t n) {
        while (parent[n] != n) n = parent[n] = parent[parent[n]];
        return n;
    };
    std::vector<bool> touched(network.node_count());
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        if (!usable[i]) continue;
        const Ends e = network.ends(LinkId(i));
        touched[e.from.value()] = touched[e.to.value()] = true;
        const auto a = root(e.from.value());
        const auto b = root(e.to.value());
        parent[std::max(a, b)] = std::min(a, b);
    }

    Pieces out;
    std::vector<std::uint32_t> piece_at_root(network.node_count(), kNoPiece);
    out.of_link.assign(network.link_count(), kNoPiece);
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        if (!usable[i]) continue;
        auto& piece = piece_at_root[root(network.ends(LinkId(i)).from.value())];
        if (piece == kNoPiece) {
            piece = static_cast<std::uint32_t>(out.pieces.size());
            out.pieces.emplace_back();
        }
        out.pieces[piece].links += 1;
        out.pieces[piece].length = out.pieces[piece].length + network.length(LinkId(i));
        out.of_link[i] = piece;
    }
    out.nodes = static_cast<std::uint32_t>(std::count(touched.begin(), touched.end(), true));

    std::vector<std::uint32_t> order(out.pieces.size());
    std::iota(order.begin(), order.end(), 0U);
    std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        const Piece& p = out.pieces[a];
        const Piece& q = out.pieces[b];
        return p.links != q.links ? p.links > q.links : p.length > q.length;
    });
    std::vector<std::uint32_t> rank(order.size());
    std::vector<Piece> sorted(order.size());
    for (std::uint32_t r = 0; r < order.size(); ++r) {
        rank[order[r]] = r;
        sorted[r] = out.pieces[order[r]];
    }
    out.pieces = std::move(sorted);
    for (auto& p : out.of_link)
        if (p != kNoPiece) p = rank[p];
    return out;
}

}  // namespace otoro::roads
