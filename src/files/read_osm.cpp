#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <unordered_map>
#include <osmium/handler.hpp>
#include <osmium/io/any_input.hpp>
#include <osmium/osm.hpp>
#include <osmium/visitor.hpp>

#include "files/content.h"
#include "files/read_roads.h"
#include "geo/ellipsoid.h"
#include "geo/amounts.h"
#include "geo/error.h"
#include "roads/network.h"

namespace otoro::files {
namespace {

using roads::Attributes;
using roads::OneWay;
using roads::RoadClass;

constexpr std::uint32_t kMaxspeedPerMille = 850;

std::string_view tag(const osmium::Way& way, const char* key) {
    const char* v = way.tags().get_value_by_key(key);
    return v == nullptr ? std::string_view() : std::string_view(v);
}

/// The value of the most specific of these keys that the way has.
std::string_view most_specific(const osmium::Way& way, std::initializer_list<const char*> keys) {
    for (const char* key : keys)
        if (const auto v = tag(way, key); !v.empty()) return v;
    return {};
}

/// `50`, `50 km/h`, `30 mph`; nothing for `none`, `signals` and the like.
std::optional<Speed> maxspeed(std::string_view text) {
    const auto unit = std::find_if(text.begin(), text.end(), [](char c) { return (c < '0' || c > '9') && c != '.'; });
    double v = 0;
    if (!parse_number(text.substr(0, static_cast<std::size_t>(unit - text.begin())), v)) return std::nullopt;
    std::string_view rest = text.substr(static_cast<std::size_t>(unit - text.begin()));
    while (!rest.empty() && rest.front() == ' ') rest.remove_prefix(1);
    const bool mph = rest == "mph";
    if (!mph && !rest.empty() && rest != "km/h" && rest != "kmh" && rest != "kph") return std::nullopt;
    const double kmh = mph ? v * 1.609344 : v;
    if (kmh < kSlowestKmh || kmh > kFastestKmh) return std::nullopt;
    return mph ? Speed::miles_per_hour(v) : Speed::km_per_hour(v);
}

/// `0:20` or `1:05:30` in seconds; nothing for anything else.
std::optional<double> clock_seconds(std::string_view text) {
    double seconds = 0;
    int parts = 0;
    for (bool more = true; more; ++parts) {
        const auto colon = text.find(':');
        double v = 0;
        if (parts == 3 || !parse_number(text.substr(0, colon), v) || v < 0) return std::nullopt;
        seconds = seconds * 60 + v;
        more = colon != std::string_view::npos;
        if (more) text.remove_prefix(colon + 1);
    }
    if (parts < 2) return std::nullopt;
    return parts == 2 ? seconds * 60 : seconds;
}

/// ISO 8601: `PT20M`, `PT1H5M`, `P1D`.
std::optional<double> iso_seconds(std::string_view text) {
    if (text.empty() || text.front() != 'P') return std::nullopt;
    double seconds = 0;
    std::size_t begin = 1;
    for (std::size_t i = 1; i < text.size(); ++i) {
        if (text[i] == 'T') begin = i + 1;
        if ((text[i] >= '0' && text[i] <= '9') || text[i] == '.' || text[i] == 'T') continue;
        const double unit = text[i] == 'D' ? 86'400 : text[i] == 'H' ? 3600 : text[i] == 'M' ? 60 : text[i] == 'S' ? 1 : 0;
        double v = 0;
        if (unit == 0 || !parse_number(text.substr(begin, i - begin), v)) return std::nullopt;
        seconds += v * unit;
        begin = i + 1;
    }
    return begin == text.size() ? std::optional(seconds) : std::nullopt;
}

/// `00:20`, `1:05:30`, `PT20M`, or minutes as a number; 0 for anything else.
std::uint32_t duration_ms(std::string_view text) {
    double minutes = 0;
    std::optional<double> seconds = clock_seconds(text);
    if (!seconds) seconds = iso_seconds(text);
    if (!seconds && parse_number(text, minutes)) seconds = minutes * 60;
    return static_cast<std::uint32_t>(std::llround(std::clamp(seconds.value_or(0), 0.0, 1'000'000.0) * 1000));
}

OneWay drive_one_way(const osmium::Way& way, std::string_view highway) {
    const auto v = tag(way, "oneway");
    if (v == "yes" || v == "1" || v == "true") return OneWay::along;
    if (v == "-1" || v == "reverse") return OneWay::against;
    if (!v.empty()) return OneWay::both;
    return highway == "motorway" || tag(way, "junction") == "roundabout" ? OneWay::along : OneWay::both;
}

OneWay cycle_one_way(const osmium::Way& way, OneWay drive) {
    if (tag(way, "oneway:bicycle") == "no") return OneWay::both;
    for (const char* key : {"cycleway", "cycleway:left", "cycleway:right", "cycleway:both"})
        if (tag(way, key).starts_with("opposite")) return OneWay::both;
    for (const char* key : {"cycleway:left:oneway", "cycleway:right:oneway"})
        if (const auto v = tag(way, key); v == "-1" || v == "no") return OneWay::both;
    return drive;
}

/// What the tags of a way come to; nothing if it is no road that anybody here travels.
std::optional<Attributes> attributes_of(const osmium::Way& way) {
    const auto highway = tag(way, "highway");
    const bool ferry = tag(way, "route") == "ferry";
    if (tag(way, "area") == "yes") return std::nullopt;
    Attributes a;
    if (!highway.empty()) {
        const auto parsed = roads::parse_class(highway);
        if (parsed && parsed->road_class < RoadClass::ferry) {
            a.road_class = parsed->road_class;
            a.flags = parsed->ramp ? static_cast<std::uint8_t>(roads::kRamp) : std::uint8_t{0};
        } else if (!ferry) {
            return std::nullopt;
        }
    }
    if (ferry && (highway.empty() || a.road_class == RoadClass::other)) {
        a.road_class = RoadClass::ferry;
        a.fixed_ms = duration_ms(tag(way, "duration"));
    } else if (highway.empty()) {
        return std::nullopt;
    }
    if (most_specific(way, {"motor_vehicle", "vehicle", "access"}) == "no") a.barred |= roads::kBarredDrive;
    if (most_specific(way, {"foot", "access"}) == "no") a.barred |= roads::kBarredWalk;
    const auto bicycle = most_specific(way, {"bicycle", "vehicle", "access"});
    if (bicycle == "no") a.barred |= roads::kBarredCycle;
    if (tag(way, "bicycle") == "yes" || tag(way, "bicycle") == "designated") a.flags |= roads::kCycleAllowed;
    const OneWay drive = drive_one_way(way, highway);
    a.set_one_way(drive, cycle_one_way(way, drive));
    double layer = 0;
    if (parse_number(tag(way, "layer"), layer)) a.set_level(static_cast<int>(std::clamp(layer, -8.0, 7.0)));
    if (a.road_class != RoadClass::ferry)
        if (const auto limit = maxspeed(tag(way, "maxspeed"))) a.drive_speed = limit->scaled(kMaxspeedPerMille);
    return a;
}

/// The ways that are roads, with the numbers of their nodes.
struct Ways : osmium::handler::Handler {
    RoadsRead& out;
    std::vector<std::int64_t> refs;
    std::vector<std::size_t> first{0};
    std::vector<Attributes> attributes;
    std::vector<std::int64_t> ids;

