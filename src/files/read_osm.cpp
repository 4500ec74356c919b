#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <map>
#include <new>
#include <numeric>
#include <osmium/handler.hpp>
#include <osmium/io/any_input.hpp>
#include <osmium/osm.hpp>
#include <osmium/visitor.hpp>
#include <set>
#include <tuple>
#include <unordered_map>

#include "files/content.h"
#include "files/osm_deleted.h"
#include "files/osm_tags.h"
#include "files/read_roads.h"
#include "geo/amounts.h"
#include "geo/ellipsoid.h"
#include "geo/error.h"
#include "roads/network.h"

namespace otoro::files {
namespace {

using roads::Attributes;
using roads::OneWay;
using roads::RoadClass;

/// The ways that are roads, with the numbers of their nodes.
struct Ways : osmium::handler::Handler {
    RoadsRead& out;
    const MarkedDeleted& marked;
    std::vector<std::int64_t> refs;
    std::vector<std::size_t> first{0};
    std::vector<Attributes> attributes;
    std::vector<std::int64_t> ids;
    std::vector<std::uint32_t> versions;
    bool has_history = false;
    std::int64_t before = 0;  ///< the way met last
    std::unordered_map<std::int64_t, std::uint32_t>
        no_road;  ///< of ways that are deleted or no roads, where an earlier version may be one: the version

    Ways(RoadsRead& o, const MarkedDeleted& m) : out(o), marked(m) {}
    void way(const osmium::Way& w) {
        const bool again = !ids.empty() && w.id() == before;
        before = w.id();
        const bool deleted = !w.visible() || marked.ways.contains(w.id());
        if (!again) ++out.records;
        auto a = deleted ? std::nullopt : attributes_of(w, out.unknown_tags);
        if (!a) {
            if (deleted || again || has_history) no_road[w.id()] = std::max(no_road[w.id()], w.version());
            return;
        }
        const auto name = [&](const char* key) {
            const char* v = w.tags().get_value_by_key(key);
            return v == nullptr ? std::string_view() : std::string_view(v);
        };
        a->name = out.lines.names.add(as_utf8(name("name").empty() ? name("ref") : name("name")));
        for (const auto& n : w.nodes())
            if (refs.size() == first.back() || refs.back() != n.ref()) refs.push_back(n.ref());
        first.push_back(refs.size());
        attributes.push_back(*a);
        ids.push_back(w.id());
        versions.push_back(w.version());
    }

    /// Keeps of each way its last version, if that is a road. Files with history, and some editors' files, have
    /// several.
    void keep_last_versions() {
        // Nearly every file has one of each, in order.
        if (no_road.empty() && std::adjacent_find(ids.begin(), ids.end(),
                                                  [](std::int64_t a, std::int64_t b) { return a >= b; }) == ids.end())
            return;
        std::vector<std::size_t> order(ids.size());
        std::iota(order.begin(), order.end(), std::size_t{0});
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
            return std::tie(ids[a], versions[a]) < std::tie(ids[b], versions[b]);
        });
        std::vector<bool> gone(ids.size(), false);
        for (std::size_t i = 0; i < order.size(); ++i) {
            const std::size_t w = order[i];
            const auto later = no_road.find(ids[w]);
            gone[w] = (i + 1 < order.size() && ids[order[i + 1]] == ids[w]) ||
                      (later != no_road.end() && later->second >= versions[w]);
        }
        if (std::none_of(gone.begin(), gone.end(), [](bool g) { return g; })) return;
        std::vector<std::int64_t> kept_refs, kept_ids;
        std::vector<std::size_t> kept_first{0};
        std::vector<Attributes> kept_attributes;
        for (std::size_t w = 0; w < ids.size(); ++w) {
            if (gone[w]) continue;
            kept_refs.insert(kept_refs.end(), refs.begin() + static_cast<std::ptrdiff_t>(first[w]),
                             refs.begin() + static_cast<std::ptrdiff_t>(first[w + 1]));
            kept_first.push_back(kept_refs.size());
            kept_attributes.push_back(attributes[w]);
            kept_ids.push_back(ids[w]);
        }
        refs = std::move(kept_refs);
        first = std::move(kept_first);
        attributes = std::move(kept_attributes);
        ids = std::move(kept_ids);
    }
};

