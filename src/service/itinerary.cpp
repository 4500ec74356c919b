#include "service/itinerary.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <tuple>

#include "geo/ellipsoid.h"
#include "routing/route.h"
#include "service/access_legs.h"
#include "service/searching.h"

namespace otoro::service {
namespace {

using places::Attachment;
using routing::kFar;
using routing::LinkWay;
using routing::MoveStates;

/// From one stop to the next.
struct Leg {
    Part part;
    bool reached = false;
    bool same_link = false;
    bool on_junction = false;   ///< it ends where `last`, travelled whole (or from the first stop on), comes to
    LinkWay first, last;        ///< how the first and the last road are travelled
    Part first_part;            ///< along the first, up to its end
    std::vector<LinkWay> ways;  ///< whole roads between
};

class Traveller {
public:
    Traveller(const Ready& ready, const Prepared* prepared)
        : ready_(ready),
          prepared_(prepared),
          network_(*ready.inputs.network),
          costed_(*ready.costed),
          of_ways_(!ready.costed->turns.free()) {}

    [[nodiscard]] Leg leg(const Attachment& a, const Attachment& b, bool with_ways, const Task& task) {
        const auto measure = ready_.question.measure();
        Leg best;
        routing::ArcWeight least;
        const auto take = [&](const Part& part, Leg leg) {
            const auto step = part.in(measure);
            if (step.cost >= kFar || step.other >= kFar ||
                (best.reached && std::tuple(step.cost, step.other) >= std::tuple(least.cost, least.other)))
                return;
            least = {step.cost, step.other};
            leg.part = part;
            leg.reached = true;
            best = std::move(leg);
        };
        if (a.link == b.link)
            if (const auto part = split_link(network_, costed_, a.link).between(a.offset, b.offset)) {
                Leg along;
                along.same_link = true;
                along.first = along.last = a.offset <= b.offset ? LinkWay::along(a.link) : LinkWay::against(a.link);
                take(*part, along);
            }
        std::vector<routing::Seed> starts, ends;
        std::vector<LinkWay> end_ways;
        const auto first_link = split_link(network_, costed_, a.link),
                   last_link = split_link(network_, costed_, b.link);
        const auto seed = [&](std::uint32_t node, const Part& part, LinkWay way) {
            const auto step = part.in(measure);
            return routing::Seed{node, step.cost, step.other, 0, way};
        };
        for (const LinkWay way : {LinkWay::along(a.link), LinkWay::against(a.link)}) {
            const auto part = first_link.off(a.offset, way.is_against());
            if (!part) continue;
            const NodeId node = routing::end_of(network_, way);
            if (!of_ways_) {
                starts.push_back(seed(node.value(), *part, way));
                continue;
            }
            // Who stands on a junction has travelled no road yet.
            const bool on_junction = stands_at_end(network_, a, way, true);
            for (const LinkWay next : costed_.ways.from(node)) {
                const std::uint32_t turn = on_junction ? 0 : costed_.turns.cost(way, next);
                const std::uint32_t state = turn == routing::kForbidden ? MoveStates::kNowhere
                                            : on_junction               ? next.bits
                                                                        : costed_.states->after(way.bits, next);
                if (state != MoveStates::kNowhere) starts.push_back(seed(state, *part + Part{turn, 0}, way));
            }
        }
        for (const LinkWay way : {LinkWay::along(b.link), LinkWay::against(b.link)}) {
            const auto part = last_link.onto(way.is_against(), b.offset);
            if (!part) continue;
            if (!of_ways_) {
                ends.push_back(seed(routing::start_of(network_, way).value(), *part, way));
                end_ways.push_back(way);
                continue;
            }
            costed_.states->each_of(way, [&](std::uint32_t state) {
                ends.push_back(seed(state, *part, way));
                end_ways.push_back(way);
            });
        }
        // On a junction it is over any road that comes to it, and no turn is made there.
        std::vector<bool> over_whole(ends.size(), false);
        if (of_ways_)
            for (const bool at_end : {false, true}) {
                if (b.offset != (at_end ? network_.length(b.link) : Millimetres(0))) continue;
                const NodeId node = at_end ? network_.ends(b.link).to : network_.ends(b.link).from;
                for (const LinkWay leaving : costed_.ways.from(node)) {
                    const LinkWay way = routing::reversed(leaving);
                    const auto link = split_link(network_, costed_, way.link());
                    const auto whole = link.whole();
                    const std::uint64_t ms = way.is_against() ? whole.against : whole.along;
                    if (way.link() == a.link)
                        if (const auto part = link.off(a.offset, way.is_against())) {
                            Leg along;
                            along.same_link = along.on_junction = true;
                            along.first = along.last = way;
                            take(*part, along);
                        }
                    if (ms >= kFar) continue;
                    costed_.states->each_of(way, [&](std::uint32_t state) {
                        ends.push_back(seed(state,
                                            Part{static_cast<std::uint32_t>(ms),
                                                 static_cast<std::uint32_t>(network_.length(way.link()).count())},
                                            way));
                        end_ways.push_back(way);
                        over_whole.push_back(true);
                    });
                }
            }
        const auto found = prepared_ != nullptr ? routing::route(*prepared_->costs, *prepared_->graph, starts, ends)
                                                : plain_route(a, starts, ends, with_ways, task);
        if (!found) return best;
        const auto t = found->route.weight;
        Leg over;
        over.first = starts[found->start].way;
        if (const auto part = first_link.off(a.offset, over.first.is_against())) over.first_part = *part;
        over.last = end_ways[found->end];
        over.on_junction = over_whole[found->end];
        if (with_ways) over.ways = found->route.ways;
        take(measure == routing::Measure::time ? Part{t.cost, t.other} : Part{t.other, t.cost}, std::move(over));
        return best;
    }

private:
    /// The same by a plain search from the starts, kept for further legs from there.
    std::optional<routing::RouteBetween> plain_route(const Attachment& from, const std::vector<routing::Seed>& starts,
                                                     const std::vector<routing::Seed>& ends, bool with_ways,
                                                     const Task& task) {
        const std::pair key(from.link, from.offset);
        if (searched_from_ != key) {
            auto seeds = starts;
            for (std::uint32_t i = 0; i < seeds.size(); ++i) seeds[i].source = i;
            labels_ = routing::nearest_of_many(*ready_.graph, seeds, kFar - 1, task);
            searched_from_ = key;
        }
        std::optional<std::size_t> best;
        routing::ArcWeight least;
        for (std::size_t e = 0; e < ends.size(); ++e) {
            const auto& label = labels_[ends[e].node];
            if (!label.reached()) continue;
            const routing::ArcWeight weight{sum(label.cost, ends[e].cost), sum(label.other, ends[e].other)};
            if (weight.cost >= kFar ||
                (best && std::tuple(weight.cost, weight.other) >= std::tuple(least.cost, least.other)))
                continue;
            best = e;
            least = weight;
        }
        if (!best) return std::nullopt;
        routing::RouteBetween out{{least, {}}, labels_[ends[*best].node].source, *best};
        for (std::uint32_t node = ends[*best].node; with_ways;) {
            const auto& label = labels_[node];
            const auto& start = starts[label.source];
            if (start.node == node && start.cost == label.cost && start.other == label.other) break;
            out.route.ways.push_back(label.way);
            node = of_ways_ ? before(node, label) : routing::start_of(network_, label.way).value();
        }
        std::reverse(out.route.ways.begin(), out.route.ways.end());
        return out;
    }