    explicit Ways(RoadsRead& o) : out(o) {}
    void way(const osmium::Way& w) {
        ++out.records;
        auto a = attributes_of(w);
        if (!a) return;
        const auto name = tag(w, "name");
        a->name = out.lines.names.add(name.empty() ? tag(w, "ref") : name);
        for (const auto& n : w.nodes())
            if (refs.size() == first.back() || refs.back() != n.ref()) refs.push_back(n.ref());
        first.push_back(refs.size());
        attributes.push_back(*a);
        ids.push_back(w.id());
    }
};

/// A turn restriction by a relation: on coming from one way, one may not (or may only) go onto another at a node.
struct Restriction {
    std::int64_t relation = 0, from = 0, via = 0, to = 0;
    bool only = false;
};

/// The relations that are turn restrictions for vehicles.
struct Restrictions : osmium::handler::Handler {
    RoadsRead& out;
    const std::string& path;
    std::vector<Restriction> all;

    Restrictions(RoadsRead& o, const std::string& p) : out(o), path(p) {}
    void relation(const osmium::Relation& r) {
        const auto value = [&](const char* key) {
            const char* v = r.tags().get_value_by_key(key);
            return v == nullptr ? std::string_view() : std::string_view(v);
        };
        if (value("type") != "restriction") return;
        const std::string_view kind = value("restriction").empty() ? value("restriction:motorcar") : value("restriction");
        const bool only = kind.starts_with("only_");
        if (!only && !kind.starts_with("no_")) return;
        if (value("except").find("motorcar") != std::string_view::npos) return;
        Restriction found{r.id(), 0, 0, 0, only};
        int froms = 0, tos = 0, vias = 0;
        for (const auto& m : r.members()) {
            const std::string_view role = m.role();
            if (role == "from" && m.type() == osmium::item_type::way) found.from = m.ref(), ++froms;
            if (role == "to" && m.type() == osmium::item_type::way) found.to = m.ref(), ++tos;
            if (role == "via" && m.type() == osmium::item_type::node) found.via = m.ref(), ++vias;
        }
        if (froms == 1 && tos == 1 && vias == 1) return all.push_back(found);
        out.flaws.push_back({path, static_cast<std::int64_t>(r.id()), fmt::format("relation {}", r.id()), "it forbids a turn in a way that is not read (not from one way over one node to one way); it is not obeyed", false,
                             FlawKind::restriction, std::nullopt});
    }
};

/// Where the wanted nodes are.
struct Nodes : osmium::handler::Handler {
    const std::vector<std::int64_t>& wanted;  // sorted
    std::vector<geo::LonLat> positions;
    std::vector<bool> found;
    std::vector<bool> signalled;