/// A turn restriction by a relation: on coming from one of some ways, over a node or over ways, one may not (or may
/// only) go onto another.
struct Restriction {
    std::int64_t relation = 0;
    std::vector<std::int64_t> from, to;
    std::optional<std::int64_t> via_node;
    std::vector<std::int64_t> via_ways;
    bool only = false, back = false;
};

/// The relations that are turn restrictions for vehicles.
struct Restrictions : osmium::handler::Handler {
    RoadsRead& out;
    const std::string& path;
    const MarkedDeleted& marked;
    struct Known {
        std::uint32_t version = 0;
        std::optional<Restriction> restriction;
        std::optional<Flaw> flaw;
    };
    std::map<std::int64_t, Known> all;

    Restrictions(RoadsRead& o, const std::string& p, const MarkedDeleted& m) : out(o), path(p), marked(m) {}
    void relation(const osmium::Relation& r) {
        const auto known = all.find(r.id());
        if (known != all.end() && known->second.version > r.version()) return;
        if (!r.visible() || marked.relations.contains(r.id())) {
            all[r.id()] = {r.version(), std::nullopt, std::nullopt};
            return;
        }
        const auto value = [&](const char* key) {
            const char* v = r.tags().get_value_by_key(key);
            return v == nullptr ? std::string_view() : std::string_view(v);
        };
        if (value("type") != "restriction") {
            if (known != all.end()) known->second = {r.version(), std::nullopt, std::nullopt};
            return;
        }
        Known now{r.version(), std::nullopt, std::nullopt};
        const auto flaw = [&](std::string wrong) {
            now.flaw = Flaw{path,
                            static_cast<std::int64_t>(r.id()),
                            fmt::format("relation {}", r.id()),
                            std::move(wrong),
                            false,
                            FlawKind::restriction,
                            std::nullopt};
        };
        read(r, value, now, flaw);
        all[r.id()] = std::move(now);
    }

    template <class Value, class Complain>
    void read(const osmium::Relation& r, Value&& value, Known& now, Complain&& flaw) {
        std::string_view kind;
        for (const char* key : {"restriction:motorcar", "restriction:motor_vehicle", "restriction"})
            if (kind.empty()) kind = value(key);
        for (const char* key : {"restriction:conditional", "restriction:motorcar:conditional",
                                "restriction:motor_vehicle:conditional", "hour_on", "day_on"})
            if (const auto hours = value(key); !hours.empty())
                return flaw(fmt::format("it forbids a turn at some hours only ('{}'); it is not obeyed",
                                        as_utf8(hours.substr(0, 60))));
        if (kind.empty()) return;  // for other vehicles
        constexpr std::array<std::string_view, 9> kKinds{"no_left_turn",   "no_right_turn",   "no_straight_on",
                                                         "no_u_turn",      "no_entry",        "no_exit",
                                                         "only_left_turn", "only_right_turn", "only_straight_on"};
        if (std::find(kKinds.begin(), kKinds.end(), kind) == kKinds.end() && kind != "only_u_turn")
            return count_unknown(out.unknown_tags, "restriction", kind);
        for (std::string_view rest = value("except"); !rest.empty();) {
            const auto end = std::min(rest.find(';'), rest.size());
            std::string_view word = rest.substr(0, end);
            while (!word.empty() && word.front() == ' ') word.remove_prefix(1);
            if (word == "motorcar" || word == "motor_vehicle") return;
            rest.remove_prefix(std::min(end + 1, rest.size()));
        }
        Restriction found;
        found.relation = r.id();
        found.only = kind.starts_with("only_");
        found.back = kind == "no_u_turn";
        int vias = 0;
        for (const auto& m : r.members()) {
            const std::string_view role = m.role();
            if (role == "from" && m.type() == osmium::item_type::way) found.from.push_back(m.ref());
            if (role == "to" && m.type() == osmium::item_type::way) found.to.push_back(m.ref());
            if (role == "via" && m.type() == osmium::item_type::node) found.via_node = m.ref(), ++vias;
            if (role == "via" && m.type() == osmium::item_type::way) found.via_ways.push_back(m.ref());
        }
        const bool over_one_thing = (vias == 1 && found.via_ways.empty()) || (vias == 0 && !found.via_ways.empty());
        const bool one_from = found.from.size() == 1 || (kind == "no_entry" && !found.from.empty());
        const bool one_to = found.to.size() == 1 || (kind == "no_exit" && !found.to.empty());
        if (!over_one_thing || !one_from || !one_to)
            return flaw(
                "it forbids a turn in a way that is not read (not from one way over a node or over ways to one "
                "way); it is not obeyed");
        now.restriction = std::move(found);
    }
};

