#include "service/detours.h"

#include <algorithm>

namespace otoro::service {

Detours detours_of(const Ready& ready, const Outcome& o, std::size_t most) {
    Detours out;
    const auto worse = [](const Detour& a, const Detour& b) {
        return a.more() != b.more() ? a.more() > b.more() : a.place < b.place;
    };
    const auto& demand = ready.inputs.demand;
    std::uint32_t i = 0;
    for (const auto& set : demand.sets())
        for (const auto& place : set->places) {
            const PlaceOutcome& p = o.places[i];
            const DemandIndex index(i);
            const Weight weight = o.weights[i++];
            if (!p.served()) continue;
            const Detour d{index, *p.site, p.distance, straight_line(o, place.position, p)};
            if (d.straight.count() <= 0) continue;
            Tally& step = out.steps[detour_step(d.times())];
            ++step.places;
            step.weight += weight;
            out.road += Wide{weight.count()} * d.road.count();
            out.straight += Wide{weight.count()} * d.straight.count();
            if (most == 0 || (out.worst.size() == most && !worse(d, out.worst.front()))) continue;
            // A heap whose front is the least bad of those listed.
            if (out.worst.size() == most) {
                std::pop_heap(out.worst.begin(), out.worst.end(), worse);
                out.worst.pop_back();
            }
            out.worst.push_back(d);
            std::push_heap(out.worst.begin(), out.worst.end(), worse);
        }
    std::sort(out.worst.begin(), out.worst.end(), worse);
    return out;
}

}  // namespace otoro::service
