#include "roads/network.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <numeric>

#include "geo/digest.h"
#include "geo/ellipsoid.h"
#include "roads/same_place.h"

namespace otoro::roads {
namespace {

struct Joined {
    std::vector<Ends> ends;
    std::vector<geo::LonLat> positions;
};

Joined join_by_place(const Lines& lines) {
    const auto end_of_line = [&](std::uint32_t end) {
        const auto line = end / 2;
        return lines.vertices[end % 2 ? lines.first[line + 1] - 1 : lines.first[line]];
    };
    auto found = SamePlace(2 * lines.count(), end_of_line).find();
    Joined out;
    out.positions = std::move(found.positions);
    out.ends.resize(lines.count());
    for (std::uint32_t i = 0; i < lines.count(); ++i) out.ends[i] = {NodeId(found.place_of[2 * i]), NodeId(found.place_of[2 * i + 1])};
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
    d.array(lines.vertices).array(lines.first).array(ends).array(lines.against_ms).array(lines.heights).array(lines.traffic_signals).array(lines.bans);
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

Network join(Lines lines, const Task& task) { return join(std::make_shared<const Lines>(std::move(lines)), task); }

Network join(std::shared_ptr<const Lines> shared, const Task& task) {
    const Lines& lines = *shared;
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
    net.lines_ = std::move(shared);
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