/// Where the wanted nodes are.
struct Nodes : osmium::handler::Handler {
    const std::vector<std::int64_t>& wanted;  // sorted
    std::vector<geo::LonLat> positions;
    std::vector<bool> found;
    std::vector<bool> signalled;

    std::vector<std::uint32_t> versions;
    const MarkedDeleted& marked;

    Nodes(const std::vector<std::int64_t>& w, const MarkedDeleted& m)
        : wanted(w), positions(w.size()), found(w.size()), signalled(w.size()), versions(w.size()), marked(m) {}
    void node(const osmium::Node& n) {
        const auto at = std::lower_bound(wanted.begin(), wanted.end(), n.id());
        if (at == wanted.end() || *at != n.id()) return;
        const auto i = static_cast<std::size_t>(at - wanted.begin());
        if (n.version() < versions[i]) return;  // superseded
        versions[i] = n.version();
        found[i] = n.visible() && n.location().valid() && !marked.nodes.contains(n.id());
        if (!found[i]) return;
        positions[i] = {n.location().lon(), n.location().lat()};
        const char* highway = n.tags().get_value_by_key("highway");
        signalled[i] = highway != nullptr && std::string_view(highway) == "traffic_signals";
    }
};

/// Cuts ways into links at shared nodes and at nodes that the file does not have.
class Cutter {
public:
    Cutter(const Ways& ways, const Nodes& nodes, const std::string& path, RoadsRead& out)
        : ways_(ways), nodes_(nodes), path_(path), out_(out), uses_(nodes.wanted.size()) {
        for (std::size_t w = 0; w + 1 < ways.first.size(); ++w) {
            const std::size_t begin = ways.first[w];
            const std::size_t end = ways.first[w + 1];
            for (std::size_t i = begin; i < end; ++i) {
                auto& uses = uses_[index(ways.refs[i])];
                uses = static_cast<std::uint8_t>(std::min(uses + (i == begin || i + 1 == end ? 2 : 1), 2));
            }
        }
    }

    void cut(std::size_t w) {
        std::size_t missing = 0;
        part_.clear();
        for (std::size_t i = ways_.first[w]; i < ways_.first[w + 1]; ++i) {
            const std::size_t n = index(ways_.refs[i]);
            if (!nodes_.found[n]) {
                ++missing;
                finish(w);
                part_.clear();
                continue;
            }
            part_.push_back(n);
            if (part_.size() > 1 && uses_[n] >= 2) {
                finish(w);
                part_.assign(1, n);
            }
        }
        finish(w);
        const auto id = fmt::format("way {}", ways_.ids[w]);
        if (missing > 0)
            out_.flaws.push_back({path_, static_cast<std::int64_t>(w), id,
                                  fmt::format("{} of its points are not in the file; the way is cut there", missing),
                                  false, FlawKind::shape, std::nullopt});
        if (ways_.first[w + 1] - ways_.first[w] < 2)
            out_.flaws.push_back({path_, static_cast<std::int64_t>(w), id, "it has fewer than two points", true,
                                  FlawKind::shape, std::nullopt});
    }

