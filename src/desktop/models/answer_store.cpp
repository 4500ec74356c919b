#include "desktop/models/answer_store.h"

#include <algorithm>
#include <numeric>

namespace otoro::desktop {
namespace {

template <class Vector>
std::size_t bytes_in(const Vector& v) {
    return v.capacity() * sizeof(typename Vector::value_type);
}

}  // namespace

std::size_t memory_of(const PlanAnswer& answer) {
    const auto& o = answer.outcome;
    std::size_t bytes = sizeof answer + bytes_in(o.places) + bytes_in(o.weights) + bytes_in(o.time_curve) +
                        bytes_in(o.distance_curve) + bytes_in(o.further) + o.sites.size() * 2 * sizeof o.sites[0];
    for (const auto& curve : o.step_curves) bytes += bytes_in(curve.time) + bytes_in(curve.distance);
    if (o.by_nearest) bytes += bytes_in(*o.by_nearest);
    if (o.journeys) bytes += o.journeys->count() * sizeof(service::ReachableSite);
    if (o.traces) {
        bytes += std::size_t{answer.ready->graph->node_count()} * sizeof(routing::Label);
        if (o.traces->costed) bytes += bytes_in(o.traces->costed->restrictions);
    }
    return bytes;
}

PlanAnswerPtr AnswerStore::find(const service::Plan& plan) const {
    const auto at =
        std::find_if(kept_.begin(), kept_.end(), [&](const Kept& k) { return k.answer->outcome.plan.same_as(plan); });
    if (at == kept_.end()) return nullptr;
    at->looked_at = ++looks_;
    return at->answer;
}

void AnswerStore::keep(const PlanAnswerPtr& answer) {
    want(answer->outcome.plan);
    if (!find(answer->outcome.plan)) kept_.push_back({answer, memory_of(*answer), ++looks_});
}

void AnswerStore::let_go(const std::vector<service::Plan>& plans, std::size_t in_sight) {
    // The place in the study of a plan with this answer; past the end for one that is no more.
    const auto place_of = [&](const Kept& k) {
        for (std::size_t i = 0; i < plans.size(); ++i)
            if (k.answer->outcome.plan.same_as(plans[i])) return i;
        return plans.size();
    };
    const auto is_no_more = [&](const Kept& k) { return place_of(k) == plans.size(); };
    const auto oldest = [&](const auto& may_go) {
        auto found = kept_.end();
        for (auto at = kept_.begin(); at != kept_.end(); ++at)
            if (may_go(*at) && (found == kept_.end() || at->looked_at < found->looked_at)) found = at;
        return found;
    };
    while (std::count_if(kept_.begin(), kept_.end(), is_no_more) > static_cast<std::ptrdiff_t>(kStepsBack))
        kept_.erase(oldest(is_no_more));
    while (bytes() > budget_) {
        auto at = oldest(is_no_more);
        if (at == kept_.end()) {
            at = oldest([&](const Kept& k) {
                const auto place = place_of(k);
                return place != 0 && (in_sight >= plans.size() || !plans[place].same_as(plans[in_sight]));
            });
            if (at == kept_.end()) return;
            let_go_.push_back(at->answer->outcome.plan);
        }
        kept_.erase(at);
    }
}

bool AnswerStore::was_let_go(const service::Plan& plan) const {
    return std::any_of(let_go_.begin(), let_go_.end(), [&](const auto& p) { return p.same_as(plan); });
}

void AnswerStore::want(const service::Plan& plan) {
    std::erase_if(let_go_, [&](const auto& p) { return p.same_as(plan); });
}

void AnswerStore::clear() {
    kept_.clear();
    let_go_.clear();
}

std::size_t AnswerStore::bytes() const {
    return std::accumulate(kept_.begin(), kept_.end(), std::size_t{0},
                           [](std::size_t sum, const Kept& k) { return sum + k.bytes; });
}

}  // namespace otoro::desktop
