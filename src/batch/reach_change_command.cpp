/// Two reaches laid over one another: what the second gains and loses against the first.
#include <fmt/format.h>

#include "batch/command.h"
#include "batch/reach_options.h"
#include "files/write_reach.h"
#include "geo/wording.h"
#include "service/cover.h"

namespace otoro::batch {
namespace {

struct ReachChangeOf : Command {
    ReachAsking asking;
    PlanOptions then;
    std::string limit, then_limit, then_travel, out;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;
};

void ReachChangeOf::add_to(Options& app) {
    asking.add_to(app);
    app.add_option("--limit", limit, "how far, such as 8min or 800m").required().reads_as("AMOUNT", parse_amount);
    app.add_option("--then-limit", then_limit, "how far the second time; else as far").reads_as("AMOUNT", parse_amount);
    app.add_option("--then-travel", then_travel, "how one travels the second time; else the same way")
        .type_name("PROFILE");
    app.add_option("--then-open", then.open, "id of a site that is open the second time; named again for a further one")
        .type_name("ID")
        .one_each_time();
    app.add_option("--then-close", then.close, "id of a site that is closed the second time")
        .type_name("ID")
        .one_each_time();
    app.add_option("--then-closures", then.closures,
                   "roads that are closed or slowed the second time, besides those "
                   "of --closures")
        .type_name("FILE");
    app.add_option("--out", out, "where gained, lost and kept ground goes: .gpkg, .geojson, .fgb or .shp")
        .required()
        .type_name("FILE");
}

int ReachChangeOf::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    auto taken = asking.inputs();
    if (!then.closures.empty()) taken.push_back(then.closures);
    check_output("--out", out, files::shape_endings(), taken);
    if (then_limit.empty() && then_travel.empty() && !then.given())
        throw Misuse("--then-limit",
                     "say what is different the second time: --then-limit, "
                     "--then-travel, --then-open, --then-close or --then-closures");
    const Amount first_limit = parsed("--limit", limit, parse_amount);
    const Amount second_limit = then_limit.empty() ? first_limit : parsed("--then-limit", then_limit, parse_amount);
    const auto first = asking.ready_to_ask(console, task);
    auto second = first;
    if (!then_travel.empty()) {
        ReachAsking other = asking;
        other.asked.travel = then_travel;
        other.asked.speed.clear();  // that of the first
        second = other.ready_to_ask(console, task);
    }
    if (then.given()) {
        const auto& inputs = second.ready->inputs;
        then.add_changes(second.plan, *inputs.network, inputs.sites, console, task);
        second.plan.name += ", then changed";
    }
    const auto change =
        reach_change(first.ready, first.plan, first_limit, second.ready, second.plan, second_limit, task);
    const auto said = [](const Asking::Ready& a, const Amount& within) {
        service::ReachRequest request;
        request.limits = {within};
        return files::reach_sentence(*a.ready, request) + ", plan " + a.plan.name;
    };
    console.note(
        write_table(files::change_table(said(first, first_limit), said(second, second_limit), change), out, task));
    const auto line = [](const char* what, double square_metres, const service::Tally& inside) {
        fmt::print("{}: {:.3f} square km, {} places, weight {}\n", what, square_metres / 1e6, said_whole(inside.places),
                   describe(inside.weight));
    };
    line("gained", change.gained_square_metres, change.gained_places);
    line("lost", change.lost_square_metres, change.lost_places);
    line("kept", change.kept_square_metres, change.kept_places);
    return kDone;
}

}  // namespace

std::unique_ptr<Command> reach_change_command() { return std::make_unique<ReachChangeOf>(); }

}  // namespace otoro::batch
