#include "serving.h"

#include <unistd.h>

#include <cmath>
#include <filesystem>
#include <numeric>

#include "engine.h"
#include "files/atomic_file.h"
#include "files/pairs_between.h"
#include "geo/wording.h"
#include "measure.h"
#include "service/access_legs.h"
#include "service/assign.h"
#include "service/site_blocks.h"

namespace otoro::bench {
namespace {

using service::AsCapacityAllows;
using Fill = AsCapacityAllows::Fill;

/// Sites spread over the numbering of the nodes; their room is uneven, and together a twentieth more than is asked for.
std::shared_ptr<const places::SiteSet> sites_with_room(const roads::Network& network, std::uint32_t count, Weight asked,
                                                       double room = 1.05) {
    auto out = std::make_shared<places::SiteSet>();
    out->name = "sites";
    for (std::uint32_t i = 0; i < count; ++i) {
        const auto node =
            static_cast<std::uint32_t>((std::uint64_t{network.node_count()} * i + network.node_count() / 2) / count);
        const double share = room * (i % 2 == 0 ? 2.0 : 4.0) / (3.0 * count);
        out->sites.push_back({std::to_string(i), "", network.position(NodeId(node)), places::SiteState::open,
                              Weight::of(std::floor(asked.value() * share))});
    }
    return out;
}

Weight weight_of(const places::DemandSet& demand) {
    Weight sum;
    for (const auto& p : demand.places) sum += p.weight;
    return sum;
}

/// So many places, evenly out of all.
std::shared_ptr<const places::DemandSet> some_of(const places::DemandSet& demand, std::size_t count) {
    auto out = std::make_shared<places::DemandSet>();
    out->name = demand.name;
    for (std::size_t i = 0; i < count; ++i) out->places.push_back(demand.places[i * demand.places.size() / count]);
    return out;
}

struct Asked {
    std::shared_ptr<const service::Ready> ready;
    service::Outcome outcome;

