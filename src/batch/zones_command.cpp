/// Whether every part of each zone is within a limit.
#include <fmt/format.h>

#include <algorithm>

#include "batch/command.h"
#include "batch/reach_options.h"
#include "files/atomic_file.h"
#include "files/write_reach.h"
#include "geo/wording.h"
#include "service/cover.h"

namespace otoro::batch {
namespace {

struct ZonesOf : Command {
    ReachAsking asking;
    std::string limit, zone_of_site, out, failing_out;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;
};

void ZonesOf::add_to(Options& app) {
    asking.add_to(app);
    app.add_option("--limit", limit, "how far, such as 4min or 800m").required().reads_as("AMOUNT", parse_amount);
    app.add_option("--zone-of-site", zone_of_site,
                   "field of the sites with the id or name of their zone: each zone by its own sites, not by any")
        .type_name("FIELD");
    app.add_option("--out", out, "where the table goes, as CSV: one row a zone").required().type_name("FILE");
    app.add_option("--failing-out", failing_out, "also the ground that fails, one row a zone").type_name("FILE");
}

int ZonesOf::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    if (!asking.places.zones.given()) throw Misuse("--zones", "zones are needed");
    std::vector<std::string> taken = asking.inputs();
    check_output("--out", out, {".csv"}, taken);
    taken.push_back(out);
    check_output("--failing-out", failing_out, files::shape_endings(), taken);
    const Amount how_far = parsed("--limit", limit, parse_amount);
    auto options = asking;
    options.places.site_zone = zone_of_site;
    const auto [ready, plan] = options.ready_to_ask(console, task);
    const auto& zones = *ready->inputs.zones;
    const auto who = zone_of_site.empty() ? service::AnswersFor::any : service::AnswersFor::own;
    const auto found = zones_covered(ready, plan, zones, how_far, who, task);

    const auto sites = sites_under(ready->inputs.sites, plan, ready->question.use);
    files::write_text(out, files::zones_csv(zones, sites, found));
    if (!failing_out.empty()) console.note(write_table(files::failing_table(zones, how_far, found), failing_out, task));
    fmt::print("{}\n", covered_words(found, how_far));
    return kDone;
}

}  // namespace

std::unique_ptr<Command> zones_command() { return std::make_unique<ZonesOf>(); }

}  // namespace otoro::batch
