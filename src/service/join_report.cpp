#include "service/join_report.h"

#include <fmt/format.h>

#include "geo/amounts.h"

namespace otoro::service {
namespace {

std::string n(std::uint32_t v) { return describe(Weight(std::int64_t{v} * 1'000'000)); }

/// Demand on pieces from which no site in use is to be had.
Tally cut_off(const Study& study, const RoadReport& report, const roads::Network& network,
              const std::vector<bool>& usable, const Task& task) {
    const Question& q = study.question();
    std::vector<bool> served(report.pieces.size(), false);
    bool any = false;
    for (const auto& set : study.sites_of(q).sets()) {
        const auto attached = attach_set(network, usable, positions(*set), set->attaching, q.attach_limit, task);
        const auto all = sites_under(places::Sites(set), {}, q.use);
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i].in_use && attached[i]) any = served[report.piece_of_link[attached[i]->link.value()]] = true;
    }
    if (!any && !served.empty()) served[0] = true;
    Tally t;
    for (const auto& set : study.demand_of(q).sets()) {
        const auto attached = attach_set(network, usable, positions(*set), set->attaching, q.attach_limit, task);
        for (std::uint32_t i = 0; i < attached.size(); ++i) {
            if (!attached[i] || served[report.piece_of_link[attached[i]->link.value()]]) continue;
            t.places += 1;
            t.weight += q.by_weight ? set->places[i].weight : Weight::one();
        }
    }
    return t;
}

}  // namespace

std::vector<JoinEvidence> compare_join_rules(const Study& study, const Task& task) {
    std::vector<JoinEvidence> out;
    for (const auto rule : {roads::JoinRule::ends, roads::JoinRule::shared_vertices, roads::JoinRule::crossings}) {
        auto preparation = study.roads->preparation;
        std::shared_ptr<const roads::Network> network = study.roads->network;
        if (preparation.rule != rule) {
            preparation.rule = rule;
            network = std::make_shared<const roads::Network>(roads::prepare(study.roads->lines, preparation, task));
        }
        const auto report = check_roads(*network, study.question().profile, task);
        std::vector<bool> usable(network->link_count());
        for (std::uint32_t i = 0; i < usable.size(); ++i) usable[i] = report.piece_of_link[i] != roads::kNoPiece;
        out.push_back({rule, report.links, static_cast<std::uint32_t>(report.pieces.size()),
                       count_dead_ends(*network, report.as_pieces()), cut_off(study, report, *network, usable, task)});
    }
    return out;
}

std::string clause(roads::JoinRule rule) {
    switch (rule) {
        case roads::JoinRule::ends:
            return "where road ends touch";
        case roads::JoinRule::shared_vertices:
            return "wherever two roads pass through the same point";
        case roads::JoinRule::crossings:
            return "also where they cross on the same level";
    }
    return {};
}

std::string describe(const JoinEvidence& e) {
    return fmt::format("Joined {}: {} links in {} {}, {} dead ends, {} places ({}) cut off", clause(e.rule), n(e.links),
                       n(e.pieces), e.pieces == 1 ? "piece" : "pieces", n(e.dead_ends), n(e.cut_off.places),
                       describe(e.cut_off.weight));
}

}  // namespace otoro::service