    explicit Nodes(const std::vector<std::int64_t>& w) : wanted(w), positions(w.size()), found(w.size()), signalled(w.size()) {}
    void node(const osmium::Node& n) {
        const auto at = std::lower_bound(wanted.begin(), wanted.end(), n.id());
        if (at == wanted.end() || *at != n.id() || !n.location().valid()) return;
        const auto i = static_cast<std::size_t>(at - wanted.begin());
        positions[i] = {n.location().lon(), n.location().lat()};
        found[i] = true;
        const char* highway = n.tags().get_value_by_key("highway");
        signalled[i] = highway != nullptr && std::string_view(highway) == "traffic_signals";
    }
};

/// Cuts ways into links at shared nodes and at nodes that the file does not have.
class Cutter {
public:
    Cutter(const Ways& ways, const Nodes& nodes, const std::string& path, RoadsRead& out) : ways_(ways), nodes_(nodes), path_(path), out_(out), uses_(nodes.wanted.size()) {
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
            out_.flaws.push_back({path_, static_cast<std::int64_t>(w), id, fmt::format("{} of its points are not in the file; the way is cut there", missing), false, FlawKind::shape, std::nullopt});
        if (ways_.first[w + 1] - ways_.first[w] < 2) out_.flaws.push_back({path_, static_cast<std::int64_t>(w), id, "it has fewer than two points", true, FlawKind::shape, std::nullopt});
    }