    /// Turns what relations forbid into forbidden moves between lines, and into forbidden paths over several. To be
    /// called when all ways are cut. A relation whose ways meet one another in so many places that it cannot be told in
    /// `kMostLooks` looks what it forbids is a flaw; a file that forbids more than roads can have is refused.
    /// \throws InputError, Stopped
    void forbid(const std::vector<Restriction>& all, const Task& task) {
        task_ = &task;
        for (const auto& r : all) {
            for (const auto* ways : {&r.from, &r.to, &r.via_ways})
                for (const auto w : *ways) of_way_[w];
            if (r.via_node)
                if (const auto n = known_index(*r.via_node)) at_node_[*n];
        }
        for (std::uint32_t l = 0; l < out_.lines.count(); ++l)
            if (const auto w = of_way_.find(way_of_line_[l]); w != of_way_.end()) w->second.push_back(l);
        std::vector<std::optional<Over>> over(all.size());
        for (std::size_t i = 0; i < all.size(); ++i) {
            if (all[i].via_ways.empty()) continue;
            looks_left_ = kMostLooks;
            over[i] = over_ways(all[i]);
            if (over[i]) at_node_[over[i]->end];
            if (looks_left_ == 0) too_many_meetings(all[i]);
        }
        for (std::uint32_t l = 0; l < out_.lines.count(); ++l) {
            const auto e = out_.lines.named_ends[l];
            for (const std::uint32_t n : {e.from, e.to})
                if (const auto at = at_node_.find(n);
                    at != at_node_.end() && (at->second.empty() || at->second.back() != l))
                    at->second.push_back(l);
        }
        for (std::size_t i = 0; i < all.size(); ++i) {
            const Restriction& r = all[i];
            task.check();
            if (r.via_ways.empty() ? forbid_at_node(r) : over[i] && forbid_over_ways(r, *over[i])) continue;
            if (!unclear_.contains(r.relation))
                not_obeyed(r, "it forbids a turn between ways that do not meet as it says, or are no roads");
        }
        auto& bans = out_.lines.bans;
        std::sort(bans.begin(), bans.end());
        bans.erase(std::unique(bans.begin(), bans.end()), bans.end());
        auto& paths = out_.lines.banned_paths;
        std::sort(paths.begin(), paths.end());
        paths.erase(std::unique(paths.begin(), paths.end()), paths.end());
    }

    /// Traffic signals at ends of links; one between counts for the end that it stands before, if that is within 50 m.
    void place_signals() {
        constexpr double kBefore = 50;
        auto& at = out_.lines.traffic_signals;
        for (const auto& [line, position] : between_) {
            const auto shape = out_.lines.shape(line);
            const auto vertex =
                static_cast<std::size_t>(std::find(shape.begin(), shape.end(), position) - shape.begin());
            const double before = geo::line_length(shape.first(vertex + 1)).metres(),
                         after = geo::line_length(shape.subspan(vertex)).metres();
            if (std::min(before, after) <= kBefore) at.push_back(before <= after ? shape.front() : shape.back());
        }
        std::sort(at.begin(), at.end(),
                  [](geo::LonLat a, geo::LonLat b) { return a.lon != b.lon ? a.lon < b.lon : a.lat < b.lat; });
        at.erase(std::unique(at.begin(), at.end()), at.end());
    }

    void begin_way() { way_begin_ = out_.lines.count(); }
    void end_way(const Attributes& a) { share_times(out_.lines, way_begin_, a.fixed_ms, 0); }

private:
    using Ways_ = std::vector<roads::LineWay>;

    // What OpenStreetMap itself admits needs some thousand looks a relation, and a continent has a million of them.
    static constexpr std::size_t kMostLooks = 10'000'000, kMostBans = 20'000'000, kMostLinesOfPaths = 4'000'000;

    void not_obeyed(const Restriction& r, std::string wrong) {
        out_.flaws.push_back({path_, r.relation, fmt::format("relation {}", r.relation),
                              std::move(wrong) + "; it is not obeyed", false, FlawKind::restriction, std::nullopt});
    }
    void too_many_meetings(const Restriction& r) {
        if (unclear_.insert(r.relation).second)
            not_obeyed(r, "it forbids a turn between ways that meet in too many places to tell which is meant");
    }

    /// Counts looks, and asks now and then whether to stop. False when a relation has had all of its.
    [[nodiscard]] bool look(std::size_t times = 1) const {
        constexpr std::size_t kAsk = 1 << 16U;
        if (looks_left_ / kAsk != (looks_left_ - std::min(looks_left_, times)) / kAsk) task_->check();
        looks_left_ -= std::min(looks_left_, times);
        return looks_left_ > 0;
    }

    void check_forbidden(std::size_t more_bans, std::size_t more_lines) const {
        if (out_.lines.bans.size() + more_bans > kMostBans || lines_of_paths_ + more_lines > kMostLinesOfPaths)
            throw InputError({path_, std::nullopt, "it forbids more turns than any roads have",
                              "Ask for it again; this one was made to fill memory"});
    }

    /// All that leave a node but those.
    [[nodiscard]] Ways_ others_from(std::uint32_t node, Ways_ those) const {
        Ways_ out;
        for (const std::uint32_t l : at_node_.at(node)) leaving_from(l, node, out);
        std::sort(those.begin(), those.end());
        std::erase_if(out, [&](roads::LineWay o) { return std::binary_search(those.begin(), those.end(), o); });
        return out;
    }

