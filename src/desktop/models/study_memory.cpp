#include "desktop/models/study_memory.h"

namespace otoro::desktop {
namespace {

// A record with its strings; a road with its two nodes and its place in the index of the map.
constexpr std::size_t kRecord = 160, kRoad = 160, kPairBytes = 24, kFlaw = 260;

std::size_t vertices_in(const geo::Area& area) {
    std::size_t n = 0;
    for (const auto& ring : area.rings) n += ring.size();
    return n;
}

}  // namespace

void add_shared_parts(const service::Study& study, SharedParts& out) {
    if (study.roads) {
        const auto& lines = *study.roads->lines;
        out[study.roads->lines.get()] = lines.vertices.size() * sizeof(geo::LonLat) + lines.count() * kRoad / 2;
        // Joined roads may be cut, and are lines of their own then.
        const auto& joined = study.roads->network->lines();
        out[&joined] = joined.vertices.size() * sizeof(geo::LonLat) + joined.count() * kRoad / 2;
        out[study.roads->network.get()] = joined.count() * kRoad;
    }
    for (const auto& d : study.demand) out[d.set.get()] = d.set->places.size() * kRecord;
    for (const auto& s : study.sites) out[s.set.get()] = s.set->sites.size() * kRecord;
    for (const auto& z : study.zones) {
        std::size_t vertices = 0;
        for (const auto& zone : z.set->zones) vertices += vertices_in(zone.area);
        out[z.set.get()] = vertices * sizeof(geo::LonLat) + z.set->zones.size() * kRecord;
    }
    if (study.water) {
        std::size_t vertices = 0;
        for (const auto& area : *study.water->areas) vertices += vertices_in(area);
        out[study.water->areas.get()] = vertices * sizeof(geo::LonLat);
    }
    if (study.pairs) out[study.pairs->values.get()] = study.pairs->values->count() * kPairBytes;
}

std::size_t memory_of_copy(const service::Study& study) {
    std::size_t flaws = study.roads ? study.roads->origin.flaws.size() : 0;
    const auto add_sets = [&](const auto& sets) {
        for (const auto& s : sets) flaws += s.origin.flaws.size();
    };
    add_sets(study.demand);
    add_sets(study.sites);
    add_sets(study.zones);
    std::size_t bytes = sizeof study + flaws * kFlaw + study.questions.size() * 2 * sizeof(service::Question);
    if (study.roads) bytes += (study.roads->preparation.closed.size() + study.roads->preparation.by_speed.size()) * 48;
    for (const auto& p : study.plans) {
        bytes += sizeof p + p.changes.size() * kRecord;
        for (const auto& c : p.closures) {
            bytes += kRecord + c.vertices.size() * sizeof(geo::LonLat);
            for (const auto& ring : c.more_rings) bytes += ring.size() * sizeof(geo::LonLat);
        }
    }
    return bytes;
}

}  // namespace otoro::desktop
