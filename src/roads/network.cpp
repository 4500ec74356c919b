#include "roads/network.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>
#include <tbb/parallel_sort.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "geo/digest.h"
#include "geo/ellipsoid.h"

namespace otoro::roads {
namespace {

constexpr std::uint32_t kNoNode = 0xffffffff;

struct Joined {
    std::vector<Ends> ends;
    std::vector<geo::LonLat> positions;
};

/// Bits of a 32-bit number spread to the even places.
std::uint64_t spread(std::uint32_t v) {
    std::uint64_t x = v;
    x = (x | (x << 16U)) & 0x0000ffff0000ffffU;
    x = (x | (x << 8U)) & 0x00ff00ff00ff00ffU;
    x = (x | (x << 4U)) & 0x0f0f0f0f0f0f0f0fU;
    x = (x | (x << 2U)) & 0x3333333333333333U;
    return (x | (x << 1U)) & 0x5555555555555555U;
}

/// Joins ends that are at the same place by sorting them along a Z-order curve (Morton 1966) of cells of 1e-6 degrees. That also numbers the nodes so that
/// neighbours stand near each other in memory, which every search afterwards gains from.
class PlaceJoiner {
public:
    explicit PlaceJoiner(const Lines& lines) : lines_(lines) {}

    Joined join() {
        sort_ends();
        number_nodes();
        merge_across_cells();
        return finished();
    }

private:
    static constexpr double kCells = 1e6;  // a degree

    struct Cell {
        std::int64_t x, y;
        [[nodiscard]] std::uint64_t key() const { return spread(static_cast<std::uint32_t>(x)) | (spread(static_cast<std::uint32_t>(y)) << 1U); }
    };
    /// The end of a line: its cell, and where in the cell it is in 65,536ths.
    struct End {
        std::uint64_t key;
        std::uint32_t number;  // twice the line, plus one for its last vertex
        std::uint16_t x, y;
    };
    static constexpr int kFine = 65'536;
    static constexpr int kNear = 655;  // 1e-8 degrees

    [[nodiscard]] geo::LonLat position(std::uint32_t end) const {
        const auto line = end / 2;
        return lines_.vertices[end % 2 ? lines_.first[line + 1] - 1 : lines_.first[line]];
    }
    static Cell cell(geo::LonLat p) {
        return {static_cast<std::int64_t>(std::floor((p.lon + 180) * kCells)), static_cast<std::int64_t>(std::floor((p.lat + 90) * kCells))};
    }
    static bool same(const End& a, const End& b) { return std::abs(a.x - b.x) <= kNear && std::abs(a.y - b.y) <= kNear; }
    /// The same for ends of cells that lie `dx` and `dy` cells apart.
    static bool same_across(const End& a, const End& b, int dx, int dy) {
        return std::abs(b.x + dx * kFine - a.x) <= kNear && std::abs(b.y + dy * kFine - a.y) <= kNear;
    }
    /// -1 or 1 if a place within its cell is nearer than the tolerance to the lower or upper edge.
    static int fence(std::uint16_t within) { return within <= kNear ? -1 : within >= kFine - kNear ? 1 : 0; }
    static std::uint16_t within(double shifted) {
        const double cells = shifted * kCells;
        return static_cast<std::uint16_t>((cells - std::floor(cells)) * kFine);
    }

    void sort_ends() {
        sorted_.resize(std::size_t{2} * lines_.count());
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, 2 * lines_.count(), 8192), [&](const auto& range) {
            for (std::uint32_t e = range.begin(); e != range.end(); ++e) {
                const geo::LonLat p = position(e);
                sorted_[e] = {cell(p).key(), e, within(p.lon + 180), within(p.lat + 90)};
            }
        });
        tbb::parallel_sort(sorted_, [](const End& a, const End& b) { return a.key != b.key ? a.key < b.key : a.number < b.number; });
    }

    /// One node for the ends of a cell that are at the same place as the first of them; nearly always that is all of the cell.
    void number_nodes() {
        node_of_end_.resize(sorted_.size());
        std::size_t nodes = 0;  // the first end of each node moves to the front of the list
        for (std::size_t i = 0; i < sorted_.size();) {
            const std::size_t cell_begin = nodes;
            const std::uint64_t key = sorted_[i].key;
            for (; i < sorted_.size() && sorted_[i].key == key; ++i) {
                const End end = sorted_[i];
                std::size_t node = cell_begin;
                while (node < nodes && !same(sorted_[node], end)) ++node;
                if (node == nodes) sorted_[nodes++] = end;
                node_of_end_[end.number] = static_cast<std::uint32_t>(node);
            }
        }
        sorted_.resize(nodes);
    }

