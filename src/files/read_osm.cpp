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
#include <tuple>
#include <unordered_map>

#include "files/content.h"
#include "files/osm_deleted.h"
#include "files/osm_tags.h"
#include "files/osm_turns.h"
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

/// The relations that are turn restrictions for vehicles.
struct Restrictions : osmium::handler::Handler {
    RoadsRead& out;
    const std::string& path;
    const MarkedDeleted& marked;
    struct Known {
        std::uint32_t version = 0;
        std::optional<OsmRestriction> restriction;
        std::optional<Flaw> flaw;
    };
    std::map<std::int64_t, Known> all;
    std::int64_t met_ = 0;  ///< relations, whatever they are

    Restrictions(RoadsRead& o, const std::string& p, const MarkedDeleted& m) : out(o), path(p), marked(m) {}
    void relation(const osmium::Relation& r) {
        ++met_;
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
                            met_ - 1,
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
        OsmRestriction found;
        found.relation = r.id();
        found.record = met_ - 1;
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

    /// By line, the way that it is of.
    [[nodiscard]] const std::vector<std::int64_t>& way_of_line() const { return way_of_line_; }

    void begin_way() { way_begin_ = out_.lines.count(); }
    void end_way(const Attributes& a) { share_times(out_.lines, way_begin_, a.fixed_ms, 0); }

private:
    [[nodiscard]] std::size_t index(std::int64_t ref) const {
        return static_cast<std::size_t>(std::lower_bound(nodes_.wanted.begin(), nodes_.wanted.end(), ref) -
                                        nodes_.wanted.begin());
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
    std::vector<std::pair<std::uint32_t, geo::LonLat>> between_;  // signals inside lines
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
        std::vector<OsmRestriction> obeyed;
        for (auto& [id, known] : restrictions.all) {
            if (known.flaw) out.flaws.push_back(*known.flaw);
            if (known.restriction) obeyed.push_back(std::move(*known.restriction));
        }
        if (!obeyed.empty()) forbid_turns(obeyed, cutter.way_of_line(), wanted, path, out, task);
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
