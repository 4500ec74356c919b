#include <fmt/ranges.h>

#include <algorithm>

#include "batch/command.h"
#include "files/add_data.h"
#include "files/pairs_between.h"
#include "geo/wording.h"
#include "service/pair_matrix.h"

namespace otoro::batch {
namespace {

/// Points at which journeys begin or end.
struct EndOptions {
    FileOptions files;
    std::string id;

    void add_to(Options& app, const std::string& what, const std::string& about) {
        files.add_to(app, what, about, FileOptions::How::maybe_one, true);
        app.add_option("--" + what + "-id", id, "field of their id ('id')").type_name("FIELD");
    }
};

struct Table : Command {
    Asking asking;
    EndOptions from, to;
    std::string out, statistics;
    std::uint32_t nearest = 0;
    bool wide = false;
    std::optional<Options> options;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;

private:
    struct Asked {
        Asking::Ready ready;
        files::PairNames names;
    };
    [[nodiscard]] Asked sites_and_demand(Console& console, const Task& task) const;
    [[nodiscard]] Asked from_and_to(Console& console, const Task& task) const;
    void check_options() const;
    [[nodiscard]] bool given(const char* option) const { return options->given(option); }
};

void Table::add_to(Options& app) {
    options = app;
    asking.add_to(app, QuestionOptions::kLimit, false);
    from.add_to(app, "from", "points that journeys begin at, instead of --demand and --sites");
    to.add_to(app, "to", "points that they lead to (those of --from)");
    app.add_option("--out", out,
                   fmt::format("where the table goes: {} or .gpkg. One row for every two with a way between them, "
                               "within the limit if there is one",
                               fmt::join(files::table_endings(), ", ")))
        .type_name("FILE");
    auto few = app.add_option("--nearest", nearest,
                              "only so many nearest sites of each place, or so many nearest of each --from")
                   .positive();
    app.add_flag("--wide", wide,
                 "one row for each, with a column for each of the others, in minutes or metres as "
                 "--measure says")
        .excludes(few);
    app.add_option("--statistics", statistics,
                   "also write mean, median, 90th percentile and worst, over all and for each, as CSV")
        .type_name("FILE")
        .excludes(few);
}

void Table::check_options() const {
    if (out.empty() && statistics.empty()) throw OptionRequired("--out or --statistics");
    if (wide && out.empty()) throw Misuse("--wide", "it goes with --out");
    if (!given("--travel")) throw OptionRequired("--travel");
    const bool ends = from.files.given() || to.files.given();
    const bool places = asking.places.demand.given() || asking.places.sites.given();
    if (ends && places) throw Misuse("--from, --demand", "name --from and --to, or --demand and --sites");
    if (ends && !from.files.given()) throw OptionRequired("--from");
    if (ends && given("--towards")) throw Misuse("--towards", "journeys go from --from to --to; leave it out");
    if (ends && asking.changes.given_sites())
        throw Misuse("--open, --close", "they change sites; with --from there are none");
    if (ends) return;
    if (!asking.places.demand.given()) throw OptionRequired("--demand");
    if (!asking.places.sites.given()) throw OptionRequired("--sites");
    if (!given("--towards")) throw OptionRequired("--towards");
    if (!given("--measure")) throw OptionRequired("--measure");
}

Table::Asked Table::sites_and_demand(Console& console, const Task& task) const {
    Asked asked{asking.ready_to_ask(console, task), {}};
    const auto& inputs = asked.ready.ready->inputs;
    asked.names = {"site", "demand", false, false, {}, {}, {}, {}};
    for (const auto& s : sites_under(inputs.sites, asked.ready.plan, asked.ready.ready->question.use)) {
        asked.names.sites.push_back(files::end_of(s.site));
        asked.names.site_at.push_back(s.site.position);
    }
    for (std::uint32_t i = 0; i < inputs.demand.count(); ++i) {
        asked.names.places.push_back({inputs.demand.at(i).id, ""});
        asked.names.place_at.push_back(inputs.demand.at(i).position);
    }
    return asked;
}

Table::Asked Table::from_and_to(Console& console, const Task& task) const {
    auto question = asking.asked.question();
    question.profile = asking.roads.heeding_heights(std::move(question.profile), console);
    const auto roads = read_roads(asking.roads, question.profile, task);
    tell_reading(console, roads.origin);
    const auto rule = asking.places.attaching.rule();
    const auto begins = with_rule(*read_points(from.files.choices().front(), from.id, console, task), rule);
    const auto ends =
        to.files.given() ? with_rule(*read_points(to.files.choices().front(), to.id, console, task), rule) : begins;
    auto between = files::pairs_between(roads.network, question, begins, ends, nearest > 0, nullptr, task);
    Asked asked{{std::move(between.ready), {}}, std::move(between.names)};
    asking.changes.add_changes(asked.ready.plan, *roads.network, asked.ready.ready->inputs.sites, console, task);
    return asked;
}

int Table::run() const {
    check_options();
    Console console(asking.quiet);
    const Task task = console.task();
    auto taken = asking.inputs();
    for (const auto* files : {&from.files, &to.files})
        taken.insert(taken.end(), files->paths.begin(), files->paths.end());
    auto endings = files::table_endings();
    endings.emplace_back(".gpkg");
    check_output("--out", out, endings, taken);
    taken.push_back(out);
    check_output("--statistics", statistics, {".csv"}, taken);
    auto asked = from.files.given() ? from_and_to(console, task) : sites_and_demand(console, task);
    const auto& ready = *asked.ready.ready;
    const auto planned = sites_under(ready.inputs.sites, asked.ready.plan, ready.question.use);
    const auto in_use = static_cast<std::size_t>(
        std::count_if(planned.begin(), planned.end(), [](const service::PlannedSite& s) { return s.in_use; }));
    const std::size_t places = ready.inputs.demand.count();
    const bool metres = ready.question.measure() == routing::Measure::distance;

    const auto tell_left_out = [&](const service::PairsLeftOut& left_out, const files::PairNames& names) {
        for (const auto& why : files::left_out_words(left_out, names, ready.question, true)) console.warn(why);
    };
    if (wide || !statistics.empty()) {
        const auto matrix = pair_matrix(ready, asked.ready.plan, task);
        tell_left_out(service::left_out(matrix, ready, asked.ready.plan), asked.names);
        if (!statistics.empty()) {
            const auto found = service::statistics(matrix, from.files.given() && !to.files.given(), task);
            files::write_table(files::statistics_table(found, matrix, asked.names), statistics, task);
            console.note("");
            fmt::print("{} pairs", said_whole(found.all.pairs));
            if (found.all.pairs > 0)
                fmt::print(": mean {:.2f} min, median {:.2f}, 90th percentile {:.2f}, worst {:.2f}",
                           found.all.time.mean / 60'000, Millis(found.all.time.median).minutes(),
                           Millis(found.all.time.p90).minutes(), Millis(found.all.time.worst).minutes());
            fmt::print("; {} without a way{}\n", said_whole(found.all.without),
                       ready.question.limit ? " within the limit" : "");
        }
        if (wide) {
            console.note(files::write_wide(matrix, asked.names, asked.names.site == "site", metres, out, task));
            fmt::print("{} by {}\n", said_whole(asked.names.site == "site" ? places : in_use),
                       said_whole(asked.names.site == "site" ? in_use : places));
        }
        if (wide || out.empty()) return kDone;
    }
    files::PairNames names = std::move(asked.names);
    const std::string what = names.site == "site"
                                 ? fmt::format("from {} sites to {} places", said_whole(in_use), said_whole(places))
                                 : fmt::format("{} by {}", said_whole(in_use), said_whole(places));
    const files::PairWriter writer(names, nearest > 0);
    const double most = static_cast<double>(nearest > 0 ? std::min<std::size_t>(nearest, in_use) : in_use) *
                        static_cast<double>(places);
    if (most >= 1e6)
        console.note(
            fmt::format("up to {:.1f} million rows, about {:.0f} MB as CSV", most / 1e6, writer.bytes_for(most) / 1e6));
    const auto written = writer.write(ready, asked.ready.plan, nearest, out, task);
    console.note(written.remark);
    tell_left_out(written.left_out, names);
    fmt::print("{} rows, {}\n", said_whole(written.rows), what);
    if (written.without > 0)
        fmt::print("{} {} without a way{}\n", written.without, nearest > 0 ? "places" : "pairs",
                   ready.question.limit ? " within the limit" : "");
    return kDone;
}

}  // namespace

std::unique_ptr<Command> table_command() { return std::make_unique<Table>(); }

}  // namespace otoro::batch
