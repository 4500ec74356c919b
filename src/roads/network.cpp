#include "roads/network.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <boost/pending/disjoint_sets.hpp>
#include <cmath>
#include <numeric>
#include <optional>
#include <utility>

#include "geo/digest.h"
#include "geo/ellipsoid.h"
#include "geo/local_frame.h"
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
    for (std::uint32_t i = 0; i < lines.count(); ++i)
        out.ends[i] = {NodeId(found.place_of[2 * i]), NodeId(found.place_of[2 * i + 1])};
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
    d.array(lines.vertices)
        .array(lines.first)
        .array(ends)
        .array(lines.against_ms)
        .array(lines.heights)
        .array(lines.traffic_signals)
        .array(lines.bans);
    for (const auto& path : lines.banned_paths) d.array(path);
    d.value(static_cast<std::uint8_t>(lines.times_of));
    // A road's name changes no answer but where places are attached by it, which sees to that itself; and its number in
    // the list depends on what was set aside.
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

namespace {

constexpr std::uint32_t kMostSegments = 16;  // of a run
constexpr std::uint32_t kCrowd = 64;         // roads that meet
constexpr double kLeastSide = 0.005;         // degrees that a run may span, at least

double side(const geo::Box& b) { return std::max(b.east - b.west, b.north - b.south); }

/// How many parts a segment is cut into so that none spans more than `most` degrees.
std::uint32_t parts_of(geo::LonLat a, geo::LonLat b, double most) {
    return static_cast<std::uint32_t>(
        std::ceil(std::max({std::abs(a.lon - b.lon), std::abs(a.lat - b.lat), most}) / most));
}

/// The box of a shape that is one run, as nearly all are; nothing for another.
std::optional<geo::Box> one_run(std::span<const geo::LonLat> shape, double most) {
    if (shape.size() > kMostSegments + 1) return std::nullopt;
    geo::Box box;
    for (const auto& p : shape) box.add(p);
    return side(box) <= most ? std::optional(box) : std::nullopt;
}

/// Calls `use(first, box)` for each run of a shape, in order; a long segment is several with one `first`.
template <class Use>
void each_run(std::span<const geo::LonLat> shape, double most, Use&& use) {
    geo::Box box;
    std::uint32_t first = 0;
    const auto finish = [&](std::uint32_t next) {
        if (next > first) use(first, box);
        first = next;
        box = {};
    };
    for (std::uint32_t i = 0; i + 1 < shape.size(); ++i) {
        const std::uint32_t parts = parts_of(shape[i], shape[i + 1], most);
        if (parts > 1) {
            finish(i);
            for (std::uint32_t k = 0; k < parts; ++k) {
                geo::Box part;
                part.add(geo::between(shape[i], shape[i + 1], static_cast<double>(k) / parts));
                part.add(geo::between(shape[i], shape[i + 1], static_cast<double>(k + 1) / parts));
                use(i, part);
            }
            first = i + 1;
            continue;
        }
        geo::Box wider = box;
        wider.add(shape[i]);
        wider.add(shape[i + 1]);
        if (i > first && (i - first >= kMostSegments || side(wider) > most)) {
            finish(i);
            wider = {};
            wider.add(shape[i]);
            wider.add(shape[i + 1]);
        }
        box = wider;
    }
    finish(static_cast<std::uint32_t>(shape.size() - 1));
}

}  // namespace

void Network::index_runs() {
    const Lines& lines = *lines_;
    // Runs as short as there is room for. Most files have next to no further ones: their roads are short.
    const std::size_t room = std::size_t{8} * lines.count() + lines.vertices.size() / 4 + 1000;
    // At a junction of very many roads their boxes would all cover one another: there they are cut finer.
    std::vector<std::uint32_t> degree(node_count(), 0);
    for (const Ends& e : ends_) {
        ++degree[e.from.value()];
        ++degree[e.to.value()];
    }
    const auto crowded = [&](std::uint32_t l) {
        return std::max(degree[ends_[l].from.value()], degree[ends_[l].to.value()]) >= kCrowd;
    };
    const auto count_of = [&](double most, bool of_crowds) {
        std::size_t n = 0;
        for (std::uint32_t l = 0; l < lines.count(); ++l) {
            if (crowded(l) != of_crowds) continue;
            const auto shape = lines.shape(l);
            if (one_run(shape, most)) continue;
            each_run(shape, most, [&](std::uint32_t, const geo::Box&) { ++n; });
            --n;
        }
        return n;
    };
    double usual = kLeastSide, in_crowds = kLeastSide / 10;
    while (count_of(usual, false) > room && usual < 360) usual *= 2;
    while (count_of(in_crowds, true) > room && in_crowds < 360) in_crowds *= 2;
    const auto most_of = [&](std::uint32_t l) { return crowded(l) ? in_crowds : usual; };

    std::vector<geo::Box> others;
    for (std::uint32_t l = 0; l < lines.count(); ++l) {
        const auto shape = lines.shape(l);
        if (one_run(shape, most_of(l))) continue;
        bool is_first = true;
        std::uint32_t measured = 0;
        double metres = 0;
        each_run(shape, most_of(l), [&](std::uint32_t begin, const geo::Box& box) {
            if (std::exchange(is_first, false)) return;
            for (; measured < begin; ++measured) metres += geo::distance_metres(shape[measured], shape[measured + 1]);
            further_.push_back({l, begin, metres});
            others.push_back(box);
        });
    }
    // First runs are boxed as they are asked for: a million boxes beside the index would be a fifth of all memory.
    const auto first_box = [&](std::uint32_t l) {
        if (const auto whole = one_run(lines.shape(l), most_of(l))) return *whole;
        geo::Box first;
        each_run(lines.shape(l), most_of(l), [&](std::uint32_t, const geo::Box& box) {
            if (first.empty()) first = box;
        });
        return first;
    };
    index_ = std::make_unique<geo::BoxIndex>(
        static_cast<std::uint32_t>(lines.count() + others.size()),
        [&](std::uint32_t i) { return i < lines.count() ? first_box(i) : others[i - lines.count()]; });
}