    /// Turns what relations forbid into forbidden moves between lines. To be called when all ways are cut.
    void forbid(const std::vector<Restriction>& all) {
        std::unordered_map<std::int64_t, std::vector<std::uint32_t>> of_way;
        for (const auto& r : all) of_way[r.from], of_way[r.to];
        std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> at_node;
        for (const auto& r : all)
            if (const auto n = known_index(r.via)) at_node[*n];
        for (std::uint32_t l = 0; l < out_.lines.count(); ++l) {
            if (const auto w = of_way.find(way_of_line_[l]); w != of_way.end()) w->second.push_back(l);
            const auto e = out_.lines.named_ends[l];
            for (const std::uint32_t n : {e.from, e.to})
                if (const auto at = at_node.find(n); at != at_node.end() && (at->second.empty() || at->second.back() != l)) at->second.push_back(l);
        }
        auto& bans = out_.lines.bans;
        for (const auto& r : all) {
            const auto via = known_index(r.via);
            std::vector<roads::LineWay> from, to;
            if (via) {
                for (const std::uint32_t l : of_way[r.from]) coming_to(l, *via, from);
                for (const std::uint32_t l : of_way[r.to]) leaving_from(l, *via, to);
            }
            if (from.empty() || to.empty()) {
                out_.flaws.push_back({path_, r.relation, fmt::format("relation {}", r.relation), "it forbids a turn between ways that do not meet at its node, or are no roads; it is not obeyed", false, FlawKind::restriction,
                                      std::nullopt});
                continue;
            }
            if (r.only) {
                std::vector<roads::LineWay> others;
                for (const std::uint32_t l : at_node[*via]) leaving_from(l, *via, others);
                std::erase_if(others, [&](roads::LineWay o) { return std::find(to.begin(), to.end(), o) != to.end(); });
                to = others;
            }
            for (const auto f : from)
                for (const auto t : to) bans.push_back({f, t});
        }
        std::sort(bans.begin(), bans.end());
        bans.erase(std::unique(bans.begin(), bans.end()), bans.end());
    }

    /// Traffic signals at ends of links; one between counts for the end that it stands before, if that is within 50 m.
    void place_signals() {
        constexpr double kBefore = 50;
        auto& at = out_.lines.traffic_signals;
        for (const auto& [line, position] : between_) {
            const auto shape = out_.lines.shape(line);
            const auto vertex = static_cast<std::size_t>(std::find(shape.begin(), shape.end(), position) - shape.begin());
            const double before = geo::line_length(shape.first(vertex + 1)).metres(), after = geo::line_length(shape.subspan(vertex)).metres();
            if (std::min(before, after) <= kBefore) at.push_back(before <= after ? shape.front() : shape.back());
        }
        std::sort(at.begin(), at.end(), [](geo::LonLat a, geo::LonLat b) { return a.lon != b.lon ? a.lon < b.lon : a.lat < b.lat; });
        at.erase(std::unique(at.begin(), at.end()), at.end());
    }

    /// Shares a ferry's duration among the parts of its way by length.
    void share_durations() {
        for (const auto& [begin, end] : ferries_) {
            std::vector<Millimetres> lengths;
            Millimetres total;
            for (std::uint32_t l = begin; l < end; ++l) {
                lengths.push_back(geo_length(l));
                total = total + lengths.back();
            }
            if (total.count() == 0) continue;
            Millimetres before;
            for (std::uint32_t l = begin; l < end; ++l) {
                auto& ms = out_.lines.attributes[l].fixed_ms;
                const auto until = [&](Millimetres x) { return static_cast<std::uint32_t>(std::int64_t{ms} * x.count() / total.count()); };
                const std::uint32_t mine = until(before + lengths[l - begin]) - until(before);
                before = before + lengths[l - begin];
                ms = std::max(mine, 1U);
            }
        }
    }
    void begin_way() { way_begin_ = out_.lines.count(); }
    void end_way(const Attributes& a) {
        if (a.fixed_ms != 0 && out_.lines.count() > way_begin_ + 1) ferries_.emplace_back(way_begin_, out_.lines.count());
    }

private:
    [[nodiscard]] Millimetres geo_length(std::uint32_t line) const { return geo::line_length(out_.lines.shape(line)); }
    [[nodiscard]] std::size_t index(std::int64_t ref) const {
        return static_cast<std::size_t>(std::lower_bound(nodes_.wanted.begin(), nodes_.wanted.end(), ref) - nodes_.wanted.begin());
    }
    [[nodiscard]] std::optional<std::uint32_t> known_index(std::int64_t ref) const {
        const auto i = index(ref);
        return i < nodes_.wanted.size() && nodes_.wanted[i] == ref ? std::optional(static_cast<std::uint32_t>(i)) : std::nullopt;
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
        shape_.clear();
        for (const std::size_t n : part_) shape_.push_back(nodes_.positions[n]);
        for (std::size_t i = 0; i < part_.size(); ++i) {
            if (!nodes_.signalled[part_[i]]) continue;
            if (i == 0 || i + 1 == part_.size()) out_.lines.traffic_signals.push_back(shape_[i]);
            else between_.emplace_back(out_.lines.count(), shape_[i]);
        }
        way_of_line_.push_back(ways_.ids[w]);
        out_.lines.add(shape_, ways_.attributes[w]);
        out_.lines.named_ends.push_back({static_cast<std::uint32_t>(part_.front()), static_cast<std::uint32_t>(part_.back())});
    }