    bool forbid_at_node(const Restriction& r) {
        const auto via = known_index(*r.via_node);
        if (!via) return false;
        bool any = false;
        for (const auto from_way : r.from)
            for (const auto to_way : r.to) {
                Ways_ from, to;
                for (const std::uint32_t l : of_way_[from_way]) coming_to(l, *via, from);
                for (const std::uint32_t l : of_way_[to_way]) leaving_from(l, *via, to);
                any = any || (!from.empty() && !to.empty());
                if (r.only && !to.empty()) to = others_from(*via, std::move(to));
                check_forbidden(from.size() * to.size(), 0);
                for (const auto f : from)
                    for (const auto t : to) {
                        // On a way that runs through the node, turning back is onto the line that one came by, and not
                        // straight on.
                        const bool is_back = f.line() == t.line();
                        if (r.back && from_way == to_way && !is_back) continue;
                        out_.lines.bans.push_back({f, t});
                    }
            }
        return any;
    }

    /// The lines of ways between the way one comes from and the one one goes to.
    struct Over {
        std::uint32_t begin = 0, end = 0;  // nodes
        Ways_ lines;
    };

    /// The lines of a way from one of its nodes to another, the fewer of both directions; nothing if it does not lead
    /// there, or if there are no looks left.
    [[nodiscard]] std::optional<Ways_> along_way(std::int64_t way, std::uint32_t from, std::uint32_t to) const {
        const auto& lines = of_way_.at(way);
        std::optional<Ways_> best;
        for (const bool against : {false, true})
            for (std::size_t start = 0; start < lines.size(); ++start) {
                Ways_ path;
                std::uint32_t at = from;
                for (std::size_t step = 0; step < lines.size() && (step == 0 || at != to); ++step) {
                    if (!look()) return std::nullopt;
                    const std::size_t i =
                        against ? (start + lines.size() - step) % lines.size() : (start + step) % lines.size();
                    const auto e = out_.lines.named_ends[lines[i]];
                    if ((against ? e.to : e.from) != at) break;
                    path.push_back(against ? roads::LineWay::against(lines[i]) : roads::LineWay::along(lines[i]));
                    at = against ? e.from : e.to;
                }
                if (!path.empty() && at == to && (!best || path.size() < best->size())) best = std::move(path);
            }
        return best;
    }

    /// Nodes at which lines of both ways begin or end, as the first has them.
    [[nodiscard]] std::vector<std::uint32_t> common_nodes(std::int64_t a, std::int64_t b) const {
        std::set<std::uint32_t> of_b;
        for (const auto l : of_way_.at(b)) of_b.insert({out_.lines.named_ends[l].from, out_.lines.named_ends[l].to});
        std::vector<std::uint32_t> out;
        for (const auto l : of_way_.at(a))
            for (const std::uint32_t n : {out_.lines.named_ends[l].from, out_.lines.named_ends[l].to})
                if (look() && of_b.erase(n) > 0) out.push_back(n);
        return out;
    }

    /// The way over a restriction's ways, the fewest lines if there are several. Of those that come to one node only
    /// the shortest is gone on from, so that ways which meet often do not multiply.
    [[nodiscard]] std::optional<Over> over_ways(const Restriction& r) const {
        std::vector<std::int64_t> chain{r.from.front()};
        chain.insert(chain.end(), r.via_ways.begin(), r.via_ways.end());
        chain.push_back(r.to.front());
        std::vector<Over> so_far;
        for (const auto n : common_nodes(chain[0], chain[1])) so_far.push_back({n, n, {}});
        for (std::size_t i = 1; i + 1 < chain.size(); ++i) {
            std::vector<Over> next;
            for (const auto n : common_nodes(chain[i], chain[i + 1])) {
                std::optional<Over> best;
                for (const Over& o : so_far) {
                    const auto lines = n == o.end ? std::nullopt : along_way(chain[i], o.end, n);
                    if (!lines || (best && o.lines.size() + lines->size() >= best->lines.size())) continue;
                    if (!look(o.lines.size() + lines->size())) return std::nullopt;
                    best = Over{o.begin, n, o.lines};
                    best->lines.insert(best->lines.end(), lines->begin(), lines->end());
                }
                if (best) next.push_back(std::move(*best));
            }
            so_far = std::move(next);
        }
        if (so_far.empty() || looks_left_ == 0) return std::nullopt;
        return *std::min_element(so_far.begin(), so_far.end(),
                                 [](const Over& a, const Over& b) { return a.lines.size() < b.lines.size(); });
    }

