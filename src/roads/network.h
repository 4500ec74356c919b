#pragma once
/// \file
/// Lines joined into a network.
///
/// \par Problem
/// A road file is a heap of drawn lines. To travel on them one must know which ends meet. `join` finds that out,
/// measures every line, and numbers the nodes.
///
/// \par How lines join
/// At their ends only. Two ends meet when they are within 1e-8 degrees (about 1 mm) of the same first-seen point in
/// both longitude and latitude, which forgives the rounding of a change of coordinate system and nothing more. Where
/// the source names the ends itself (OpenStreetMap), lines join where the numbers are equal and never by nearness. A
/// line may start and end in one node (a loop); several lines may join the same two nodes.
///
/// \par Cost
/// Linear in vertices, plus one hash probe an end. Measuring runs on all threads; the result does not depend on how
/// many there are.
///
/// \par Example
/// \code
///   Lines lines;
///   lines.add(std::array{LonLat{-9.5, 46.2}, LonLat{-9.49, 46.2}}, {});
///   const Network net = join(std::move(lines), Task());
///   net.length(LinkId(0u)).metres();     // 772.3
/// \endcode
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "geo/box_index.h"
#include "geo/ids.h"
#include "geo/task.h"
#include "roads/lines.h"

namespace otoro::roads {

/// Where a link starts and ends.
struct Ends {
    NodeId from;
    NodeId to;
};

/// Some neighbouring segments of a link, few and near together: `first` to before `last`. Long links have many, so that
/// whoever looks for what is near need not go through all of a link.
struct Run {
    LinkId link;
    std::uint32_t first = 0, last = 0;
    auto operator<=>(const Run&) const = default;
};

/// Immutable once joined; shared between threads.
class Network {
public:
    [[nodiscard]] std::uint32_t link_count() const { return lines_->count(); }
    [[nodiscard]] std::uint32_t node_count() const { return static_cast<std::uint32_t>(node_positions_.size()); }

    [[nodiscard]] Ends ends(LinkId l) const { return ends_[l.value()]; }
    /// True length of the drawn line on the ellipsoid.
    [[nodiscard]] Millimetres length(LinkId l) const { return Millimetres(lengths_[l.value()]); }
    [[nodiscard]] const Attributes& attributes(LinkId l) const { return lines_->attributes[l.value()]; }
    [[nodiscard]] const std::string& name(LinkId l) const { return lines_->names.at(attributes(l).name); }
    /// Vertices from `ends(l).from` to `ends(l).to`, at least two.
    [[nodiscard]] std::span<const geo::LonLat> shape(LinkId l) const { return lines_->shape(l.value()); }
    [[nodiscard]] geo::LonLat position(NodeId n) const { return node_positions_[n.value()]; }
    [[nodiscard]] Millimetres total_length() const;
    [[nodiscard]] const geo::Box& extent() const { return extent_; }
    /// A place with its longitude counted as those of the roads are.
    [[nodiscard]] geo::LonLat near(geo::LonLat p) const { return geo::near_to(p, extent_.centre()); }
    /// Whether the source named its own joints.
    [[nodiscard]] bool joints_named() const { return !lines_->named_ends.empty(); }

    /// Links that have a run whose surrounding box touches `area`, each once; see BoxIndex::touching.
    void links_touching(const geo::Box& area, std::vector<std::uint32_t>& found) const;
    /// The same run by run, ascending. A run may come although its segments are elsewhere in its box.
    void runs_touching(const geo::Box& area, std::vector<Run>& found) const;
    /// Runs in the order of how far their boxes are, until `look` returns false; see BoxIndex::nearest_first.
    void runs_nearest_first(geo::LonLat from, const std::function<bool(const Run&, double degrees)>& look) const;
    /// All runs of a link.
    [[nodiscard]] std::vector<Run> runs_of(LinkId l) const;
    /// The length of a link's shape from its start to a vertex, added up segment by segment. Quick also in links of
    /// very many vertices.
    [[nodiscard]] double metres_to(LinkId l, std::size_t vertex) const;
    /// Names everything above.
    [[nodiscard]] const std::string& digest() const { return digest_; }
    /// What it was joined from.
    [[nodiscard]] const Lines& lines() const { return *lines_; }
    [[nodiscard]] const std::shared_ptr<const Lines>& shared_lines() const { return lines_; }

private:
    friend Network join(std::shared_ptr<const Lines> lines, const Task& task);
    std::shared_ptr<const Lines> lines_;
    std::vector<Ends> ends_;
    std::vector<std::uint32_t> lengths_;
    std::vector<geo::LonLat> node_positions_;
    /// Where a further run of a long link begins. Several with one `first` are parts of one long segment.
    struct Further {
        std::uint32_t link, first;
        double metres;  ///< from the start of the link
    };
    void index_runs();
    [[nodiscard]] Run run(std::uint32_t number) const;
    geo::Box extent_;
    std::vector<Further> further_;          ///< by link, then by first
    std::unique_ptr<geo::BoxIndex> index_;  ///< a link's first run by the link's number, further ones after
    std::string digest_;
};

/// The longest line that is believed; a reader sets longer ones aside.
inline constexpr Millimetres kLongestLine = Millimetres::metres(1'000'000);

/// Joins lines into a network. \throws Stopped; InputError if there is no line at all
Network join(Lines lines, const Task& task);
/// The same for lines that others keep too.
Network join(std::shared_ptr<const Lines> lines, const Task& task);

/// A set of roads connected to one another, one-way rules aside.
struct Piece {
    std::uint32_t links = 0;
    Millimetres length;
};

/// The pieces of the links for which `usable(link)`, the one with most links first (then the longer, then the one that
/// is first in the file), and which piece each link belongs to (`kNoPiece` for an unusable one). Linear.
inline constexpr std::uint32_t kNoPiece = 0xffffffff;
struct Pieces {
    std::vector<Piece> pieces;
    std::vector<std::uint32_t> of_link;
    std::uint32_t nodes = 0;  ///< nodes that a usable link touches
};
Pieces find_pieces(const Network& network, const std::vector<bool>& usable);

}  // namespace otoro::roads
