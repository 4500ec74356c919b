#include <fmt/ranges.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "batch/command.h"
#include "batch/file_names.h"
#include "files/add_data.h"
#include "files/answer_json.h"
#include "files/atomic_file.h"
#include "files/fields_beside.h"
#include "files/study_file.h"
#include "files/write_answer.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/reassign.h"
#include "service/sentence.h"
#include "service/values_of_places.h"

namespace otoro::batch {
namespace {

/// Nothing for all.
std::optional<Amount> parse_saving(const std::string& text) {
    return text == "all" ? std::nullopt : std::optional(parse_amount(text));
}

Weight parse_places(const std::string& text) {
    double places = 0;
    if (!parse_number(text, places) || places <= 0 || places > Weight::kMost)
        refuse("", fmt::format("'{}' is no number of places", text), "");
    return Weight::of(places);
}

struct Assign : Command {
    Asking asking;
    std::string out, as = "points", loads, json, reassign_over, flows, more_places;
    bool fields = false, ids_only = false;

    void add_to(Options& app) override {
        asking.add_to(app, QuestionOptions::kAll | QuestionOptions::kEveryRule);
        app.add_option("--out", out, fmt::format("where the answer goes: {}", fmt::join(files::all_endings(), ", ")))
            .required()
            .type_name("FILE");
        app.add_option(
               "--as", as,
               "where the format holds shapes: places as points, straight lines from place to site, or journeys "
               "along the roads")
            .one_of({"points", "lines", "journeys"})
            .shows_default();
        auto all = app.add_flag("--fields", fields, "with all the fields of the demand's file beside");
        app.add_flag("--ids-only", ids_only, "only demand_id and site_id, and the rank where there are several")
            .excludes(all);
        app.add_option("--loads", loads, "also write one row a site, as CSV").type_name("FILE");
        app.add_option("--json", json, "also write what it comes to: counts, verdict, loads, what capacities cost")
            .type_name("FILE");
        app.add_option("--reassign-over", reassign_over,
                       "with --recorded: who saves more than this by going to the nearest site gets it as "
                       "reassigned_site_id, such as 5min; all: whoever saves anything, and who has no site on record")
            .reads_as("AMOUNT|all", parse_saving);
        app.add_option("--more-places", more_places,
                       "with --capacity and --json: also what so many more places at each full site would bring, such "
                       "as 10; each is an answer of its own")
            .reads_as("PLACES", parse_places);
        app.add_option("--flows", flows,
                       "with --reassign-over: also write how many move from which site to which, as CSV")
            .type_name("FILE");
    }
    [[nodiscard]] int run() const override;

private:
    [[nodiscard]] std::optional<service::WhoMoves> who_moves() const;
    [[nodiscard]] std::optional<Weight> more_room() const;
};

std::optional<service::WhoMoves> Assign::who_moves() const {
    if (reassign_over.empty()) {
        if (!flows.empty()) throw Misuse("--flows", "it goes with --reassign-over");
        return std::nullopt;
    }
    if (asking.asked.serving.recorded.empty()) throw Misuse("--reassign-over", "it goes with --recorded");
    service::WhoMoves who;
    who.saving_more_than = parsed("--reassign-over", reassign_over, parse_saving);
    return who;
}

std::optional<Weight> Assign::more_room() const {
    if (more_places.empty()) return std::nullopt;
    if (asking.asked.serving.capacity.empty() || json.empty())
        throw Misuse("--more-places", "it goes with --capacity and --json");
    return parsed("--more-places", more_places, parse_places);
}

/// What the table of pairs says of whom, where it decides.
std::optional<service::ValuesOfPlaces> values_of_pairs(Console& console, const service::Ready& ready,
                                                       const service::Outcome& o) {
    if (!ready.inputs.pairs || !std::holds_alternative<service::ByPairs>(o.question.serving)) return std::nullopt;
    service::ValuesOfPlaces values(ready.inputs, o.sites);
    for (const auto& [count, who] :
         {std::pair{values.of_unknown_demand, "demand place"}, std::pair{values.of_unknown_sites, "site"}})
        if (count > 0)
            console.note(fmt::format("{} of {} pairs name an id that no {} has", said_whole(count),
                                     said_whole(ready.inputs.pairs->count()), who));
    if (std::get<service::ByPairs>(o.question.serving).else_nearest) {
        const auto by_value = [&](std::uint32_t i) {
            const auto of = values.of(i);
            return std::any_of(of.begin(), of.end(), [&](const auto& v) { return v.site == *o.places[i].site; });
        };
        std::uint64_t others = 0;
        for (std::uint32_t i = 0; i < o.places.size(); ++i)
            if (o.places[i].site && !by_value(i)) ++others;
        console.note(
            fmt::format("{} of {} places have no value with a site that there is a way to; theirs is the "
                        "nearest",
                        said_whole(others), said_whole(o.places.size())));
    }
    return values;
}

void tell_idle_sites(Console& console, const service::Outcome& o) {
    for (const auto& s : o.sites)
        if (s.planned.in_use && !s.attachment)
            console.note(fmt::format("site {} serves nobody: {}", s.planned.site.id,
                                     s.planned.site.position ? "no road that this traveller may use is near it"
                                                             : "it has no place on the globe"));
}

int Assign::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    auto taken = asking.inputs();
    check_output("--out", out, files::all_endings(), taken);
    taken.push_back(out);
    check_output("--loads", loads, {".csv"}, taken);
    taken.push_back(loads);
    check_output("--json", json, {".json"}, taken);
    taken.push_back(json);
    check_output("--flows", flows, {".csv"}, taken);
    const auto who = who_moves();
    const auto more = more_room();
    const auto [ready, plan] = asking.ready_to_ask(console, task);
    const auto outcome = service::answer(*ready, plan, task);
    tell_idle_sites(console, outcome);
    const auto values = values_of_pairs(console, *ready, outcome);
    const auto moved = who ? std::optional(reassign(*ready, outcome, *who)) : std::nullopt;
    files::AnswerWanted wanted;
    wanted.shape = as == "points"  ? files::AnswerShape::points
                   : as == "lines" ? files::AnswerShape::lines
                                   : files::AnswerShape::journeys;
    wanted.ids_only = ids_only;
    std::vector<files::FieldsOf> of;
    for (const auto& layer : asking.places.demand.choices()) of.push_back({layer, ""});
    if (fields) wanted.beside = fields_beside(ready->inputs.demand, of, task);
    if (moved) wanted.reassigned = moved->sites;
    console.note(files::write_answer(*ready, outcome, out, wanted, task));
    if (!loads.empty()) files::write_loads(outcome, loads);
    if (!flows.empty()) files::write_text(flows, files::flows_csv(outcome, *moved));
    if (!json.empty()) {
        auto said = files::answer_json(*ready, outcome);
        constexpr std::size_t kWorst = 10;
        said["detours"] = files::detours_json(*ready, outcome, kWorst);
        if (more)
            said["more_places"] = files::more_room_json(outcome, worth_of_more_room(*ready, outcome, *more, task));
        if (values)
            said["pairs"] = {{"rows", ready->inputs.pairs->count()},
                             {"of_unknown_demand", values->of_unknown_demand},
                             {"of_unknown_sites", values->of_unknown_sites}};
        if (moved) said["reassigned"] = files::reassigned_json(outcome, *moved);
        files::write_text(json, said.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
    }
    console.note(outcome.searched);
    fmt::print("{}", files::summary(*ready, outcome));
    if (moved)
        fmt::print("Reassigned: {} places, weight {}, save {} in all\n", said_whole(moved->moved.places),
                   describe(moved->moved.weight), files::travel_words(outcome, moved->saved));
    return kDone;
}

struct Answer : Command {
    std::string study, question, plan, out, zones;
    PlanOptions changes;
    bool quiet = false;

