#include "service/more_room.h"

#include <algorithm>
#include <tuple>

namespace otoro::service {
namespace {

/// The question with so many places more at one of the sites. \pre the plan did not add it
Ready with_more_room(const Ready& ready, SiteIndex site, Weight more) {
    Ready out = ready;
    const auto& sites = ready.inputs.sites;
    auto sets = sites.sets();
    const std::size_t part = sites.part_of(site.value());
    auto set = std::make_shared<places::SiteSet>(*sets[part]);
    auto& capacity = set->sites[sites.local(site.value())].capacity;
    capacity = *capacity + more;
    sets[part] = std::move(set);
    out.inputs.sites = places::Sites(std::move(sets));
    return out;
}

}  // namespace

std::vector<MoreRoom> worth_of_more_room(const Ready& ready, const Outcome& o, Weight more, const Task& task) {
    std::vector<MoreRoom> out;
    // Where places go whole, a site is full when the heaviest of them finds no room in it.
    Weight least(1);
    if (!std::get<AsCapacityAllows>(o.question.serving).split)
        for (const Weight w : o.weights) least = std::max(least, w);
    std::vector<SiteIndex> full;
    for (std::uint32_t i = 0; i < o.sites.size() && i < ready.inputs.sites.count(); ++i) {
        const auto& s = o.sites[i];
        const auto& capacity = s.planned.site.capacity;
        if (s.planned.in_use && s.attachment && capacity && *capacity - s.load < least) full.emplace_back(i);
    }
    for (std::size_t k = 0; k < full.size(); ++k) {
        task.at("giving sites more places", static_cast<double>(k) / static_cast<double>(full.size()));
        const Task quiet = task.quietly();
        const Outcome after = answer(with_more_room(ready, full[k], more), o.plan, quiet);
        out.push_back({full[k], more, o.capacity->no_room - after.capacity->no_room,
                       o.capacity->travel - after.capacity->travel});
    }
    std::stable_sort(out.begin(), out.end(), [](const MoreRoom& a, const MoreRoom& b) {
        return std::tuple(b.find_room, b.saved) < std::tuple(a.find_room, a.saved);
    });
    return out;
}

}  // namespace otoro::service
