#include "reach/noding.h"

#include <geos/geom/CoordinateArraySequence.h>
#include <geos/geom/PrecisionModel.h>
#include <geos/noding/NodedSegmentString.h>
#include <geos/noding/snapround/SnapRoundingNoder.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <tuple>

#include "reach/flat.h"
#include "reach/meetings.h"

namespace otoro::reach {

namespace {

/// All pieces of some segments, noded by GEOS.
std::vector<NodedPiece> snap_rounded(std::span<const NodedPiece> segments) {
    using geos::noding::NodedSegmentString;
    using geos::noding::SegmentString;
    std::vector<std::unique_ptr<NodedSegmentString>> strings;
    std::vector<SegmentString*> shown;
    strings.reserve(segments.size());
    for (const auto& s : segments) {
        auto line = std::make_unique<geos::geom::CoordinateArraySequence>(
            std::vector<geos::geom::Coordinate>{{static_cast<double>(s.a.x), static_cast<double>(s.a.y)},
                                                {static_cast<double>(s.b.x), static_cast<double>(s.b.y)}});
        strings.push_back(std::make_unique<NodedSegmentString>(line.release(), &s));
        shown.push_back(strings.back().get());
    }
    const geos::geom::PrecisionModel whole(1.0);
    geos::noding::snapround::SnapRoundingNoder noder(&whole);
    noder.computeNodes(&shown);
    const std::unique_ptr<std::vector<SegmentString*>> found(noder.getNodedSubstrings());
    std::vector<NodedPiece> out;
    out.reserve(found->size());
    for (SegmentString* const owned : *found) {
        const std::unique_ptr<SegmentString> string(owned);
        const auto* const piece = static_cast<const NodedPiece*>(string->getData());
        for (std::size_t i = 0; i + 1 < string->size(); ++i) {
            const auto& p = string->getCoordinate(i);
            const auto& q = string->getCoordinate(i + 1);
            if (const NodedPiece part{rounded({p.x, p.y}), rounded({q.x, q.y}), piece->segment}; part.a != part.b)
                out.push_back(part);
        }
    }
    return out;
}

GridSegment on_grid(const NodedPiece& p) { return {{p.a.x, p.a.y}, {p.b.x, p.b.y}}; }
std::vector<GridSegment> on_grid(const std::vector<NodedPiece>& pieces) {
    std::vector<GridSegment> grid;
    grid.reserve(pieces.size());
    for (const auto& p : pieces) grid.push_back(on_grid(p));
    return grid;
}

/// An end of one segment that lies on another but for rounding.
struct NearEnd {
    std::uint32_t piece;
    double along;
    Point at;
};

/// Roads drawn upon one another in part are on one line but for rounding: a segment is cut at the ends of others that
/// are within a hair of it, so that what lies on one another is equal.
std::vector<NodedPiece> cut_at_near_ends(const std::vector<NodedPiece>& pieces) {
    constexpr double kHair = 1.6;  // units of the plane
    std::vector<NearEnd> cuts;
    const auto look = [&](std::uint32_t piece, Point end) {
        const NodedPiece& p = pieces[piece];
        if (end == p.a || end == p.b) return;
        const Spot d = spot(p.b) - spot(p.a), e = spot(end) - spot(p.a);
        const double t = dot(d, e) / dot(d, d);
        if (t <= 0 || t >= 1 || std::abs(cross(d, e)) > kHair * length(d)) return;
        cuts.push_back({piece, t, end});
    };
    each_near_pair(on_grid(pieces), 2, [&](std::uint32_t p, std::uint32_t q) {
        look(p, pieces[q].a);
        look(p, pieces[q].b);
        look(q, pieces[p].a);
        look(q, pieces[p].b);
    });
    if (cuts.empty()) return pieces;
    std::sort(cuts.begin(), cuts.end(), [](const NearEnd& a, const NearEnd& b) {
        return std::tie(a.piece, a.along, a.at) < std::tie(b.piece, b.along, b.at);
    });
    std::vector<NodedPiece> out;
    out.reserve(pieces.size() + cuts.size());
    std::size_t next = 0;
    for (std::uint32_t i = 0; i < pieces.size(); ++i) {
        NodedPiece rest = pieces[i];
        for (; next < cuts.size() && cuts[next].piece == i; ++next) {
            if (cuts[next].at == rest.a) continue;
            out.push_back({rest.a, cuts[next].at, rest.segment});
            rest.a = cuts[next].at;
        }
        out.push_back(rest);
    }
    return out;
}

}  // namespace

std::vector<NodedPiece> noded(std::span<const Segment> segments, const Task& task) {
    std::vector<NodedPiece> pieces;
    pieces.reserve(segments.size());
    for (std::uint32_t i = 0; i < segments.size(); ++i)
        if (segments[i].a != segments[i].b) pieces.push_back({segments[i].a, segments[i].b, i});
    pieces = cut_at_near_ends(pieces);
    // Few segments meet within, and only those are noded; what they were moved onto may meet others, until none does.
    constexpr int kRounds = 6;
    for (int round = 0;; ++round) {
        task.check();
        const auto grid = on_grid(pieces);
        const auto meeting = meetings(grid);
        if (meeting.empty()) break;
        std::vector<bool> involved(pieces.size(), round >= kRounds);
        for (const auto& [p, q] : meeting) involved[p] = involved[q] = true;
        std::vector<NodedPiece> some, rest;
        for (std::size_t i = 0; i < pieces.size(); ++i) (involved[i] ? some : rest).push_back(pieces[i]);
        pieces = std::move(rest);
        const auto parts = snap_rounded(some);
        pieces.insert(pieces.end(), parts.begin(), parts.end());
        if (round > kRounds) break;
    }
    const auto along = [&](const NodedPiece& piece) {
        const Segment& s = segments[piece.segment];
        const double dx = double(s.b.x) - s.a.x, dy = double(s.b.y) - s.a.y;
        return (double(piece.a.x) - s.a.x) * dx + (double(piece.a.y) - s.a.y) * dy;
    };
    std::sort(pieces.begin(), pieces.end(), [&](const NodedPiece& a, const NodedPiece& b) {
        return a.segment != b.segment ? a.segment < b.segment : along(a) < along(b);
    });
    return pieces;
}

}  // namespace otoro::reach
