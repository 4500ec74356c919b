#include "service/detours.h"

#include <algorithm>

namespace otoro::service {

Detours detours_of(const Ready& ready, const Outcome& o, std::size_t most) {
    Detours out;
    const auto worse = [](const Detour& a, const Detour& b) {
        if (a.more() != b.more()) return a.more() > b.more();
        return a.place != b.place ? a.place < b.place : a.site < b.site;
    };
    const auto& demand = ready.inputs.demand;
    each_part(o, [&](std::uint32_t i, const PlaceOutcome& p, Weight weight, bool first) {
        if (!p.served()) return;
        const Detour d{DemandIndex(i), *p.site, p.distance, straight_line(o, demand.at(i).position, p)};
        if (d.straight.count() <= 0) return;
        Tally& step = out.steps[detour_step(d.times())];
        step.places += first ? 1 : 0;
        step.weight += weight;
        out.road += Wide{weight.count()} * d.road.count();
        out.straight += Wide{weight.count()} * d.straight.count();
        if (most == 0 || (out.worst.size() == most && !worse(d, out.worst.front()))) return;
        // A heap whose front is the least bad of those listed.
        if (out.worst.size() == most) {
            std::pop_heap(out.worst.begin(), out.worst.end(), worse);
            out.worst.pop_back();
        }
        out.worst.push_back(d);
        std::push_heap(out.worst.begin(), out.worst.end(), worse);
    });
    std::sort(out.worst.begin(), out.worst.end(), worse);
    return out;
}

}  // namespace otoro::service