    /// A node within the tolerance of its cell's edge may be the same place as one beyond it.
    void merge_across_cells() {
        merged_.assign(sorted_.size(), kNoNode);
        for (std::uint32_t node = 0; node < sorted_.size(); ++node) {
            const End here = sorted_[node];
            const int fx = fence(here.x);
            const int fy = fence(here.y);
            if (fx == 0 && fy == 0) continue;
            const Cell at = cell(position(here.number));
            for (const auto& [dx, dy] : std::array{std::pair{fx, 0}, std::pair{0, fy}, std::pair{fx, fy}}) {
                if (dx == 0 && dy == 0) continue;
                const std::uint64_t key = Cell{at.x + dx, at.y + dy}.key();
                auto other = std::lower_bound(sorted_.begin(), sorted_.end(), key, [](const End& e, std::uint64_t k) { return e.key < k; });
                for (; other != sorted_.end() && other->key == key; ++other)
                    if (same_across(here, *other, dx, dy)) unite(node, static_cast<std::uint32_t>(other - sorted_.begin()));
            }
        }
    }

    [[nodiscard]] std::uint32_t root(std::uint32_t node) const {
        while (merged_[node] != kNoNode) node = merged_[node];
        return node;
    }
    /// The node whose end is first in the file stays.
    void unite(std::uint32_t a, std::uint32_t b) {
        a = root(a);
        b = root(b);
        if (a == b) return;
        if (sorted_[b].number < sorted_[a].number) std::swap(a, b);
        merged_[b] = a;
    }

    Joined finished() const {
        Joined out;
        std::vector<std::uint32_t> number(sorted_.size(), kNoNode);
        std::uint32_t count = 0;
        for (std::uint32_t node = 0; node < sorted_.size(); ++node)
            if (merged_[node] == kNoNode) number[node] = count++;
        out.positions.resize(count);
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, static_cast<std::uint32_t>(sorted_.size()), 8192), [&](const auto& range) {
            for (std::uint32_t node = range.begin(); node != range.end(); ++node)
                if (number[node] != kNoNode) out.positions[number[node]] = position(sorted_[node].number);
        });
        out.ends.resize(lines_.count());
        for (std::uint32_t i = 0; i < lines_.count(); ++i)
            out.ends[i] = {NodeId(number[root(node_of_end_[2 * i])]), NodeId(number[root(node_of_end_[2 * i + 1])])};
        return out;
    }

    const Lines& lines_;
    std::vector<End> sorted_;  // all ends; then the first end of each node
    std::vector<std::uint32_t> node_of_end_;
    std::vector<std::uint32_t> merged_;  // into which other node, if any
};

Joined join_by_place(const Lines& lines) { return PlaceJoiner(lines).join(); }

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
    task.at("joining roads", 0.0);
    net.lengths_.resize(lines.count());
    const auto connect = [&] {
        auto joined = lines.named_ends.empty() ? join_by_place(lines) : join_by_number(lines);
        net.ends_ = std::move(joined.ends);
        net.node_positions_ = std::move(joined.positions);
    };
    const auto measure = [&] {
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, lines.count(), 4096), [&](const auto& range) {
            for (std::uint32_t i = range.begin(); i != range.end(); ++i)
                net.lengths_[i] = static_cast<std::uint32_t>(std::min(geo::line_length(lines.shape(i)), kLongestLine).count());
        });
        for (const auto& p : lines.vertices) net.extent_.add(p);
    };
    const auto index = [&] {
        net.index_ = std::make_unique<geo::BoxIndex>(lines.count(), [&](std::uint32_t i) {
            geo::Box b;
            for (const auto& p : lines.shape(i)) b.add(p);
            return b;
        });
    };
    // One after the other, so that the working memory of joining is free again when indexing needs its own.
    connect();
    task.at("measuring and indexing roads", 0.4);
    tbb::parallel_invoke(index, measure);
    task.at("measuring and indexing roads", 1.0);
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
