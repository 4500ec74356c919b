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
        const auto attached = places::attach_set(*ready.inputs.network, ready.ground->usable, places::positions(*set),
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
            places::attachable(*ready.inputs.network, ready.ground->usable, set->attaching.rule)));
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
    const bool same_ground =
        earlier && earlier->inputs.network == inputs.network && earlier->question.profile == question.profile;
    if (same_ground) {
        ready->ground = earlier->ground;
    } else {
        task.at("timing roads", 0.0);
        auto ground = std::make_shared<Ground>();
        ground->profile = question.profile;
        ground->crossings = travel::crossings(network, question.profile, task);
        ground->usable.resize(ground->crossings.size());
        for (std::size_t i = 0; i < ground->crossings.size(); ++i) ground->usable[i] = ground->crossings[i].usable();
        ground->turns = routing::TurnCosts(network, ground->crossings, travel::turning_of(question.profile));
        if (!ground->turns.free()) {
            ground->ways = routing::WaysByNode(network);
            // A traveller who does not obey forbidden turns obeys no forbidden paths.
            ground->states = std::make_shared<const routing::MoveStates>(
                ground->turns.obeys_bans() ? routing::MoveStates(network) : routing::MoveStates::plain(network));
        }
        ready->ground = ground;
    }

    if (same_ground && earlier->question.measure() == question.measure() &&
        earlier->question.towards == question.towards) {
        ready->graph = earlier->graph;
    } else {
        task.at("laying out the network", 0.2);
        ready->graph = graph_of(*ready, *ready->ground);
    }

    const bool same_limit = same_ground && earlier->question.attach_limit == question.attach_limit;
    if (same_limit && earlier->inputs.demand == inputs.demand) {
        ready->attached = earlier->attached;
    } else {
        task.at("attaching places to roads", 0.5);
        ready->attached = attach_demand(*ready, same_limit ? earlier : nullptr, task);
    }
    ready->approaches = earlier && ready->graph == earlier->graph && ready->attached == earlier->attached
                            ? earlier->approaches
                            : std::make_shared<const Approaches>(network, *ready->ground, question, *ready->attached);
    ready->digest = earlier && earlier->inputs == inputs ? earlier->digest : digest_of(inputs);
    const Ready* const on_same_ground = same_ground ? earlier : nullptr;
    ready->for_demand = links_for(*ready, inputs.demand, on_same_ground ? &on_same_ground->inputs.demand : nullptr,
                                  on_same_ground ? &on_same_ground->for_demand : nullptr);
    ready->for_sites = links_for(*ready, inputs.sites, on_same_ground ? &on_same_ground->inputs.sites : nullptr,
                                 on_same_ground ? &on_same_ground->for_sites : nullptr);
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
