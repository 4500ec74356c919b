/// Ground that no site reaches within a limit, patch by patch.
#include <fmt/format.h>

#include "batch/command.h"
#include "batch/reach_options.h"
#include "files/write_reach.h"
#include "geo/wording.h"
#include "service/cover.h"

namespace otoro::batch {
namespace {

struct UncoveredOf : Command {
    ReachAsking asking;
    std::string limit, least_area, out;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;
};

void UncoveredOf::add_to(Options& app) {
    asking.add_to(app);
    app.add_option("--limit", limit, "how far, such as 8min or 800m").required().reads_as("AMOUNT", parse_amount);
    app.add_option("--least-area", least_area, "leave out patches without places of fewer square metres")
        .positive()
        .type_name("NUMBER");
    app.add_option("--out", out, "where the patches go, heaviest first: .gpkg, .geojson, .fgb or .shp")
        .required()
        .type_name("FILE");
}

int UncoveredOf::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    check_output("--out", out, files::shape_endings(), asking.inputs());
    const Amount how_far = parsed("--limit", limit, parse_amount);
    const auto [ready, plan] = asking.ready_to_ask(console, task);
    const double least = least_area.empty() ? 0 : std::stod(least_area);
    const auto found = uncovered(ready, plan, how_far, least, task);
    const auto sites = attach_sites(*ready, plan);
    console.note(write_table(files::uncovered_table(*ready, sites, how_far, found), out, task));
    service::Tally all;
    for (const auto& p : found.patches) {
        all.places += p.inside.places;
        all.weight += p.inside.weight;
    }
    if (found.left_out > 0)
        console.note(fmt::format("{} patches without places are smaller than {} square metres and left out",
                                 said_whole(found.left_out), least_area));
    if (found.elsewhere.places > 0)
        console.note(
            fmt::format("{} places, weight {}, are not within the limit and stand on no such ground: they are "
                        "attached by hand, by the name of their road or by a rule of their own",
                        said_whole(found.elsewhere.places), describe(found.elsewhere.weight)));
    all.places += found.elsewhere.places;
    all.weight += found.elsewhere.weight;
    fmt::print("{} patches, {:.3f} square km near roads, {} places and weight {} are not within {}\n",
               said_whole(found.patches.size()), found.square_metres / 1e6, said_whole(all.places),
               describe(all.weight), describe(how_far));
    return kDone;
}

}  // namespace

std::unique_ptr<Command> uncovered_command() { return std::make_unique<UncoveredOf>(); }

}  // namespace otoro::batch
