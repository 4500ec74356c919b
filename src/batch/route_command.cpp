#include <fmt/format.h>

#include "batch/command.h"
#include "batch/reach_options.h"
#include "files/add_data.h"
#include "files/atomic_file.h"
#include "files/route_table.h"
#include "geo/amounts.h"
#include "service/itinerary.h"

namespace otoro::batch {
namespace {

struct RouteBy : Command {
    RoadOptions roads;
    std::vector<std::string> stops;
    FileOptions stop_file;
    std::string travel = "drive", speed, measure = "time", attach_limit = "250m", closures, out, text;
    bool best_order = false, round = false, quiet = false;

    void add_to(Options& app) override {
        roads.add_to(app);
        app.add_option("--stop", stops, "a stop, longitude,latitude; named again for each further one, in order")
            .reads_as("LON,LAT", parse_position);
        stop_file.add_to(app, "stops", "points to stop at, in the order of their records, after those named by --stop",
                         FileOptions::How::maybe_one, true);
        app.add_flag("--best-order", best_order,
                     "visit the stops between the first and the last in the best order (up to 12); of a round all "
                     "but the first");
        app.add_flag("--round", round, "come back to the first stop at the end");
        app.add_option("--closures", closures, "roads closed, slowed or delayed, as for the other commands")
            .type_name("FILE");
        app.add_option("--travel", travel, std::string("how they travel: ") + kTravel).required().type_name("PROFILE");
        app.add_option("--speed", speed, "one speed for all roads, such as 40km/h").reads_as("SPEED", parse_speed);
        app.add_option("--measure", measure, "what best means").one_of({"time", "distance"}).shows_default();
        app.add_option("--attach-limit", attach_limit, "farthest road that a stop is joined to")
            .shows_default()
            .reads_as("LENGTH", parse_length);
        app.add_option("--out", out, "also write the line: .geojson, .gpkg, .fgb or .shp").type_name("FILE");
        app.add_option("--text", text, "also write what is printed to a text file").type_name("FILE");
        app.add_flag("--quiet", quiet, "no progress, and no remarks but on how numbers were read");
    }
    [[nodiscard]] int run() const override;

private:
    [[nodiscard]] std::vector<service::Stop> read_stops(Console& console, const Task& task) const;
};

int RouteBy::run() const {
    Console console(quiet);
    const Task task = console.task();
    service::Question q;
    q.profile = profile_of(travel);
    if (!speed.empty()) q.profile.one_speed = parsed("--speed", speed, parse_speed);
    q.profile = roads.heeding_heights(std::move(q.profile), console);
    q.serving = service::Nearest{measure == "time" ? routing::Measure::time : routing::Measure::distance};
    q.attach_limit = parsed("--attach-limit", attach_limit, parse_length);
    auto taken = roads.paths;
    for (const auto& path : {roads.heights, travel, closures}) taken.push_back(path);
    taken.insert(taken.end(), stop_file.paths.begin(), stop_file.paths.end());
    check_output("--out", out, files::shape_endings(), taken);
    taken.push_back(out);
    check_output("--text", text, {}, taken);
    const auto all = read_stops(console, task);
    const auto roads_in = read_roads(roads, q.profile, task);
    tell_reading(console, roads_in.origin);
    const auto today = prepare(
        {roads_in.network, std::make_shared<const places::DemandSet>(), std::make_shared<const places::SiteSet>()}, q,
        nullptr, task);
    PlanOptions changes;
    changes.closures = closures;
    service::Plan plan;
    changes.add_changes(plan, *roads_in.network, {}, console, task);
    const auto ready = under_closures(*today, plan, task);
    // One search a stop for the way, and one more a stop for the order.
    const std::size_t searches = all.size() * (best_order ? 2 : 1);
    const auto prepared = routing::worth_ordering(*ready->graph, searches, task)
                              ? prepare_searches(*ready, nullptr, nullptr, task)
                              : nullptr;
    std::vector<geo::LonLat> at;
    for (const auto& s : all) at.push_back(s.at);
    const auto way = service::itinerary(*ready, prepared.get(), at, {best_order, round}, task);
    console.note("");
    const std::string said = files::route_text(way, all);
    fmt::print("{}", said);
    if (!text.empty()) files::write_text(text, said);
    if (!out.empty()) console.note(files::write_table(files::route_table(way), out, task));
    return kDone;
}

std::vector<service::Stop> RouteBy::read_stops(Console& console, const Task& task) const {
    std::vector<service::Stop> all;
    for (const auto& s : stops) all.push_back({"", parsed("--stop", s, parse_position)});
    if (stop_file.given()) {
        const auto layer = stop_file.choices().front();
        const auto points = read_points(layer, "", console, task);
        for (std::size_t i = 0; i < points->sites.size(); ++i) {
            const auto& s = points->sites[i];
            if (!s.position)
                throw InputError({layer.path, static_cast<std::int64_t>(i) + 1, "it gives no place on the globe",
                                  "Give it a place, or leave it out"});
            all.push_back({service::label(s), *s.position});
        }
    }
    if (all.empty()) throw OptionRequired("--stop or --stops");
    return all;
}

}  // namespace

std::unique_ptr<Command> route_command() { return std::make_unique<RouteBy>(); }

}  // namespace otoro::batch
