#include "files/study_layers.h"

#include <cmath>
#include <limits>

#include "files/source.h"
#include "files/study_layout.h"
#include "geo/digest.h"

namespace otoro::files {
namespace {

/// As a column of texts keeps it.
void add(Digest& d, const std::string& text) { d.text(as_utf8(text.c_str())); }
void add(Digest& d, geo::LonLat p) { d.value(p.lon).value(p.lat); }
void add(Digest& d, const std::optional<geo::LonLat>& p) {
    d.value(static_cast<std::uint8_t>(p.has_value()));
    if (p) add(d, *p);
}
template <class Unit>
void add(Digest& d, const std::optional<Unit>& amount) {
    d.value(amount ? amount->count() : std::int64_t{-1});
}
/// One that is closed and one that is not are the same: layers have them closed.
void add(Digest& d, const geo::Area& area) {
    d.value(static_cast<std::uint64_t>(area.rings.size()));
    for (const auto& ring : area.rings) {
        const std::size_t corners = ring.size() > 1 && ring.front() == ring.back() ? ring.size() - 1 : ring.size();
        d.value(static_cast<std::uint64_t>(corners));
        for (std::size_t i = 0; i < corners; ++i) add(d, ring[i]);
    }
}

LayerContent content(const roads::Lines& lines) {
    Digest d;
    for (std::uint32_t i = 0; i < lines.count(); ++i) {
        const auto& a = lines.attributes[i];
        d.value(static_cast<std::uint8_t>(a.road_class)).value(a.barred).value(a.flags).value(a.one_way);
        d.value(a.drive_speed.mm_per_hour()).value(a.fixed_ms);
        add(d, lines.names.at(a.name));
        if (!lines.named_ends.empty()) d.value(lines.named_ends[i].from).value(lines.named_ends[i].to);
        if (!lines.against_ms.empty()) d.value(lines.against_ms[i]);
        const auto shape = lines.shape(i);
        const auto heights = lines.heights_of(i);
        d.value(static_cast<std::uint64_t>(shape.size())).bytes(shape.data(), shape.size_bytes());
        d.value(static_cast<std::uint64_t>(heights.size()));
        // There are many ways to write that a height is not known.
        for (const float h : heights) d.value(std::isnan(h) ? std::numeric_limits<double>::quiet_NaN() : double{h});
    }
    return {lines.count(), d.hex()};
}

LayerContent content(const places::DemandSet& set) {
    Digest d;
    for (std::size_t i = 0; i < set.places.size(); ++i) {
        const auto& p = set.places[i];
        add(d, p.id);
        add(d, p.position);
        d.value(p.weight.count());
        // A column without a name is not read again, and one without rows is read as empty texts.
        for (const auto* column : {&set.group, &set.recorded, &set.priority})
            if (!column->name().empty()) add(d, column->empty() ? std::string() : column->at(i));
    }
    return {set.places.size(), d.hex()};
}

LayerContent content(const places::SiteSet& set) {
    Digest d;
    for (const auto& s : set.sites) {
        for (const auto* text : {&s.id, &s.name, &s.zone}) add(d, *text);
        add(d, s.position);
        d.value(static_cast<std::uint8_t>(s.state));
        add(d, s.capacity);
        add(d, s.cost);
        add(d, s.least);
        add(d, s.turnout);
        d.value(s.limit ? static_cast<std::int8_t>(s.limit->index()) : std::int8_t{-1});
        if (s.limit) d.value(std::visit([](auto v) { return std::int64_t{v.count()}; }, *s.limit));
    }
    return {set.sites.size(), d.hex()};
}

LayerContent content(const places::ZoneSet& set) {
    Digest d;
    for (const auto& z : set.zones) {
        add(d, z.id);
        add(d, z.name);
        add(d, z.area);
    }
    return {set.zones.size(), d.hex()};
}

LayerContent content(const std::vector<geo::Area>& areas) {
    Digest d;
    for (const auto& a : areas) add(d, a);
    return {areas.size(), d.hex()};
}

LayerContent content(const places::PairValues& pairs) {
    Digest d;
    for (std::uint32_t i = 0; i < pairs.count(); ++i) {
        add(d, pairs.demand.at(i));
        add(d, pairs.sites.at(i));
        d.value(pairs.values[i].count());
    }
    return {pairs.count(), d.hex()};
}

}  // namespace

std::map<std::string, LayerContent> contents_of(const service::Study& study) {
    std::map<std::string, LayerContent> out;
    if (study.roads) out["roads"] = content(*study.roads->lines);
    if (study.water) out["water"] = content(*study.water->areas);
    if (study.pairs) out["pairs"] = content(*study.pairs->values);
    const auto add_sets = [&](const char* kind, const auto& sets) {
        for (std::size_t i = 0; i < sets.size(); ++i) out[part_name(kind, i)] = content(*sets[i].set);
    };
    add_sets("demand", study.demand);
    add_sets("sites", study.sites);
    add_sets("zones", study.zones);
    return out;
}

std::string digest_of_setting(const std::string& text) { return Digest().text(text).hex(); }

}  // namespace otoro::files
