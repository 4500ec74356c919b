#include "service/pairs_left_out.h"

#include "service/access_legs.h"

namespace otoro::service {

PairsLeftOut::PairsLeftOut(const Ready& ready, const Plan& plan) {
    const auto sites = attach_sites(ready, plan);
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        const bool off = !sites[i].attachment;
        off_sites_.push_back(off);
        if (off && sites[i].planned.in_use) sites_.push_back({i, sites[i].planned.site.position.has_value()});
    }
    for (std::uint32_t i = 0; i < ready.inputs.demand.count(); ++i) {
        const bool off = !(*ready.attached)[i];
        off_places_.push_back(off);
        if (off) places_.push_back({i, ready.inputs.demand.at(i).position.has_value()});
    }
}

}  // namespace otoro::service