Run Network::run(std::uint32_t number) const {
    const auto end_of = [&](std::uint32_t link, std::uint32_t begin, std::size_t next) {
        const auto last = static_cast<std::uint32_t>(shape(LinkId(link)).size() - 1);
        const bool more = next < further_.size() && further_[next].link == link;
        return more ? std::max(begin + 1, further_[next].first) : last;
    };
    if (number >= link_count()) {
        const std::size_t at = number - link_count();
        return {LinkId(further_[at].link), further_[at].first, end_of(further_[at].link, further_[at].first, at + 1)};
    }
    if (further_.empty()) return {LinkId(number), 0, static_cast<std::uint32_t>(shape(LinkId(number)).size() - 1)};
    const auto next = std::lower_bound(further_.begin(), further_.end(), number,
                                       [](const Further& f, std::uint32_t l) { return f.link < l; });
    return {LinkId(number), 0, end_of(number, 0, static_cast<std::size_t>(next - further_.begin()))};
}

void Network::links_touching(const geo::Box& area, std::vector<std::uint32_t>& found) const {
    index_->touching(area, found);
    bool any = false;
    for (auto& n : found)
        if (n >= link_count()) {
            n = further_[n - link_count()].link;
            any = true;
        }
    if (!any) return;
    std::sort(found.begin(), found.end());
    found.erase(std::unique(found.begin(), found.end()), found.end());
}

void Network::runs_touching(const geo::Box& area, std::vector<Run>& found) const {
    thread_local std::vector<std::uint32_t> numbers;
    index_->touching(area, numbers);
    found.clear();
    for (const auto n : numbers) found.push_back(run(n));
    std::sort(found.begin(), found.end());
    found.erase(std::unique(found.begin(), found.end()), found.end());
}

void Network::runs_nearest_first(geo::LonLat from, const std::function<bool(const Run&, double)>& look) const {
    index_->nearest_first(from, [&](std::uint32_t number, double degrees) { return look(run(number), degrees); });
}

std::vector<Run> Network::runs_of(LinkId l) const {
    std::vector<Run> out{run(static_cast<std::uint32_t>(l.value()))};
    const auto begin = std::lower_bound(further_.begin(), further_.end(), l.value(),
                                        [](const Further& f, auto link) { return f.link < link; });
    for (auto f = begin; f != further_.end() && f->link == l.value(); ++f) {
        const Run next = run(static_cast<std::uint32_t>(link_count() + (f - further_.begin())));
        if (next != out.back()) out.push_back(next);
    }
    return out;
}

double Network::metres_to(LinkId l, std::size_t vertex) const {
    const auto points = shape(l);
    std::size_t from = 0;
    double metres = 0;
    if (vertex > kMostSegments && !further_.empty()) {
        auto after = std::upper_bound(further_.begin(), further_.end(), std::pair(l.value(), vertex),
                                      [](const auto& at, const Further& f) {
                                          return std::pair<std::uint64_t, std::size_t>(at) <
                                                 std::pair<std::uint64_t, std::size_t>(f.link, f.first);
                                      });
        if (after != further_.begin() && (--after)->link == l.value()) {
            from = after->first;
            metres = after->metres;
        }
    }
    for (std::size_t i = from; i < vertex; ++i) metres += geo::distance_metres(points[i], points[i + 1]);
    return metres;
}

Network join(Lines lines, const Task& task) { return join(std::make_shared<const Lines>(std::move(lines)), task); }

Network join(std::shared_ptr<const Lines> shared, const Task& task) {
    const Lines& lines = *shared;
    if (lines.count() == 0)
        throw InputError({"", std::nullopt, "there is no road line to travel on", "Add a file of lines"});
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
            if (task.stop_requested()) return;
            for (std::uint32_t i = range.begin(); i != range.end(); ++i)
                net.lengths_[i] =
                    static_cast<std::uint32_t>(std::min(geo::line_length(lines.shape(i)), kLongestLine).count());
        });
        for (const auto& p : lines.vertices) net.extent_.add(p);
    };
    net.lines_ = shared;
    const auto index = [&] { net.index_runs(); };
    // One after the other, so that the working memory of joining is free again when indexing needs its own.
    connect();
    task.at("measuring and indexing roads", 0.4);
    tbb::parallel_invoke(index, measure);
    task.at("measuring and indexing roads", 1.0);
    net.digest_ = digest_of(lines, net.ends_);
    return net;
}

Pieces find_pieces(const Network& network, const std::vector<bool>& usable) {
    std::vector<std::uint32_t> parent(network.node_count()), rank_of(network.node_count());
    boost::disjoint_sets<std::uint32_t*, std::uint32_t*> joined(rank_of.data(), parent.data());
    for (std::uint32_t n = 0; n < network.node_count(); ++n) joined.make_set(n);
    std::vector<bool> touched(network.node_count());
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        if (!usable[i]) continue;
        const Ends e = network.ends(LinkId(i));
        touched[e.from.value()] = touched[e.to.value()] = true;
        joined.union_set(e.from.value(), e.to.value());
    }

    Pieces out;
    std::vector<std::uint32_t> piece_at_root(network.node_count(), kNoPiece);
    out.of_link.assign(network.link_count(), kNoPiece);
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        if (!usable[i]) continue;
        auto& piece = piece_at_root[joined.find_set(network.ends(LinkId(i)).from.value())];
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