    void add_to(Options& app) override {
        app.add_option("study", study, "a study saved by Otoro").required().type_name("STUDY");
        app.add_option("--question", question, "the question to answer (the one that was in sight when it was saved)")
            .type_name("NAME");
        app.add_option("--plan", plan, "the plan to answer (every plan of the study)").type_name("NAME");
        changes.add_to(app);
        app.add_option("--zones", zones, "sum up by these areas instead of the study's").type_name("FILE");
        app.add_option("--out", out, "folder for the tables; made if it is not there").required().type_name("DIR");
        app.add_flag("--quiet", quiet, "no progress, and no remarks but on how numbers were read");
    }
    [[nodiscard]] int run() const override;

private:
    void choose_question(service::Study& s) const;
    [[nodiscard]] std::vector<service::Plan> wanted_plans(const service::Study& s, Console& console,
                                                          const Task& task) const;
};

constexpr const char* kOfSites = "_sites";

void Answer::choose_question(service::Study& s) const {
    if (question.empty()) return;
    std::vector<std::string> names;
    for (const auto& q : s.questions) names.push_back(q.name);
    const auto at = std::find(names.begin(), names.end(), question);
    if (at == names.end())
        throw InputError({study, std::nullopt, fmt::format("it has no question '{}'", question),
                          fmt::format("It has: {}", service::listed(names))});
    s.in_sight = static_cast<std::size_t>(at - names.begin());
}

/// The plans to answer; with changes named as well, the one plan with them added.
std::vector<service::Plan> Answer::wanted_plans(const service::Study& s, Console& console, const Task& task) const {
    std::vector<service::Plan> plans = s.plans;
    if (!plan.empty()) {
        const auto* chosen = s.find_plan(plan);
        if (!chosen)
            throw InputError({study, std::nullopt, fmt::format("it has no plan '{}'", plan), "Name one of its plans"});
        plans = {*chosen};
    }
    if (!changes.given()) return plans;
    plans.resize(1);
    changes.add_changes(plans[0], *s.roads->network, s.sites_of(s.question()), console, task);
    plans[0].name += ", changed";
    return plans;
}

int Answer::run() const {
    Console console(quiet);
    const Task task = console.task();
    std::vector<std::string> remarks;
    auto s = files::open_study(study, task, &remarks);
    for (const auto& r : remarks) console.note(study + ": " + r);
    choose_question(s);
    if (!zones.empty()) {
        auto in = files::add_zones({{zones, "", ""}}, "", task);
        in = renamed(std::move(in), set_names(s, service::SetKind::zones));
        tell_reading(console, in.origin);
        s.question().zones = in.set->name;
        s = with_zones(std::move(s), std::move(in));
    }
    const auto inputs = s.inputs();
    if (!inputs)
        throw InputError(
            {study, std::nullopt, "it has no roads, no demand or no sites yet", "Add them in the window and save it"});
    const std::vector<service::Plan> plans = wanted_plans(s, console, task);
    files::make_folder(out);

    // Whatever cannot be written is refused before anything is worked out.
    std::vector<std::string> stems;
    FileNames names({"summary"}, {"", kOfSites}, kCompared);
    const std::string summary_file = (std::filesystem::path(out) / "summary.txt").string();
    const std::vector<std::string> taken{study, zones, changes.closures};
    check_table(s, summary_file, taken);
    for (const auto& p : plans) {
        stems.push_back((std::filesystem::path(out) / names.next(p.name)).string());
        for (const char* ending : {".csv", ".gpkg", ".geojson"}) check_table(s, stems.back() + ending, taken);
        check_table(s, stems.back() + kOfSites + ".csv", taken);
    }

    const auto ready = prepare(*inputs, s.question(), nullptr, task);
    std::string all;
    for (std::size_t i = 0; i < plans.size(); ++i) {
        const auto outcome = service::answer(*ready, plans[i], task);
        const std::string& stem = stems[i];
        for (const char* ending : {".csv", ".gpkg", ".geojson"})
            files::write_answer(*ready, outcome, stem + ending, files::AnswerShape::points, task);
        files::write_loads(outcome, stem + kOfSites + ".csv");
        all += files::summary(*ready, outcome) + "\n";
    }
    files::write_text(summary_file, all);
    fmt::print("{}", all);
    return kDone;
}

}  // namespace

std::unique_ptr<Command> assign_command() { return std::make_unique<Assign>(); }
std::unique_ptr<Command> answer_command() { return std::make_unique<Answer>(); }

}  // namespace otoro::batch