    bool forbid_over_ways(const Restriction& r, const Over& over) {
        Ways_ from, to;
        for (const std::uint32_t l : of_way_[r.from.front()]) coming_to(l, over.begin, from);
        for (const std::uint32_t l : of_way_[r.to.front()]) leaving_from(l, over.end, to);
        if (from.empty() || to.empty()) return false;
        if (r.only) to = others_from(over.end, std::move(to));
        const std::size_t lines = from.size() * to.size() * (over.lines.size() + 2);
        check_forbidden(0, lines);
        lines_of_paths_ += lines;
        for (const auto f : from)
            for (const auto t : to) {
                Ways_ path{f};
                path.insert(path.end(), over.lines.begin(), over.lines.end());
                path.push_back(t);
                out_.lines.banned_paths.push_back(std::move(path));
            }
        return true;
    }

    [[nodiscard]] std::size_t index(std::int64_t ref) const {
        return static_cast<std::size_t>(std::lower_bound(nodes_.wanted.begin(), nodes_.wanted.end(), ref) -
                                        nodes_.wanted.begin());
    }
    [[nodiscard]] std::optional<std::uint32_t> known_index(std::int64_t ref) const {
        const auto i = index(ref);
        return i < nodes_.wanted.size() && nodes_.wanted[i] == ref ? std::optional(static_cast<std::uint32_t>(i))
                                                                   : std::nullopt;
    }
    /// The ways of travelling a line that end at a node, and those that start there.
    void coming_to(std::uint32_t line, std::uint32_t node, std::vector<roads::LineWay>& out) const {
        const auto e = out_.lines.named_ends[line];
        if (e.to == node) out.push_back(roads::LineWay::along(line));
        if (e.from == node) out.push_back(roads::LineWay::against(line));
    }
    void leaving_from(std::uint32_t line, std::uint32_t node, std::vector<roads::LineWay>& out) const {
        const auto e = out_.lines.named_ends[line];
        if (e.from == node) out.push_back(roads::LineWay::along(line));
        if (e.to == node) out.push_back(roads::LineWay::against(line));
    }
    void finish(std::size_t w) {
        if (part_.size() < 2) return;
        // Two nodes at one position are one vertex: between them there is no direction.
        shape_.clear();
        for (const std::size_t n : part_)
            if (shape_.empty() || !(shape_.back() == nodes_.positions[n])) shape_.push_back(nodes_.positions[n]);
        if (std::any_of(shape_.begin(), shape_.end(), [](geo::LonLat p) { return std::abs(p.lat) > kFarthestNorth; })) {
            out_.flaws.push_back({path_, static_cast<std::int64_t>(w), fmt::format("way {}", ways_.ids[w]), kNearPole,
                                  true, FlawKind::shape, std::nullopt});
            return;
        }
        if (too_long_for_a_road(shape_)) {
            out_.flaws.push_back({path_, static_cast<std::int64_t>(w), fmt::format("way {}", ways_.ids[w]),
                                  fmt::format("it is over {} long between two others", describe(roads::kLongestLine)),
                                  true, FlawKind::shape, std::nullopt});
            return;
        }
        if (shape_.size() < 2) shape_.push_back(shape_.back());  // the joint must stay
        for (std::size_t i = 0; i < part_.size(); ++i) {
            if (!nodes_.signalled[part_[i]]) continue;
            const auto position = nodes_.positions[part_[i]];
            if (i == 0 || i + 1 == part_.size())
                out_.lines.traffic_signals.push_back(position);
            else
                between_.emplace_back(out_.lines.count(), position);
        }
        way_of_line_.push_back(ways_.ids[w]);
        out_.lines.add(shape_, ways_.attributes[w]);
        out_.lines.named_ends.push_back(
            {static_cast<std::uint32_t>(part_.front()), static_cast<std::uint32_t>(part_.back())});
    }

