#include "reach/ground.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <numbers>
#include <optional>
#include <tuple>

#include "reach/faces.h"
#include "reach/flat.h"

namespace otoro::reach {
namespace {

constexpr double kSegmentsATile = 8000;

/// Both lists along one side, west or south of it and east or north of it, as boundaries where they differ.
void sew(const std::vector<SeamClass>& low, const std::vector<SeamClass>& high, std::int32_t line, bool upright,
         std::vector<Boundary>& out) {
    std::vector<std::int32_t> cuts;
    for (const auto* const list : {&low, &high})
        for (const SeamClass& s : *list) {
            cuts.push_back(s.from);
            cuts.push_back(s.to);
        }
    std::sort(cuts.begin(), cuts.end());
    cuts.erase(std::unique(cuts.begin(), cuts.end()), cuts.end());
    std::size_t i = 0, k = 0;
    const auto ground_at = [](const std::vector<SeamClass>& list, std::size_t& at, std::int32_t from) {
        while (at < list.size() && list[at].to <= from) ++at;
        return at < list.size() && list[at].from <= from ? list[at].ground : kNobody;
    };
    for (std::size_t c = 0; c + 1 < cuts.size(); ++c) {
        const std::uint32_t before = ground_at(low, i, cuts[c]), after = ground_at(high, k, cuts[c]);
        if (before == after) continue;
        // Upwards, the west is on the left; eastwards, the north is.
        if (upright)
            out.push_back({{line, cuts[c]}, {line, cuts[c + 1]}, before, after});
        else
            out.push_back({{cuts[c], line}, {cuts[c + 1], line}, after, before});
    }
}

}  // namespace

Ground::Ground(std::shared_ptr<const roads::Network> network, std::shared_ptr<const std::vector<bool>> use,
               Millimetres limit, std::size_t most_bytes)
    : network_(std::move(network)),
      use_(std::move(use)),
      limit_(limit),
      plane_(network_->extent()),
      most_bytes_(most_bytes) {
    const geo::Box& e = network_->extent();
    const Spot low = plane_.spot({e.west, e.south}), high = plane_.spot({e.east, e.north});
    const double per_metre = plane_.per_metre(e.centre());
    const double area = std::max(1.0, std::abs(high.x - low.x)) * std::max(1.0, std::abs(high.y - low.y));
    const auto segments = static_cast<double>(std::max<std::size_t>(network_->lines().vertices.size(), 1));
    const double wanted = std::sqrt(area * kSegmentsATile / segments);
    const double rim = limit.metres() * per_metre;
    size_ = static_cast<std::int32_t>(std::clamp(std::max(wanted, 4 * rim), 100 * per_metre, Plane::kMost / 4));
    // The middle of the roads is the middle of the plane, and roads drawn on whole metres often run through it: a side
    // that runs along a road, or through where things change on it, is one that both squares see otherwise.
    constexpr double kGoldenCut = 0.3819660112501051;
    shift_ = static_cast<std::int32_t>(size_ * kGoldenCut) | 1;
    std::tie(low_, high_) = around(e);
}

std::pair<Spot, Spot> Ground::around(const geo::Box& box) const {
    // The sides of the box are no straight lines in the plane.
    Spot low{1e300, 1e300}, high{-1e300, -1e300};
    constexpr int kSteps = 8;
    for (int i = 0; i <= kSteps; ++i)
        for (int j = 0; j <= kSteps; ++j) {
            const Spot s = plane_.spot(
                {box.west + (box.east - box.west) * i / kSteps, box.south + (box.north - box.south) * j / kSteps});
            low = {std::min(low.x, s.x), std::min(low.y, s.y)};
            high = {std::max(high.x, s.x), std::max(high.y, s.y)};
        }
    const double rim =
        limit_.metres() * plane_.per_metre(box.centre()) * 1.01 + (high.x - low.x + high.y - low.y) * 0.001 + 2;
    return {{low.x - rim, low.y - rim}, {high.x + rim, high.y + rim}};
}

Rectangle Ground::rectangle(Tile tile) const {
    return {{tile.column * size_ + shift_, tile.row * size_ + shift_},
            {(tile.column + 1) * size_ + shift_, (tile.row + 1) * size_ + shift_}};
}

std::vector<Ground::Tile> Ground::tiles_around(const geo::Box& box) const {
    std::vector<Tile> out;
    if (box.empty() || limit_ < kLeastLimit) return out;
    // What is asked about may be a continent, and much farther than the plane goes: there is ground where roads are.
    const geo::Box& e = network_->extent();
    const double more = limit_.metres() / 50'000 / std::max(0.01, std::cos(e.centre().lat * std::numbers::pi / 180));
    const geo::Box part{std::max(box.west, e.west - more), std::max(box.south, e.south - more),
                        std::min(box.east, e.east + more), std::min(box.north, e.north + more)};
    if (part.west > part.east || part.south > part.north) return out;
    const auto [low, high] = around(part);
    const auto index = [&](double v) { return static_cast<std::int32_t>(std::floor((v - shift_) / size_)); };
    for (auto c = index(std::max(low.x, low_.x)); c <= index(std::min(high.x, high_.x)); ++c)
        for (auto r = index(std::max(low.y, low_.y)); r <= index(std::min(high.y, high_.y)); ++r) out.push_back({c, r});
    return out;
}

std::vector<Ground::Tile> Ground::tiles_around(std::span<const geo::Box> boxes) const {
    std::vector<Tile> out;
    for (const geo::Box& box : boxes) {
        const auto more = tiles_around(box);
        out.insert(out.end(), more.begin(), more.end());
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

bool Ground::has(Tile tile) const {
    const std::lock_guard lock(mutex_);
    return kept_.contains(tile);
}
std::size_t Ground::bytes() const {
    const std::lock_guard lock(mutex_);
    return bytes_;
}

std::shared_ptr<const Strips> Ground::strips(Tile tile, const Task& task) const {
    {
        const std::lock_guard lock(mutex_);
        if (const auto known = kept_.find(tile); known != kept_.end()) {
            used_.splice(used_.begin(), used_, known->second.used);
            return known->second.strips;
        }
    }
    auto made = std::make_shared<const Strips>(make_strips(*network_, *use_, plane_, rectangle(tile), limit_, task));
    const std::lock_guard lock(mutex_);
    const auto [at, is_new] = kept_.try_emplace(tile);
    if (!is_new) return at->second.strips;
    used_.push_front(tile);
    at->second = {made, used_.begin()};
    bytes_ += made->bytes();
    while (bytes_ > most_bytes_ && used_.size() > 1) {
        const auto oldest = kept_.find(used_.back());
        bytes_ -= oldest->second.strips->bytes();
        kept_.erase(oldest);
        used_.pop_back();
    }
    return made;
}

const std::vector<OpenEnd>& Ground::rim() const {
    std::call_once(rim_found_, [this] { rim_ = open_ends(*network_, *use_); });
    return rim_;
}

namespace {

/// Values at the ends of roads are whole numbers, and so are limits: a limit between two of them has the same inside,
/// and never falls on an end of a road, where what lies on it would have to be told apart by rounding.
Bands between_values(Bands bands, int attempt) {
    constexpr std::array<double, Ground::kAttempts> kBetween{0, 0.37, 0.21, 0.44};
    for (double& limit : bands.limits) limit += kBetween[static_cast<std::size_t>(attempt)];
    return bands;
}

}  // namespace

std::vector<Boundary> Ground::boundaries(const AlongRoads& along, const Bands& bands, std::span<const geo::Box> boxes,
                                         const Task& task) const {
    const auto tiles = tiles_around(boxes);
    auto found = walked(along, bands, tiles, task);
    // A tile that is drawn anew may show that its neighbour is not sound either.
    constexpr int kRounds = 3;
    auto out = sewn(tiles, found);
    for (int round = 0; round < kRounds; ++round) {
        const auto open = open_ends(out);
        if (open.empty()) break;
        for (std::size_t i = 0; i < tiles.size(); ++i) {
            const Rectangle r = rectangle(tiles[i]);
            const bool has = std::any_of(open.begin(), open.end(), [&](Point p) {
                return r.low.x <= p.x && p.x <= r.high.x && r.low.y <= p.y && p.y <= r.high.y;
            });
            if (has) found[i] = anew(tiles[i], found[i], along, bands, task);
        }
        out = sewn(tiles, found);
    }
    return out;
}

std::vector<Boundary> Ground::boundaries_anew(const AlongRoads& along, const Bands& bands,
                                              std::span<const geo::Box> boxes, int attempt, const Task& task) const {
    const Bands between = between_values(bands, attempt);
    const auto tiles = tiles_around(boxes);
    auto found = walked(along, between, tiles, task);
    for (std::size_t i = 0; i < tiles.size(); ++i) {
        task.at("drawing ground anew", static_cast<double>(i) / static_cast<double>(tiles.size()));
        found[i] = anew(tiles[i], found[i], along, between, task);
    }
    return sewn(tiles, found);
}

TileBoundaries Ground::anew(Tile tile, const TileBoundaries& walked, const AlongRoads& along, const Bands& bands,
                            const Task& task) const {
    const auto ours = strips(tile, task);
    return reach::boundaries_anew(*ours, walked, along, bands, plane_.per_metre(plane_.place(ours->tile.low)), limit_,
                                  task);
}

std::vector<TileBoundaries> Ground::walked(const AlongRoads& along, const Bands& bands, const std::vector<Tile>& tiles,
                                           const Task& task) const {
    std::vector<TileBoundaries> found(tiles.size());
    std::atomic<std::size_t> done = 0;
    std::mutex reporting;
    tbb::parallel_for(std::size_t{0}, tiles.size(), [&](std::size_t i) {
        if (task.stop_requested()) return;
        const auto ours = strips(tiles[i], Task());
        found[i] = reach::boundaries(*ours, along, bands, plane_.per_metre(plane_.place(ours->tile.low)));
        const auto share = static_cast<double>(++done) / static_cast<double>(tiles.size());
        if (const std::unique_lock mine(reporting, std::try_to_lock); mine) task.at("dividing ground", share);
    });
    task.check();
    return found;
}

std::vector<Boundary> Ground::sewn(const std::vector<Tile>& tiles, const std::vector<TileBoundaries>& found) const {
    std::vector<Boundary> out;
    std::size_t count = 0;
    for (const auto& f : found) count += f.lines.size();
    out.reserve(count + tiles.size() * 8);
    for (const auto& f : found) out.insert(out.end(), f.lines.begin(), f.lines.end());
    std::map<Tile, const TileBoundaries*> by_tile;
    for (std::size_t i = 0; i < tiles.size(); ++i) by_tile[tiles[i]] = &found[i];
    static const std::vector<SeamClass> kNothing;
    const auto seam = [&](Tile tile, Side side) -> const std::vector<SeamClass>& {
        const auto at = by_tile.find(tile);
        return at == by_tile.end() ? kNothing : at->second->seams[static_cast<std::size_t>(side)];
    };
    for (const Tile t : tiles) {
        const Rectangle r = rectangle(t);
        sew(seam({t.column - 1, t.row}, Side::east), seam(t, Side::west), r.low.x, true, out);
        sew(seam({t.column, t.row - 1}, Side::north), seam(t, Side::south), r.low.y, false, out);
        if (!by_tile.contains({t.column + 1, t.row})) sew(seam(t, Side::east), kNothing, r.high.x, true, out);
        if (!by_tile.contains({t.column, t.row + 1})) sew(seam(t, Side::north), kNothing, r.high.y, false, out);
    }
    return out;
}

}  // namespace otoro::reach