    const Ways& ways_;
    const Nodes& nodes_;
    const std::string& path_;
    RoadsRead& out_;
    std::vector<std::uint8_t> uses_;
    std::vector<std::size_t> part_;
    std::vector<geo::LonLat> shape_;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> ferries_;
    std::uint32_t way_begin_ = 0;
    std::vector<std::int64_t> way_of_line_;
    std::vector<std::pair<std::uint32_t, geo::LonLat>> between_;  // signals inside lines
};

/// Runs one pass over the file, in blocks, so that it can be stopped.
template <class Handler>
void pass(const std::string& path, osmium::osm_entity_bits::type kinds, Handler& handler, const Task& task, double from, double to) {
    const ByRightName name(path, content_of(path));
    osmium::io::Reader reader{osmium::io::File(name.path()), kinds};
    // A compressed file of a kilobyte may unpack to terabytes: nobody's roads do.
    constexpr double kMostUnpacked = 400, kAlways = 2e9;
    double unpacked = 0;
    while (osmium::memory::Buffer buffer = reader.read()) {
        unpacked += static_cast<double>(buffer.committed());
        if (unpacked > std::max(kAlways, kMostUnpacked * static_cast<double>(reader.file_size())))
            throw InputError({path, std::nullopt, "it unpacks to far more than a file of its size can hold", "Ask for it again; this one was made to fill memory"});
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
    const auto refuse = [&](std::string wrong, std::string remedy) { throw InputError({path, std::nullopt, std::move(wrong), std::move(remedy)}); };
    std::error_code error;
    if (!std::filesystem::is_regular_file(path, error)) refuse("there is no such file", "Check the name and the folder");
    if (std::filesystem::file_size(path, error) == 0) refuse("the file is empty", "Ask for it again");
    Ways ways(out);
    std::vector<std::int64_t> wanted;
    try {
        pass(path, osmium::osm_entity_bits::way, ways, task, 0.0, 0.5);
        wanted = ways.refs;
        std::sort(wanted.begin(), wanted.end());
        wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
        Nodes nodes(wanted);
        pass(path, osmium::osm_entity_bits::node, nodes, task, 0.5, 0.9);
        Cutter cutter(ways, nodes, path, out);
        for (std::size_t w = 0; w < ways.ids.size(); ++w) {
            cutter.begin_way();
            cutter.cut(w);
            cutter.end_way(ways.attributes[w]);
        }
        cutter.share_durations();
        cutter.place_signals();
        Restrictions restrictions(out, path);
        pass(path, osmium::osm_entity_bits::relation, restrictions, task, 0.9, 1.0);
        if (!restrictions.all.empty()) cutter.forbid(restrictions.all);
    } catch (const Stopped&) {
        throw;
    } catch (const InputError&) {
        throw;
    } catch (const std::exception& e) {
        refuse(fmt::format("it cannot be read as OpenStreetMap data ({})", e.what()), "It may be damaged or broken off; ask for it again");
    }
    if (out.lines.count() == 0)
        refuse(fmt::format("none of its {} ways is a road with points in the file", out.records), "Bring in a file with highways and their nodes");
    return out;
}

}  // namespace otoro::files
