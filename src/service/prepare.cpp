/// What does not depend on the plan.
#include <algorithm>

#include "service/answer_digest.h"
#include "service/searching.h"

namespace otoro::service {
namespace {

using Attached = std::vector<std::optional<places::Attachment>>;
using Links = std::shared_ptr<const std::vector<bool>>;

/// Every demand place attached by its set's rule. \param earlier with the same roads and limit: sets that it had are
/// taken over
std::shared_ptr<const Attached> attach_demand(const Ready& ready, const Ready* earlier, const Task& task) {
    const auto& demand = ready.inputs.demand;
    auto out = std::make_shared<Attached>();
    out->reserve(demand.count());
    for (const auto& set : demand.sets()) {
        const auto* known = earlier ? &earlier->inputs.demand : nullptr;
        const auto at = known ? std::find(known->sets().begin(), known->sets().end(), set)
                              : std::vector<std::shared_ptr<const places::DemandSet>>::const_iterator{};
        if (known && at != known->sets().end()) {
            const auto first =
                earlier->attached->begin() + known->first(static_cast<std::size_t>(at - known->sets().begin()));
            out->insert(out->end(), first, first + set->count());
            continue;
        }
        const auto attached = places::attach_set(*ready.inputs.network, ready.costed->usable, places::positions(*set),
                                                 set->attaching, ready.question.attach_limit, task);
        out->insert(out->end(), attached.begin(), attached.end());
    }
    return out;
}

/// The links that places of each set may be attached to; those of sets known earlier are taken over.
template <class All>
std::vector<Links> links_for(const Ready& ready, const All& all, const All* known, const std::vector<Links>* earlier) {
    std::vector<Links> out;
    for (const auto& set : all.sets()) {
        if (known) {
            const auto at = std::find(known->sets().begin(), known->sets().end(), set);
            if (at != known->sets().end()) {
                out.push_back((*earlier)[static_cast<std::size_t>(at - known->sets().begin())]);
                continue;
            }
        }
        out.push_back(std::make_shared<const std::vector<bool>>(
            places::attachable(*ready.inputs.network, ready.costed->usable, set->attaching.rule)));
    }
    return out;
}

}  // namespace

std::shared_ptr<const Ready> prepare(const Inputs& inputs, const Question& question, const Ready* earlier,
                                     const Task& task) {
    if (!earlier || !(earlier->inputs.demand == inputs.demand)) places::check_weights(inputs.demand.sets());
    auto ready = std::make_shared<Ready>();
    ready->inputs = inputs;
    ready->question = question;

    const auto& network = *inputs.network;
    const bool same_costs =
        earlier && earlier->inputs.network == inputs.network && earlier->question.profile == question.profile;
    if (same_costs) {
        ready->costed = earlier->costed;
    } else {
        task.at("timing roads", 0.0);
        auto costed = std::make_shared<CostedNetwork>();
        costed->profile = question.profile;
        costed->traversal_times = travel::traversal_times(network, question.profile, task);
        costed->usable.resize(costed->traversal_times.size());
        for (std::size_t i = 0; i < costed->traversal_times.size(); ++i)
            costed->usable[i] = costed->traversal_times[i].usable();
        costed->turns = routing::TurnCosts(network, costed->traversal_times, travel::turning_of(question.profile));
        if (!costed->turns.free()) {
            costed->ways = routing::WaysByNode(network);
            // A traveller who does not obey forbidden turns obeys no forbidden paths.
            costed->states = std::make_shared<const routing::MoveStates>(
                costed->turns.obeys_bans() ? routing::MoveStates(network) : routing::MoveStates::plain(network));
        }
        ready->costed = costed;
    }

    if (same_costs && earlier->question.measure() == question.measure() &&
        earlier->question.towards == question.towards) {
        ready->graph = earlier->graph;
    } else {
        task.at("laying out the network", 0.2);
        ready->graph = graph_of(*ready, *ready->costed);
    }

    const bool same_limit = same_costs && earlier->question.attach_limit == question.attach_limit;
    if (same_limit && earlier->inputs.demand == inputs.demand) {
        ready->attached = earlier->attached;
    } else {
        task.at("attaching places to roads", 0.5);
        ready->attached = attach_demand(*ready, same_limit ? earlier : nullptr, task);
    }
    ready->access = earlier && ready->graph == earlier->graph && ready->attached == earlier->attached
                        ? earlier->access
                        : std::make_shared<const LinkAccess>(network, *ready->costed, question, *ready->attached);
    ready->digest = earlier && earlier->inputs == inputs ? earlier->digest : digest_of(inputs);
    const Ready* const on_same_costs = same_costs ? earlier : nullptr;
    ready->for_demand = links_for(*ready, inputs.demand, on_same_costs ? &on_same_costs->inputs.demand : nullptr,
                                  on_same_costs ? &on_same_costs->for_demand : nullptr);
    ready->for_sites = links_for(*ready, inputs.sites, on_same_costs ? &on_same_costs->inputs.sites : nullptr,
                                 on_same_costs ? &on_same_costs->for_sites : nullptr);
    if (!ready->for_demand.empty()) {
        const Millimetres limit = attach_limit_of(*ready, 0);
        const auto* known = earlier ? earlier->ground.get() : nullptr;
        const bool same_ground = known && known->limit() == limit && &known->network() == &network &&
                                 (&known->use() == ready->for_demand[0].get() || known->use() == *ready->for_demand[0]);
        ready->ground = same_ground
                            ? earlier->ground
                            : std::make_shared<const reach::Ground>(inputs.network, ready->for_demand[0], limit);
    }
    if (inputs.zones) {
        task.at("finding zones", 0.9);
        ready->zone_of = earlier && earlier->inputs.zones == inputs.zones && earlier->inputs.demand == inputs.demand
                             ? earlier->zone_of
                             : std::make_shared<const std::vector<std::uint32_t>>(
                                   places::zones_of(*inputs.zones, places::positions(inputs.demand), task));
    }
    if (earlier && ready->graph == earlier->graph) ready->prepared = earlier->prepared;
    return ready;
}

}  // namespace otoro::service
