#include "service/assign.h"

#include "service/access_legs.h"
#include "service/answer_digest.h"
#include "service/serve.h"
#include "service/step_curves.h"
#include "service/tallies.h"

namespace otoro::service {

std::vector<SiteOutcome> attach_sites(const Ready& ready, const Plan& plan) {
    const auto& sites = ready.inputs.sites;
    std::vector<SiteOutcome> out;
    for (auto& planned : sites_under(sites, plan, ready.question.use)) {
        SiteOutcome site;
        const auto index = static_cast<std::uint32_t>(out.size());
        if (planned.site.position) {
            const auto& attaching = sites.sets()[planned.part]->attaching;
            const bool as_read = !planned.added && sites.at(index).position == planned.site.position;
            site.attachment = places::attach_one(*ready.inputs.network, *ready.for_sites[planned.part],
                                                 *planned.site.position, as_read ? sites.local(index) : index,
                                                 as_read ? attaching : places::Attaching{attaching.rule, {}, {}},
                                                 ready.question.attach_limit);
            if (site.attachment) site.attachment->turnout = planned.site.turnout.value_or(ready.question.turnout);
        }
        site.planned = std::move(planned);
        out.push_back(std::move(site));
    }
    return out;
}

Outcome answer(const Ready& ready, const Plan& plan, const Task& task) {
    Outcome o;
    o.question = ready.question;
    o.plan = plan;
    o.digest = digest_of(ready, plan);
    const auto& demand = ready.inputs.demand;
    for (std::size_t part = 0; part < demand.sets().size(); ++part)
        o.demand.push_back({demand.sets()[part]->name, demand.first(part), attach_limit_of(ready, part),
                            *ready.for_demand[part] == ready.costed->usable});
    o.sites = attach_sites(ready, plan);
    o.weights.reserve(demand.count());
    for (const auto& set : demand.sets())
        for (const auto& p : set->places) o.weights.push_back(ready.question.by_weight ? p.weight : Weight::one());
    std::visit([&](const auto& rule) { serve(rule, ready, o, task); }, ready.question.serving);
    task.check();
    add_up(o);
    o.step_curves = step_curves(ready, o, task);
    return o;
}

std::optional<places::Attachment> attach_site(const Ready& ready, geo::LonLat spot, std::uint32_t number,
                                              std::size_t part) {
    auto attachment = places::attach_one(*ready.inputs.network, *ready.for_sites[part], spot, number,
                                         places::Attaching{ready.inputs.sites.sets()[part]->attaching.rule, {}, {}},
                                         ready.question.attach_limit);
    if (attachment) attachment->turnout = ready.question.turnout;
    return attachment;
}

}  // namespace otoro::service