    /// The state from which another got its label over a way.
    [[nodiscard]] std::uint32_t before(std::uint32_t state, const routing::Label& mine) const {
        const LinkWay current = costed_.states->way_of(state);
        const std::uint32_t turn = costed_.turns.cost(mine.way, current);
        const auto crossing = split_link(network_, costed_, mine.way.link()).whole();
        const Part step{sum(mine.way.is_against() ? crossing.against : crossing.along, turn),
                        static_cast<std::uint32_t>(network_.length(mine.way.link()).count())};
        std::uint32_t found = mine.way.bits;
        costed_.states->each_of(mine.way, [&](std::uint32_t s) {
            if (costed_.states->after(s, current) == state && labels_[s].source == mine.source &&
                sum(labels_[s].cost, step.in(ready_.question.measure()).cost) == mine.cost)
                found = s;
        });
        return found;
    }

    const Ready& ready_;
    const Prepared* prepared_;
    const roads::Network& network_;
    const CostedNetwork& costed_;
    bool of_ways_;
    routing::LabelArray labels_;
    std::optional<std::pair<LinkId, Millimetres>> searched_from_;
};

}  // namespace

std::shared_ptr<const Ready> under_closures(const Ready& ready, const Plan& plan, const Task& task) {
    auto out = std::make_shared<Ready>(ready);
    out->costed = costed_under(ready, plan, task);
    if (out->costed == ready.costed) return out;
    out->graph = graph_of(ready, *out->costed);
    out->prepared = nullptr;
    return out;
}

Itinerary itinerary(const Ready& ready, const Prepared* prepared, const std::vector<geo::LonLat>& given, StopOrder how,
                    const Task& task) {
    if (given.size() < 2)
        throw InputError({"", std::nullopt, "a way needs two stops at least", "Name a first and a last stop"});
    std::vector<geo::LonLat> stops = given;
    if (how.round) stops.push_back(given.front());
    if (how.best && stops.size() > routing::kMostStopsInBestOrder + 2)
        throw InputError({"", std::nullopt,
                          fmt::format("the order of {} stops is free; the best order is found for {} at most",
                                      stops.size() - 2, routing::kMostStopsInBestOrder),
                          "Leave some out, or give the order"});
    const auto& network = *ready.inputs.network;
    std::vector<Attachment> at;
    for (std::size_t i = 0; i < stops.size(); ++i) {
        const auto a = places::attach(network, ready.costed->usable, stops[i], ready.question.attach_limit);
        if (!a)
            throw InputError(
                {"", std::nullopt,
                 fmt::format("stop {}: no road that this traveller may use is near it", i % given.size() + 1),
                 "Move it nearer to a road, or raise the attach limit"});
        at.push_back(*a);
    }
    Traveller traveller(ready, prepared);
    Itinerary out;
    out.order.resize(stops.size());
    std::iota(out.order.begin(), out.order.end(), std::size_t{0});
    const auto unreachable = [&](std::size_t from, std::size_t to) {
        return InputError(
            {"", std::nullopt,
             fmt::format("there is no way from stop {} to stop {}", from % given.size() + 1, to % given.size() + 1),
             "Check one-way roads, closures and cut-off pieces between them"});
    };
    if (how.best) {
        routing::Legs legs(stops.size());
        for (std::size_t i = 0; i + 1 < stops.size(); ++i)
            for (std::size_t k = 1; k < stops.size(); ++k) {
                if (i == k) continue;
                task.at("between stops", static_cast<double>(i) / static_cast<double>(stops.size()));
                const Leg leg = traveller.leg(at[i], at[k], false, task);
                if (leg.reached) legs.set(i, k, leg.part.in(ready.question.measure()).cost);
            }
        const auto order = routing::best_order(legs, task);
        if (!order)
            throw InputError({"", std::nullopt, "no order of the stops reaches them all",
                              "Check one-way roads and cut-off pieces between them"});
        out.order = *order;
    }
    WayWriter writer(network, out.line, out.steps);
    Part all;
    for (std::size_t k = 0; k + 1 < out.order.size(); ++k) {
        const std::size_t from = out.order[k], to = out.order[k + 1];
        const Leg leg = traveller.leg(at[from], at[to], true, task);
        if (!leg.reached) throw unreachable(from, to);
        all = all + leg.part;
        writer.begin_leg(k == 0);
        out.legs.push_back({Millis(leg.part.ms), Millimetres(leg.part.mm), out.steps.size(),
                            out.line.empty() ? 0 : out.line.size() - 1});
        writer.point(stops[from]);
        writer.point(at[from].at);
        const auto end = [&](LinkWay way) { return way.is_against() ? Millimetres(0) : network.length(way.link()); };
        const auto start = [&](LinkWay way) { return way.is_against() ? network.length(way.link()) : Millimetres(0); };
        if (leg.same_link) {
            writer.stretch(at[from].link, at[from].offset, leg.on_junction ? end(leg.last) : at[to].offset,
                           Millis(leg.part.ms));
        } else {
            // What the roads between and the turns onto them take; the rest is that of the last.
            std::int64_t left = leg.part.ms;
            const auto take = [&](std::int64_t ms) {
                left -= ms;
                return Millis(ms);
            };
            writer.stretch(leg.first.link(), at[from].offset, end(leg.first), take(leg.first_part.ms));
            LinkWay before = leg.first;
            bool turns = !stands_at_end(network, at[from], leg.first, true);
            for (const LinkWay way : leg.ways) {
                const auto whole = split_link(network, *ready.costed, way.link()).whole();
                const std::int64_t turn =
                    turns && !ready.costed->turns.free() ? ready.costed->turns.cost(before, way) : 0;
                writer.stretch(way.link(), start(way), end(way),
                               take(static_cast<std::int64_t>(way.is_against() ? whole.against : whole.along) + turn));
                before = way;
                turns = true;
            }
            writer.stretch(leg.last.link(), start(leg.last), leg.on_junction ? end(leg.last) : at[to].offset,
                           Millis(left));
        }
        writer.point(at[to].at);
        writer.point(stops[to]);
    }
    for (auto& stop : out.order) stop %= given.size();
    out.time = Millis(all.ms);
    out.distance = Millimetres(all.mm);
    return out;
}

}  // namespace otoro::service
