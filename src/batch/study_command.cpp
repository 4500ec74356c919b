#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/read_places.h"
#include "files/study_file.h"
#include "service/sentence.h"
#include "service/study.h"

namespace otoro::batch {
namespace {

/// Files put together into a study; or, of a study that there is, one with further sets, questions and plans.
struct PutTogether : Command {
    std::string from;
    RoadOptions roads;
    PlaceOptions places;
    QuestionOptions asked;
    PlanOptions changes;
    std::string out, name, add_question, add_plan;
    std::vector<std::string> demand_sets, site_sets;
    bool quiet = false;

    void add_to(Options& app) override {
        app.add_option("study", from, "a study that is added to; without one a new study is made").type_name("STUDY");
        roads.add_to(app, false);
        places.add_to(app, QuestionOptions::kAll, false);
        const auto before = app.all().size();
        asked.add_to(app, QuestionOptions::kAll | QuestionOptions::kEveryRule, false);
        question_options_ = app.all();
        question_options_.erase(question_options_.begin(), question_options_.begin() + std::ptrdiff_t(before));
        changes.add_to(app);
        app.add_option("--add-question", add_question,
                       "a further question of this name, as the options ask it (a new study has one in any case)")
            .type_name("NAME");
        app.add_option("--demand-set", demand_sets,
                       "the added question is about this demand of the study; may be named again")
            .type_name("NAME")
            .one_each_time();
        app.add_option("--site-set", site_sets, "and about these sites of the study; may be named again")
            .type_name("NAME")
            .one_each_time();
        app.add_option("--add-plan", add_plan, "a plan of this name, with what --open, --close and --closures say")
            .type_name("NAME");
        app.add_option("--out", out, "where the study goes, such as town.otoro.gpkg (the study that is added to)")
            .type_name("FILE");
        app.add_option("--name", name, "what the study is called (its file's name)").type_name("NAME");
        app.add_flag("--quiet", quiet, "no progress, and no remarks but on how numbers were read");
    }
    [[nodiscard]] int run() const override;

private:
    std::vector<Option> question_options_;
    void check_options() const;
    [[nodiscard]] service::Study begun(service::Question& question, Console& console, const Task& task) const;
    void choose_sets(const service::Study& study, service::Question& question) const;
};

void PutTogether::check_options() const {
    const auto needs = [](bool given, const std::string& option) {
        if (!given) throw OptionRequired(option);
    };
    if (from.empty()) {
        needs(!roads.paths.empty(), "--roads");
        needs(places.demand.given(), "--demand");
        needs(places.sites.given(), "--sites");
        for (const auto& o : question_options_)
            if (o.name() == "--travel" || o.name() == "--measure" || o.name() == "--towards")
                needs(o.given(), o.name());
        needs(!out.empty(), "--out");
    } else if (!roads.paths.empty()) {
        throw Misuse("--roads", "the study that is added to has its roads");
    }
    if (!from.empty() && changes.given() && add_plan.empty())
        throw Misuse("--open, --close, --closures", "they belong to a plan: name it with --add-plan");
    if (!from.empty() && add_question.empty())
        for (const auto& o : question_options_)
            if (o.given()) throw Misuse(o.name(), "it belongs to a question: name it with --add-question");
    for (const auto* sets : {&demand_sets, &site_sets})
        if (std::set<std::string>(sets->begin(), sets->end()).size() != sets->size())
            throw Misuse("--demand-set, --site-set", "one set is named twice");
    if (!add_plan.empty() && !changes.given())
        throw Misuse("--add-plan", "say what it changes, with --open, --close or --closures");
    if ((!demand_sets.empty() || !site_sets.empty()) && add_question.empty())
        throw Misuse("--demand-set, --site-set", "they belong to a question: name it with --add-question");
}

/// The study that there is, or a new one with its roads.
service::Study PutTogether::begun(service::Question& question, Console& console, const Task& task) const {
    if (from.empty()) {
        service::Study study;
        study.name = name.empty() ? files::set_name_from(std::filesystem::path(out).stem().string()) : name;
        study = with_roads(std::move(study), read_roads(roads, question.profile, task));
        tell_reading(console, study.roads->origin);
        return study;
    }
    std::vector<std::string> remarks;
    auto study = files::open_study(from, task, &remarks);
    for (const auto& r : remarks) console.note(from + ": " + r);
    if (!name.empty()) study.name = name;
    question.demand = study.question().demand;
    question.sites = study.question().sites;
    question.zones = study.question().zones;
    return study;
}

/// The question turned to sets of the study by their names.
void PutTogether::choose_sets(const service::Study& study, service::Question& question) const {
    const auto check = [&](bool there, const char* what, const std::string& set, service::SetKind kind) {
        if (there) return;
        throw InputError({from.empty() ? out : from, std::nullopt, fmt::format("it has no {} '{}'", what, set),
                          fmt::format("It has: {}", service::listed(set_names(study, kind)))});
    };
    for (const auto& set : demand_sets)
        check(study.find_demand(set) != nullptr, "demand", set, service::SetKind::demand);
    for (const auto& set : site_sets) check(study.find_sites(set) != nullptr, "sites", set, service::SetKind::sites);
    if (!demand_sets.empty()) question.demand = demand_sets;
    if (!site_sets.empty()) question.sites = site_sets;
}

/// Every set of sites: a plan may change any of them.
std::vector<std::shared_ptr<const otoro::places::SiteSet>> all_sites(const service::Study& study) {
    std::vector<std::shared_ptr<const otoro::places::SiteSet>> out;
    for (const auto& s : study.sites) out.push_back(s.set);
    return out;
}

int PutTogether::run() const {
    check_options();
    Console console(quiet);
    const Task task = console.task();
    const std::string target = out.empty() ? from : out;
    auto taken = roads.paths;
    for (const auto& path : places.inputs()) taken.push_back(path);
    for (const auto& path : {roads.heights, changes.closures, asked.travel}) taken.push_back(path);
    check_output("--out", target, {".gpkg"}, taken);

    auto question = asked.question();
    question.profile = roads.heeding_heights(std::move(question.profile), console);
    // Before it is read: somebody else may write it meanwhile.
    const bool is_added_to = !from.empty() && files::same_file(from, target);
    const auto as_read = is_added_to ? std::optional(files::Expected{files::stamp_of(target)}) : std::nullopt;
    auto study = begun(question, console, task);
    if (const auto what = files::read_from(study, target))
        throw InputError({target, std::nullopt, fmt::format("{} of the study were read from it", *what),
                          "Choose another name with --out"});
    study = places.read_into(std::move(study), question, asked.serving, console, task);
    choose_sets(study, question);
    question.name = add_question.empty() && !question.demand.empty() ? question.demand.front() : add_question;
    if (from.empty())
        study.question() = question;
    else if (!add_question.empty())
        study = with_question(std::move(study), question);
    if (!question.profile.name.empty() &&
        std::find(study.profiles.begin(), study.profiles.end(), question.profile) == study.profiles.end())
        study.profiles.push_back(question.profile);
    if (changes.given()) {
        service::Plan plan;
        std::vector<std::string> names;
        for (const auto& p : study.plans) names.push_back(p.name);
        plan.name = service::free_name(add_plan.empty() ? files::set_name_from(changes.closures) : add_plan, names);
        changes.add_changes(plan, *study.roads->network, otoro::places::Sites(all_sites(study)), console, task);
        study.plans.push_back(std::move(plan));
    }
    files::save_study(study, target, task, as_read);
    console.note("");
    for (const auto& q : study.questions) fmt::print("{}\n", sentence(q, study.demand_of(q)));
    fmt::print("Saved to {}, with {} question{} and {} plan{}.\n", target, study.questions.size(),
               study.questions.size() == 1 ? "" : "s", study.plans.size(), study.plans.size() == 1 ? "" : "s");
    return kDone;
}

}  // namespace

std::unique_ptr<Command> study_command() { return std::make_unique<PutTogether>(); }

}  // namespace otoro::batch
