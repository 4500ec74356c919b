/// Access where supply meets demand.
#include <fmt/format.h>

#include "batch/command.h"
#include "files/access_file.h"
#include "files/atomic_file.h"
#include "geo/wording.h"
#include "service/floating_catchment.h"
#include "service/sentence.h"

namespace otoro::batch {
namespace {

struct AccessOf : Command {
    Asking asking;
    std::string catchment, capacity, sites_out, out;

    void add_to(Options& app) override {
        asking.add_to(app, QuestionOptions::kWeight);
        app.add_option("--catchment", catchment, "how far places are shared: 15min, 2km")
            .required()
            .reads_as("AMOUNT", parse_amount);
        app.add_option(
               "--capacity", capacity,
               "field of the sites with how many places each has (found by name; without one each site counts one)")
            .type_name("FIELD");
        app.add_option("--sites-out", sites_out, "supply, demand and places a head of every site, as CSV")
            .type_name("FILE");
        app.add_option("--out", out, "where the table goes, as CSV: a row a demand place").required().type_name("FILE");
    }
    [[nodiscard]] int run() const override {
        const Amount within = parsed("--catchment", catchment, parse_amount);
        std::vector<std::string> taken = asking.inputs();
        check_output("--sites-out", sites_out, {".csv"}, taken);
        taken.push_back(sites_out);
        check_output("--out", out, {".csv"}, taken);
        Console console(asking.quiet);
        const Task task = console.task();
        auto with_capacity = asking;
        with_capacity.places.site_capacity = capacity;
        service::Plan plan;
        const auto study = with_capacity.read(console, task, plan);
        const auto ready = prepare(*study.inputs(), study.question(), nullptr, task);
        const auto outcome = service::answer(*ready, plan, task);
        const auto access = floating_catchment(*ready, outcome, within, task);
        if (!sites_out.empty()) files::write_text(sites_out, files::supply_csv(outcome, access));
        files::write_text(out, files::access_csv(*ready, outcome, access));
        console.note("");
        const std::string whom = counted(ready->question, ready->inputs.demand);
        std::string field;
        if (const auto& fields = study.sites.front().origin.fields; access.by_capacity && fields.contains("capacity"))
            field = fmt::format(" ('{}')", fields.at("capacity"));
        fmt::print("{} {}{} for every 1,000 {} on average within {}; {} have none.\n",
                   said_shortly(1'000 * access.mean, 4), access.by_capacity ? "places" : "sites", field, whom,
                   describe(within), describe(access.none.weight));
        return kDone;
    }
};

}  // namespace

std::unique_ptr<Command> access_command() { return std::make_unique<AccessOf>(); }

}  // namespace otoro::batch
