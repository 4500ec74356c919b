/// Speed and memory on county-size data, as ratios within one run.
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <fstream>

#include "engine.h"
#include "files/add_data.h"
#include "files/open_file.h"
#include "measure.h"
#include "reach.h"
#include "service/candidate.h"
#include "serving.h"
#include "siting.h"
#include "sizes.h"

namespace {
using namespace otoro;
using namespace otoro::bench;

/// Reads every record with its geometry and does nothing with it.
void merely_read(const std::string& path) {
    files::prepare_gdal();
    const std::unique_ptr<GDALDataset> in(GDALDataset::Open(path.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY));
    std::uint64_t points = 0;
    auto* layer = in->GetLayer(0);
    while (const OGRFeatureUniquePtr f{layer->GetNextFeature()})
        points += static_cast<std::uint64_t>(f->GetGeometryRef()->toLineString()->getNumPoints());
    kept = points;
}

roads::Network read_and_build(const std::string& path) {
    return join(files::read_roads({{path, "", "", "", ""}, {}}, Task()).lines, Task());
}

/// A line of /proc/self/status in bytes.
std::uint64_t memory(const std::string& key) {
    std::ifstream in("/proc/self/status");
    for (std::string line; std::getline(in, line);)
        if (line.starts_with(key + ":")) return std::stoull(line.substr(key.size() + 1)) * 1024;
    return 0;
}

/// Peak memory of reading and building, beyond what the program has with GDAL loaded, in bytes a link; measured in a
/// process of its own.
double peak_bytes_per_link(const std::string& path) {
    int ends[2];
    if (::pipe(ends) != 0) return 0;
    const pid_t child = ::fork();
    if (child == 0) {
        files::prepare_gdal();
        const auto before = memory("VmRSS");
        const auto net = read_and_build(path);
        const double per_link = static_cast<double>(memory("VmHWM") - before) / net.link_count();
        const auto written = ::write(ends[1], &per_link, sizeof per_link);
        ::_exit(written == sizeof per_link ? 0 : 1);
    }
    double per_link = 0;
    if (::read(ends[0], &per_link, sizeof per_link) != sizeof per_link) per_link = 0;
    ::waitpid(child, nullptr, 0);
    ::close(ends[0]);
    ::close(ends[1]);
    return per_link;
}

double stream(const routing::Graph& g) {
    return best_of(5, [&] {
        std::uint64_t sum = 0;
        for (const auto& a : g.all_arcs()) sum += a.head + a.cost + a.other + a.way.bits;
        for (const auto o : g.all_offsets()) sum += o;
        kept = sum;
    });
}

/// The sites' seeds: a hundred nodes spread over the numbering.
std::vector<routing::Seed> hundred_sites(const routing::Graph& g) {
    std::vector<routing::Seed> seeds;
    for (std::uint32_t i = 0; i < 100; ++i)
        seeds.push_back(
            {static_cast<std::uint32_t>((std::uint64_t{g.node_count()} * i + g.node_count() / 2) / 100), 0, 0, i, {}});
    return seeds;
}

/// Checking, mending and re-checking the county.
void run_checks(const service::Study& study, double building) {
    std::shared_ptr<const service::Checked> checked;
    std::vector<service::Finding> findings;
    const double checking = best_of(2, [&] {
        checked = check_study(study, Task());
        findings = findings_of(study, *checked);
    });
    row(fmt::format("a full check, {} findings, {} gaps", findings.size(), checked->gaps.size()), ms(checking),
        fmt::format("reading and building: {}", ms(building)), checking / building, 3.0);
    const auto pieces = checked->roads.as_pieces();
    row("  of that: gaps under 10 m",
        ms(best_of(3,
                   [&] { kept = find_gaps(*study.roads->network, pieces, Millimetres::metres(10), Task()).size(); })),
        "", 0, 0);
    row("  of that: pieces",
        ms(best_of(3,
                   [&] {
                       kept =
                           service::check_roads(*study.roads->network, study.question().profile, Task()).pieces.size();
                   })),
        "", 0, 0);
    const auto joining = best_of(1, [&] {
        kept = roads::prepare(study.roads->lines, {roads::JoinRule::crossings, {}, {}}, Task()).link_count();
    });
    row("joining where lines cross", ms(joining), "reading and building", joining / building, 0);
    if (checked->gaps.empty()) return;
    const double closing = best_of(5, [&] {
        const auto next = after_closing(*checked, study, checked->gaps[checked->gaps.size() / 2]);
        findings = findings_of(study, *next);
    });
    row("one closed gap, all findings told again", ms(closing), "100 ms", closing / 0.1, 1.0);
}

/// Reached ground, and nothing else.
void run_reach_alone(const std::string& folder) {
    std::shared_ptr<const roads::Network> net;
    double building = 1e300;
    for (int i = 0; i < 2; ++i) {
        net.reset();
        building = std::min(building, seconds([&] {
                                net = std::make_shared<const roads::Network>(read_and_build(folder + "/roads.gpkg"));
                            }));
    }
    row("reading and building the network", ms(building), "", 0, 0);
    run_reach(net, building);
}

std::shared_ptr<const places::DemandSet> households(const std::string& folder) {
    return std::make_shared<const places::DemandSet>(
        files::read_demand({{folder + "/households.csv", "", "", "", ""}, {}, {}}, Task()).demand);
}

/// Rules of serving, and nothing else.
void run_serving_alone(const std::string& folder) {
    run_serving(std::make_shared<const roads::Network>(read_and_build(folder + "/roads.gpkg")), households(folder));
}

/// Choosing sites, and nothing else.
void run_siting_alone(const std::string& folder) {
    run_siting(std::make_shared<const roads::Network>(read_and_build(folder + "/roads.gpkg")), households(folder));
}

/// What a planner waits for in a district.
void run_district(const std::string& folder) {
    const auto layer = [&](const char* file) { return files::LayerChoice{folder + "/" + file, "", ""}; };
    service::Study s;
    s = with_roads(std::move(s), files::add_roads({layer("roads.gpkg"), {}}, {}, Task()));
    s = with_demand(std::move(s), files::add_demand({layer("households.csv"), {}, {}}, "", Task()));
    s = with_sites(std::move(s), files::add_sites({layer("ambulance-posts.geojson"), {}, {}, {}, {}}, "", Task()));
    const auto ready = prepare(*s.inputs(), s.question(), nullptr, Task());
    const service::Plan opens{"Quay opens", {{service::Change::open, "C1", {}}}, {}};
    const double opening = best_of(5, [&] { kept = service::answer(*ready, opens, Task()).all.places; });
    row("Saltmere: opening a candidate", ms(opening), "100 ms", opening / 0.1, 1.0);
    s.question().profile.turning = travel::Turning{
        Millis(8000), Millis(2000), Millis(4000), Millis(20'000), {}, travel::TurningBack::dead_ends, true};
    const auto turning = prepare(*s.inputs(), s.question(), nullptr, Task());
    const double paid = best_of(5, [&] { kept = service::answer(*turning, opens, Task()).all.places; });
    row("Saltmere: the same with every turn paid for", ms(paid), "without turning", paid / opening, 0);
}

void run(const std::string& folder, const std::string& district) {
    const std::string path = folder + "/roads.gpkg";
    const double bytes = peak_bytes_per_link(path);
    merely_read(path);  // so that the file is in the page cache for both
    const double merely = best_of(3, [&] { merely_read(path); });
    double ours = 1e300;
    std::shared_ptr<const roads::Network> net;
    for (int i = 0; i < 3; ++i) {
        net.reset();
        ours = std::min(ours, seconds([&] { net = std::make_shared<const roads::Network>(read_and_build(path)); }));
    }
    fmt::print("{} links, {} nodes, {:.0f} km, {:.1f} vertices a link\n\n", net->link_count(), net->node_count(),
               net->total_length().kilometres(), static_cast<double>(net->lines().vertices.size()) / net->link_count());
    fmt::print("{:<44} {:>12}   {:<40} {:>8}\n", "work", "figure", "against", "ratio");
    row("reading and building the network", ms(ours), fmt::format("GDAL merely reading: {}", ms(merely)), ours / merely,
        1.5);
    row("peak memory of that, bytes a link", fmt::format("{:.0f} B", bytes), "200 B", bytes / 200, 1.0);

    const auto crossings = travel::traversal_times(*net, {}, Task());
    const auto graph = make_graph(*net, crossings, routing::Measure::time, routing::SearchDirection::outward);
    const auto seeds = hundred_sites(graph);
    std::vector<std::uint32_t> boost_distance;
    const double boost_time = boost_tree(graph, seeds[0].node, boost_distance);
    routing::LabelArray labels;
    const double nearest = best_of(9, [&] { labels = nearest_of_many(graph, seeds, routing::kFar - 1, Task()); });
    const double one =
        best_of(9, [&] { labels = nearest_of_many(graph, std::span(seeds).first(1), routing::kFar - 1, Task()); });
    std::uint64_t differ = 0;
    for (std::uint32_t n = 0; n < graph.node_count(); ++n)
        differ += labels[n].reached() ? labels[n].cost != boost_distance[n]
                                      : boost_distance[n] != std::numeric_limits<std::uint32_t>::max();
    const double streaming = stream(graph);
    row("nearest of 100 sites for every node", ms(nearest), fmt::format("one Boost Dijkstra tree: {}", ms(boost_time)),
        nearest / boost_time, 0.8);
    row("", "", fmt::format("streaming the arrays once: {}", ms(streaming)), nearest / streaming, 0);
    row("one tree to every node", ms(one), "one Boost Dijkstra tree", one / boost_time, 0);
    fmt::print("{:<44} {:>12}   of {} nodes disagree with Boost's tree\n", "", differ, graph.node_count());

    labels = nearest_of_many(graph, seeds, routing::kFar - 1, Task());
    run_engine(graph, seeds, labels, boost_time, ours);

    service::Question q;
    const auto demand = households(folder);
    auto sites = std::make_shared<places::SiteSet>();
    for (const auto& s : seeds)
        sites->sites.push_back(
            {std::to_string(s.source), "", net->position(NodeId(s.node)), places::SiteState::open, std::nullopt});
    std::shared_ptr<const service::Ready> ready;
    const double preparing = seconds([&] { ready = prepare({net, demand, sites}, q, nullptr, Task()); });
    service::Outcome outcome;
    const double answering = best_of(3, [&] { outcome = service::answer(*ready, {}, Task()); });
    row(fmt::format("making ready, {} demand places", demand->count()), ms(preparing), "one Boost Dijkstra tree",
        preparing / boost_time, 0);
    row("answering a plan", ms(answering), "one Boost Dijkstra tree", answering / boost_time, 0);
    auto swept = std::make_shared<service::Ready>(*ready);
    swept->prepared = prepare_searches(*ready, nullptr, nullptr, Task());
    auto base = std::make_shared<service::Outcome>();
    const double swept_answering = best_of(5, [&] { *base = service::answer(*swept, {}, Task()); });
    row("  the same with searches prepared", ms(swept_answering), "one Boost Dijkstra tree",
        swept_answering / boost_time, 0);
    std::uint64_t differ_places = 0;
    for (std::uint32_t i = 0; i < demand->count(); ++i)
        differ_places += base->places[i].site != outcome.places[i].site ||
                         base->places[i].time != outcome.places[i].time ||
                         base->places[i].distance != outcome.places[i].distance;
    fmt::print("{:<44} {:>12}   of {} places differ\n", "", differ_places, demand->count());
    const service::Standard standard{};
    service::Candidates candidates(swept, base);
    const auto spots = hundred_sites(graph);
    std::size_t tried = 0, changed = 0;
    const service::Standard eight{Share::percent(90), Millis::minutes(8)};
    double slowest = 0;
    for (std::size_t i = 0; i < 99; ++i) {  // each between two sites
        const auto a = net->position(NodeId(spots[i].node)), b = net->position(NodeId(spots[i + 1].node));
        double best = 1e300;
        for (int k = 0; k < 2; ++k)
            best = std::min(best, seconds([&] {
                                const auto effect =
                                    candidates.add(geo::LonLat{(a.lon + b.lon) / 2, (a.lat + b.lat) / 2}, eight.limit);
                                kept = kept + candidates.judge(effect, eight).inside.places;
                                changed += effect.changed.size();
                            }));
        slowest = std::max(slowest, best);
        ++tried;
    }
    row(fmt::format("one candidate, 8 min, {} places changed", changed / tried / 2), ms(slowest),
        fmt::format("one frame: 16 ms; the slowest of {}", tried), slowest / 0.016, 1.0);
    const double judging = best_of(5,
                                   [&] {
                                       for (int i = 0; i < 1000; ++i)
                                           kept = kept + judge(outcome, standard).inside.places;
                                   }) /
                           1000;
    service::Study study;
    study = with_roads(std::move(study), {net->shared_lines(), {}, net, {}});
    study = with_demand(std::move(study), {demand, {}});
    study = with_sites(std::move(study), {sites, {}});
    row("a new verdict for a changed standard", fmt::format("{:.4f} ms", judging * 1000), "one frame: 16 ms",
        judging / 0.016, 1.0);
    run_serving(net, demand);
    run_siting(net, demand);
    run_checks(study, ours);
    run_district(district);
}

}  // namespace

int main(int argc, char** argv) {
    const std::string part = argc == 3 ? argv[1] : "";
    if (argc != 3) {
        fmt::print(stderr,
                   "usage: otoro-bench FOLDER_OF_COUNTY FOLDER_OF_SALTMERE, or otoro-bench --reach|--serving|--siting "
                   "FOLDER_OF_COUNTY\n");
        return 2;
    }
    try {
        if (part == "--reach") return run_reach_alone(argv[2]), 0;
        if (part == "--serving") return run_serving_alone(argv[2]), 0;
        if (part == "--siting") return run_siting_alone(argv[2]), 0;
        run(argv[1], argv[2]);
        otoro::bench::run_sizes(argv[1], argv[2]);
        otoro::bench::run_growth();
    } catch (const std::exception& e) {
        fmt::print(stderr, "otoro-bench: {}\n", e.what());
        return 1;
    }
    return 0;
}
