#include "service/link_access.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace otoro::service {

using routing::LinkWay;

LinkAccess::LinkAccess(const roads::Network& network, const CostedNetwork& costed, const Question& question,
                       const std::vector<std::optional<places::Attachment>>& attached) {
    const bool outward = question.towards == Towards::demand;
    ends_.resize(attached.size());
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, attached.size(), 4096), [&](const auto& range) {
        for (std::size_t i = range.begin(); i != range.end(); ++i) {
            ends_[i] = {};
            if (!attached[i]) continue;
            const places::Attachment& a = *attached[i];
            const SplitLink link(network, costed.traversal_times[a.link.value()], a.link);
            for (const LinkWay way : {LinkWay::along(a.link), LinkWay::against(a.link)}) {
                // From where one comes onto the road to the place, or from the place to where one leaves it.
                const auto part =
                    outward ? link.onto(way.is_against(), a.offset) : link.off(a.offset, way.is_against());
                EndAccess& end = ends_[i][way.is_against() ? 1 : 0];
                end.node = node_of(network, costed, question.towards, way);
                if (!part) continue;
                const auto step = part->in(question.measure());
                end.cost = step.cost;
                end.other = step.other;
            }
        }
    });
    if (!costed.turns.free())
        for (std::uint32_t i = 0; i < attached.size(); ++i)
            if (attached[i] &&
                (attached[i]->offset.count() == 0 || attached[i]->offset == network.length(attached[i]->link)))
                on_junctions_.push_back(i);
    first_.assign(std::size_t{network.link_count()} + 1, 0);
    for (const auto& a : attached)
        if (a) ++first_[a->link.value() + 1];
    for (std::size_t i = 1; i < first_.size(); ++i) first_[i] += first_[i - 1];
    places_.resize(first_.back());
    auto next = first_;
    for (std::uint32_t i = 0; i < attached.size(); ++i)
        if (attached[i]) places_[next[attached[i]->link.value()]++] = i;
}

}  // namespace otoro::service