    const Ways& ways_;
    const Nodes& nodes_;
    const std::string& path_;
    RoadsRead& out_;
    std::vector<std::uint8_t> uses_;
    std::vector<std::size_t> part_;
    std::vector<geo::LonLat> shape_;
    std::uint32_t way_begin_ = 0;
    std::vector<std::int64_t> way_of_line_;
    std::unordered_map<std::int64_t, std::vector<std::uint32_t>> of_way_;    // lines of ways that restrictions name
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> at_node_;  // lines at nodes where they end
    std::vector<std::pair<std::uint32_t, geo::LonLat>> between_;             // signals inside lines
    const Task* task_ = nullptr;
    mutable std::size_t looks_left_ = 0;  // of the relation in hand
    std::size_t lines_of_paths_ = 0;
    std::set<std::int64_t> unclear_;  // relations that are not obeyed, and why is said
};

/// Runs one pass over the file, in blocks, so that it can be stopped.
template <class Handler>
void pass(const std::string& path, osmium::osm_entity_bits::type kinds, Handler& handler, const Task& task, double from,
          double to, bool* has_history = nullptr) {
    const ByRightName name(path, content_of(path));
    osmium::io::Reader reader{osmium::io::File(name.path()), kinds};
    if (has_history != nullptr) *has_history = reader.header().has_multiple_object_versions();
    // A compressed file of a kilobyte may unpack to terabytes: nobody's roads do.
    constexpr double kMostUnpacked = 400, kAlways = 2e9;
    double unpacked = 0;
    while (osmium::memory::Buffer buffer = reader.read()) {
        unpacked += static_cast<double>(buffer.committed());
        if (unpacked > std::max(kAlways, kMostUnpacked * static_cast<double>(reader.file_size())))
            throw InputError({path, std::nullopt, "it unpacks to far more than a file of its size can hold",
                              "Ask for it again; this one was made to fill memory"});
        const double size = static_cast<double>(std::max<std::size_t>(reader.file_size(), 1));
        task.at("reading roads", from + (to - from) * std::min(1.0, static_cast<double>(reader.offset()) / size));
        osmium::apply(buffer, handler);
    }
    reader.close();
}

}  // namespace

RoadsRead read_osm_roads(const std::string& path, const Task& task) {
    RoadsRead out;
    out.fields.road_class = "highway";
    out.fields.name = "name";
    out.fields.speed = "maxspeed";
    out.fields.one_way = "oneway";
    const auto refuse = [&](std::string wrong, std::string remedy) {
        throw InputError({path, std::nullopt, std::move(wrong), std::move(remedy)});
    };
    std::error_code error;
    if (!std::filesystem::is_regular_file(path, error))
        refuse("there is no such file", "Check the name and the folder");
    if (std::filesystem::file_size(path, error) == 0) refuse("the file is empty", "Ask for it again");
    const MarkedDeleted marked = marked_deleted(path);
    Ways ways(out, marked);
    std::vector<std::int64_t> wanted;
    try {
        pass(path, osmium::osm_entity_bits::way, ways, task, 0.0, 0.5, &ways.has_history);
        ways.keep_last_versions();
        wanted = ways.refs;
        std::sort(wanted.begin(), wanted.end());
        wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
        Nodes nodes(wanted, marked);
        pass(path, osmium::osm_entity_bits::node, nodes, task, 0.5, 0.9);
        Cutter cutter(ways, nodes, path, out);
        for (std::size_t w = 0; w < ways.ids.size(); ++w) {
            if (w % 1024 == 0) task.check();
            cutter.begin_way();
            cutter.cut(w);
            cutter.end_way(ways.attributes[w]);
        }
        cutter.place_signals();
        Restrictions restrictions(out, path, marked);
        pass(path, osmium::osm_entity_bits::relation, restrictions, task, 0.9, 1.0);
        std::vector<Restriction> obeyed;
        for (auto& [id, known] : restrictions.all) {
            if (known.flaw) out.flaws.push_back(*known.flaw);
            if (known.restriction) obeyed.push_back(std::move(*known.restriction));
        }
        if (!obeyed.empty()) cutter.forbid(obeyed, task);
    } catch (const Stopped&) {
        throw;
    } catch (const InputError&) {
        throw;
    } catch (const std::bad_alloc&) {
        throw;  // the file need not be damaged
    } catch (const std::exception& e) {
        refuse(fmt::format("it cannot be read as OpenStreetMap data ({})", e.what()),
               "It may be damaged or broken off; ask for it again");
    }
    if (out.lines.count() == 0)
        refuse(fmt::format("none of its {} ways is a road with points in the file", out.records),
               "Add a file with highways and their nodes");
    return out;
}

}  // namespace otoro::files
