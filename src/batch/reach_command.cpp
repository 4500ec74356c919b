/// How far sites, or spots, reach.
#include <fmt/format.h>

#include "batch/command.h"
#include "batch/reach_options.h"
#include "files/add_data.h"
#include "files/read_areas.h"
#include "files/write_reach.h"
#include "geo/wording.h"
#include "reach/overlay.h"

namespace otoro::batch {
namespace {

struct ReachOf : Command {
    ReachAsking asking;
    LimitOptions limits;
    std::string overlap = "nearest", clip, off_water, simplify, least_area, out, roads_out, lines_out, interval,
                circles_out, radius, circle_speed;
    bool full = false;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;
    void read_areas(service::ReachRequest& request, const service::Ready& ready, const Task& task) const;
};

void ReachOf::add_to(Options& app) {
    asking.add_to(app, 0);  // its --limit-field says how far
    limits.add_to(app);
    app.add_option("--overlap", overlap,
                   "ground that several sites reach: each site's own, the nearest one's, all "
                   "merged, or the count of sites")
        .one_of({"each", "nearest", "merged", "count"})
        .shows_default();
    app.add_flag("--full", full, "every area from the site to its limit, not from limit to limit");
    app.add_option("--clip", clip, "only what lies in these zones").type_name("FILE");
    app.add_option("--off-water", off_water, "without what lies in this water").type_name("FILE");
    app.add_option("--simplify", simplify, "edges may be that far from where they were found, such as 5m")
        .reads_as("LENGTH", parse_length);
    app.add_option("--least-area", least_area, "leave out islands and holes of fewer square metres")
        .positive()
        .type_name("NUMBER");
    app.add_option("--out", out, "where the areas go: .gpkg, .geojson, .fgb or .shp").required().type_name("FILE");
    app.add_option("--roads-out", roads_out, "also the roads reached, cut where the limits fall").type_name("FILE");
    auto const lines =
        app.add_option("--lines-out", lines_out, "also lines of equal time or distance over ground").type_name("FILE");
    app.add_option("--interval", interval, "between two such lines, such as 1min; without it one a limit")
        .reads_as("AMOUNT", parse_amount)
        .needs(lines);
    auto const circles = app.add_option("--circles-out", circles_out,
                                        "also straight-line circles, with what they promise and the road "
                                        "denies")
                             .type_name("FILE");
    app.add_option("--circle-radius", radius, "of the circles; else the limit, if it is a length")
        .reads_as("LENGTH", parse_length)
        .needs(circles);
    app.add_option("--circle-speed", circle_speed, "how fast one would come straight, such as 40km/h")
        .reads_as("SPEED", parse_speed)
        .needs(circles);
}

/// Zones that areas are clipped to, and water that they are kept off.
void ReachOf::read_areas(service::ReachRequest& request, const service::Ready& ready, const Task& task) const {
    const auto& network = *ready.inputs.network;
    if (!clip.empty()) {
        std::vector<geo::Area> areas;
        const auto zones = files::add_zones({files::LayerChoice{clip, "", ""}}, "", task).set;
        for (const auto& z : zones->zones) areas.push_back(z.area);
        request.within = std::make_shared<const reach::Polygons>(service::ground_in(std::move(areas), network));
    }
    if (!off_water.empty())
        request.off = std::make_shared<const reach::Polygons>(
            service::ground_in(*files::add_water(files::LayerChoice{off_water, "", ""}, task).areas, network));
}

int ReachOf::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    if (!interval.empty() && !limits.field.empty())
        throw Misuse("--interval", "it needs limits that hold for all sites");
    std::vector<std::string> taken = asking.inputs();
    for (const auto& path : {clip, off_water})
        if (!path.empty()) taken.push_back(path);
    for (const auto& [option, path] : {std::pair("--out", out), std::pair("--roads-out", roads_out),
                                       std::pair("--lines-out", lines_out), std::pair("--circles-out", circles_out)}) {
        if (path.empty()) continue;
        check_output(option, path, files::shape_endings(), taken);
        taken.push_back(path);
    }
    auto options = asking;
    options.places.site_limit = limits.field;
    const auto [ready, plan] = options.ready_to_ask(console, task);
    service::ReachRequest request;
    request.overlap = *service::parse_overlap(overlap);
    request.full = full;
    if (!simplify.empty()) request.simplify_metres = parsed("--simplify", simplify, parse_length).metres();
    if (!least_area.empty()) request.least_square_metres = std::stod(least_area);
    limits.fill(request, *ready, plan);
    std::vector<Amount> lines_between;
    if (!interval.empty())
        lines_between = steps("--interval", parsed("--interval", interval, parse_amount), request.limits.back());

    read_areas(request, *ready, task);
    const auto reach = reach_areas(ready, plan, request, task);
    console.note(write_table(files::reach_table(*ready, reach), out, task));
    if (!roads_out.empty()) {
        const auto roads = reached_roads(ready, plan, request, task);
        console.note(write_table(files::roads_table(*ready, reach, roads), roads_out, task));
    }
    if (!lines_out.empty()) {
        auto lines = request;
        if (!interval.empty()) lines.limits = lines_between;
        const auto found = equal_lines(ready, plan, lines, task);
        console.note(write_table(files::lines_table(*ready, found), lines_out, task));
    }
    if (!circles_out.empty()) {
        const auto circles = reach_circles(
            ready, plan, request,
            radius.empty() ? std::nullopt : std::optional(parsed("--circle-radius", radius, parse_length)),
            circle_speed.empty() ? std::nullopt : std::optional(parsed("--circle-speed", circle_speed, parse_speed)),
            task);
        console.note(write_table(files::circles_table(*ready, reach, circles), circles_out, task));
    }

    double square_metres = 0;
    for (const auto& a : reach.areas) square_metres += a.square_metres;
    for (std::size_t i = 0; i < reach.sites.size(); ++i) {
        const auto& s = reach.sites[i];
        const bool no_limit = !request.own_limits.empty() && !request.own_limits[i];
        if (!s.planned.in_use || (s.attachment && !no_limit)) continue;
        console.warn(fmt::format("site {} is left out: {}", s.planned.site.id,
                                 s.attachment ? "its record gives no limit of its own"
                                              : service::off_road_words(s.planned.site.position.has_value())));
    }
    if (!reach.rim.empty()) {
        const auto& end = reach.rim.front();
        console.note(
            fmt::format("the roads end before the limit does at {} of their ends, with {} left at {:.5f},{:.5f}"
                        "{}; what lies beyond is not known",
                        reach.rim.size(), describe(end.left), end.at.lon, end.at.lat,
                        end.road.empty() ? "" : " (" + end.road + ")"));
    }
    fmt::print("{} areas, {:.3f} square km in all{}\n", reach.areas.size(), square_metres / 1e6,
               reach.areas.empty() ? "; nothing is reached" : "");
    return kDone;
}

}  // namespace

std::unique_ptr<Command> reach_command() { return std::make_unique<ReachOf>(); }

}  // namespace otoro::batch
