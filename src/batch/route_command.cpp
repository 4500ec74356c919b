#include "batch/command.h"
#include "batch/reach_options.h"
#include "files/atomic_file.h"
#include "files/geojson.h"
#include "geo/amounts.h"
#include "service/itinerary.h"

namespace otoro::batch {
namespace {

struct RouteBy : Command {
    RoadOptions roads;
    std::vector<std::string> stops;
    std::string travel = "drive", speed, measure = "time", attach_limit = "250m", out;
    bool best_order = false, quiet = false;

    void add_to(CLI::App& app) override {
        roads.add_to(app);
        app.add_option("--stop", stops, "a stop, longitude,latitude; named again for each further one, in order")
            ->required()
            ->type_name("LON,LAT");
        app.add_flag("--best-order", best_order,
                     "visit the stops between the first and the last in the best order (up to 12)");
        app.add_option("--travel", travel, std::string("how they travel: ") + kTravel)
            ->required()
            ->type_name("PROFILE");
        app.add_option("--speed", speed, "one speed for all roads, such as 40km/h");
        app.add_option("--measure", measure, "what best means")
            ->check(CLI::IsMember({"time", "distance"}))
            ->capture_default_str();
        app.add_option("--attach-limit", attach_limit, "farthest road that a stop is joined to")->capture_default_str();
        app.add_option("--out", out, "also write the line, as GeoJSON")->type_name("FILE");
        app.add_flag("--quiet", quiet, "no progress, no remarks");
    }
    [[nodiscard]] int run() const override;
};

int RouteBy::run() const {
    Console console(quiet);
    const Task task = console.task();
    service::Question q;
    q.profile = profile_of(travel);
    if (!speed.empty()) q.profile.one_speed = parsed("--speed", speed, parse_speed);
    q.serving = service::Nearest{measure == "time" ? routing::Measure::time : routing::Measure::distance};
    q.attach_limit = parsed("--attach-limit", attach_limit, parse_length);
    std::vector<geo::LonLat> at;
    for (const auto& s : stops) at.push_back(parsed("--stop", s, parse_position));
    auto taken = roads.paths;
    for (const auto& path : {roads.heights, travel}) taken.push_back(path);
    check_output("--out", out, {".geojson", ".json"}, taken);
    const auto roads_in = read_roads(roads, q.profile, task);
    tell_reading(console, roads_in.origin);
    const auto ready = prepare(
        {roads_in.network, std::make_shared<const places::DemandSet>(), std::make_shared<const places::SiteSet>()}, q,
        nullptr, task);
    // One search a stop for the way, and one more a stop for the order.
    const std::size_t searches = at.size() * (best_order ? 2 : 1);
    const auto prepared = routing::worth_ordering(*ready->graph, searches, task)
                              ? prepare_searches(*ready, nullptr, nullptr, task)
                              : nullptr;
    const auto way = service::itinerary(*ready, prepared.get(), at, best_order, task);
    console.note("");
    fmt::print("{:.1f} min, {:.2f} km over stops", way.time.minutes(), way.distance.kilometres());
    for (const auto i : way.order) fmt::print(" {}", i + 1);
    fmt::print("\n");
    for (const auto& s : way.steps)
        fmt::print("  {} {}, {:.0f} m\n", describe(s.turn), s.road.empty() ? "an unnamed road" : s.road,
                   s.distance.metres());
    if (!out.empty()) {
        files::write_text(out,
                          fmt::format(R"({{"type":"FeatureCollection","features":[{{"type":"Feature","geometry":{},)"
                                      R"("properties":{{"minutes":{},"metres":{}}}}}]}})",
                                      files::geojson_shape(way.line), plain_number(way.time.minutes()),
                                      plain_number(way.distance.metres())) +
                              "\n");
    }
    return kDone;
}

}  // namespace

std::unique_ptr<Command> route_command() { return std::make_unique<RouteBy>(); }

}  // namespace otoro::batch