    Asked(const std::shared_ptr<const roads::Network>& network, const std::shared_ptr<const places::DemandSet>& demand,
          std::uint32_t sites, double room = 1.05) {
        auto plain = service::prepare({network, demand, sites_with_room(*network, sites, weight_of(*demand), room)}, {},
                                      nullptr, Task());
        auto fast = std::make_shared<service::Ready>(*plain);
        fast->prepared = service::prepare_searches(*plain, nullptr, nullptr, Task());
        ready = fast;
    }
    double seconds_for(const service::Serving& serving, int times) {
        auto asked = std::make_shared<service::Ready>(*ready);
        asked->question.serving = serving;
        return best_of(times, [&] { outcome = service::answer(*asked, {}, Task()); });
    }
};

void capacity_row(const std::string& what, Asked& asked, Fill fill, int times, double at_most) {
    const double took = asked.seconds_for(AsCapacityAllows{routing::Measure::time, fill, false, false}, times);
    row(what, fmt::format("{:.2f} s", took), fmt::format("{:.0f} s", at_most), took / at_most, 1.0);
    const auto& c = *asked.outcome.capacity;
    fmt::print("{:<44} {:>12}   not at the nearest; without room {} of {}{}\n", "",
               displaced(asked.outcome).tally.places, describe(c.no_room), describe(c.asked),
               c.bound > 0 ? fmt::format(", above the bound by {:.4f} %",
                                         100 * (static_cast<double>(c.travel) / static_cast<double>(c.bound) - 1))
                           : "");
}

/// Places of unequal weight, and room for nine tenths of it: kept whole, against split.
void whole_row(const std::shared_ptr<const roads::Network>& network, const places::DemandSet& demand,
               std::size_t count) {
    auto uneven = std::make_shared<places::DemandSet>(*some_of(demand, count));
    for (std::size_t i = 0; i < uneven->places.size(); ++i)
        uneven->places[i].weight = Weight::of(1 + static_cast<double>(i * 7 % 40));
    Asked tight(network, uneven, 50, 0.9);
    const auto seconds = [&](bool split) {
        return tight.seconds_for(AsCapacityAllows{routing::Measure::time, Fill::least_travel, split, false}, 2);
    };
    const double split = seconds(true);
    const Weight least = tight.outcome.capacity->no_room;
    const double whole = seconds(false);
    row(fmt::format("whole places of unequal weight, {} by 50", said_whole(count)), fmt::format("{:.2f} s", whole),
        fmt::format("split: {:.2f} s", split), whole / split, 2.0);
    fmt::print("{:<44} {:>12}   without room; split {}\n", "", describe(tight.outcome.capacity->no_room),
               describe(least));
}

/// All pairs of so many places as CSV, against the same bytes alone.
void table_row(const std::shared_ptr<const roads::Network>& network, const places::DemandSet& demand,
               std::size_t count) {
    auto points = std::make_shared<places::SiteSet>();
    points->name = "points";
    const auto some = some_of(demand, count);
    for (const auto& p : some->places)
        points->sites.push_back({p.id, "", p.position, places::SiteState::open, std::nullopt});
    auto between = files::pairs_between(network, {}, points, points, false, nullptr, Task());
    auto fast = std::make_shared<service::Ready>(*between.ready);
    fast->prepared = service::prepare_searches(*between.ready, nullptr, nullptr, Task());
    const files::PairWriter writer(std::move(between.names), false);
    const auto folder = std::filesystem::temp_directory_path() / fmt::format("otoro-bench-{}", ::getpid());
    std::filesystem::create_directory(folder);
    const std::string file = (folder / "pairs.csv").string();
    const double took = best_of(2, [&] { writer.write(*fast, {}, 0, file, Task()); });
    const auto bytes = std::filesystem::file_size(file);
    const std::string block(1U << 20U, 'x');
    const double alone = best_of(2, [&] {
        files::write_atomically(file, [&](const std::string& temporary) {
            files::CheckedFile out(temporary, file);
            for (std::size_t left = bytes; left > 0; left -= std::min(left, block.size()))
                out.write(std::string_view(block).substr(0, std::min(left, block.size())));
            out.close();
        });
    });
    std::filesystem::remove_all(folder);
    row(fmt::format("table of {} x {} to CSV, {:.2f} GB", count, count, static_cast<double>(bytes) / 1e9),
        fmt::format("{:.2f} s", took), fmt::format("the same bytes: {:.2f} s", alone), took / alone, 2.0);
}

}  // namespace

void run_serving(const std::shared_ptr<const roads::Network>& network,
                 const std::shared_ptr<const places::DemandSet>& demand) {
    const auto crossings = travel::traversal_times(*network, {}, Task());
    const auto graph = make_graph(*network, crossings, routing::Measure::time, routing::SearchDirection::outward);
    std::vector<std::uint32_t> distances;
    const double boost = boost_tree(graph, graph.node_count() / 2, distances);
    const std::string tree = fmt::format("one Boost Dijkstra tree: {}", ms(boost));
    Asked county(network, demand, 200);
    const std::string places = fmt::format("{} places", demand->count());
    const double nearest = county.seconds_for(service::Nearest{}, 5);
    row("nearest of 200 sites, " + places, ms(nearest), tree, nearest / boost, 1.0);
    const double five = county.seconds_for(service::SeveralNearest{routing::Measure::time, 5, 1}, 3);
    row("5 nearest of 200 sites, " + places, ms(five), tree, five / boost, 3.0);
    const auto costed = county.ready->costed;
    const auto sites = attach_sites(*county.ready, {});
    std::vector<std::uint32_t> all(demand->count());
    std::iota(all.begin(), all.end(), 0U);
    const service::SiteBlocks blocks(*county.ready, costed, sites, Task());
    const auto together = blocks.put_together(all);
    const double pairs = best_of(2, [&] {
        blocks.each(
            together, {}, [](std::size_t, std::span<const service::ReachableSite>) {},
            [](std::span<const std::uint32_t>) {}, Task());
    });
    fmt::print("{:<44} {:>12}\n", "from 200 sites, both measures", ms(pairs));
    std::fflush(stdout);
    table_row(network, *demand, 5'000);
    capacity_row("nearest first, by 200 sites", county, Fill::nearest_first, 2, 2);
    Asked town(network, some_of(*demand, 20'000), 50);
    capacity_row("least travel, 20,000 places by 50 schools", town, Fill::least_travel, 2, 5);
    whole_row(network, *demand, 20'000);
    whole_row(network, *demand, 100'000);
    capacity_row("least travel, " + places + " by 200 sites", county, Fill::least_travel, 1, 60);
}

}  // namespace otoro::bench
