/// Plans of a study side by side.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "batch/command.h"
#include "batch/file_names.h"
#include "files/atomic_file.h"
#include "files/compare_file.h"
#include "files/study_file.h"
#include "geo/wording.h"
#include "service/sentence.h"

namespace otoro::batch {
namespace {

struct Compare : Command {
    std::string study, out;
    std::vector<std::string> questions, plans;
    bool quiet = false;

    void add_to(Options& app) override {
        app.add_option("study", study, "a study saved by Otoro").required().type_name("STUDY");
        app.add_option("--questions", questions,
                       "names of the questions, with commas between them; may be named again (all)")
            .type_name("NAME,...")
            .one_each_time();
        app.add_option("--plans", plans,
                       "names of the plans, with commas between them; the others are held against the first (all, "
                       "against Today)")
            .type_name("NAME,...")
            .one_each_time();
        app.add_option("--out", out, "folder for the tables; made if it is not there").required().type_name("DIR");
        app.add_flag("--quiet", quiet, "no progress, and no remarks but on how numbers were read");
    }
    [[nodiscard]] int run() const override;
};

/// The numbers of those that are named; all if none is. A text that is no name is taken apart at its commas.
std::vector<std::size_t> chosen(const std::vector<std::string>& texts, const std::vector<std::string>& names,
                                const std::string& what, const std::string& file) {
    std::vector<std::size_t> out;
    if (texts.empty())
        for (std::size_t i = 0; i < names.size(); ++i) out.push_back(i);
    const auto add = [&](const std::string& name) {
        const auto at = std::find(names.begin(), names.end(), name);
        if (at == names.end())
            throw InputError({file, std::nullopt, fmt::format("it has no {} '{}'", what, name),
                              fmt::format("It has: {}", service::listed(names))});
        const auto number = static_cast<std::size_t>(at - names.begin());
        if (std::find(out.begin(), out.end(), number) == out.end()) out.push_back(number);
    };
    for (const auto& text : texts) {
        if (std::find(names.begin(), names.end(), text) != names.end()) {
            add(text);
            continue;
        }
        for (std::size_t from = 0; from <= text.size();) {
            const std::size_t end = std::min(text.find(',', from), text.size());
            const auto first = text.find_first_not_of(' ', from), last = text.find_last_not_of(' ', end - 1);
            add(first < end && last != std::string::npos && last >= first ? text.substr(first, last - first + 1) : "");
            from = end + 1;
        }
    }
    return out;
}

int Compare::run() const {
    Console console(quiet);
    const Task task = console.task();
    std::vector<std::string> remarks;
    auto s = files::open_study(study, task, &remarks);
    for (const auto& r : remarks) console.note(study + ": " + r);
    std::vector<std::string> question_names, plan_names;
    for (const auto& q : s.questions) question_names.push_back(q.name);
    for (const auto& p : s.plans) plan_names.push_back(p.name);
    const auto asked = chosen(questions, question_names, "question", study);
    const auto compared = chosen(plans, plan_names, "plan", study);
    files::make_folder(out);
    const std::filesystem::path folder(out);
    const std::vector<std::string> endings{"_places.csv", "_sums.csv"};
    FileNames names({}, endings);
    std::vector<std::string> stems;
    const std::string figures_file = (folder / (std::string(kCompared) + ".csv")).string();
    const std::string summary_file = (folder / (std::string(kCompared) + ".txt")).string();
    for (const auto& file : {figures_file, summary_file}) check_table(s, file, {study});
    for (const std::size_t q : asked)
        for (std::size_t k = 1; k < compared.size(); ++k) {
            const auto pair = names.next(question_names[q] + " " + plan_names[compared[k]]);
            stems.push_back((folder / fmt::format("{}_{}", kCompared, pair)).string());
            for (const auto& ending : endings) check_table(s, stems.back() + ending, {study});
        }

    std::vector<service::PlanFigures> figures;
    std::string summary;
    std::shared_ptr<const service::Ready> ready;
    auto stem = stems.begin();
    for (const std::size_t q : asked) {
        s.in_sight = q;
        const auto inputs = s.inputs();
        if (!inputs)
            throw InputError({study, std::nullopt,
                              fmt::format("there are no roads, no demand or no sites for '{}'", question_names[q]),
                              "Add them in the window and save it"});
        ready = prepare(*inputs, s.question(), ready.get(), task);
        const std::string whom = service::counted(s.question(), inputs->demand);
        summary += sentence(s.question(), inputs->demand) + "\n";
        std::optional<service::Outcome> first;
        for (const std::size_t p : compared) {
            auto outcome = service::answer(*ready, s.plans[p], task);
            figures.push_back(figures_of(outcome));
            const auto& f = figures.back();
            if (f.verdict)
                summary += fmt::format("  {}: {} within {}, {}\n", f.plan, describe(f.verdict->share),
                                       describe(f.verdict->standard.limit), words(f.verdict->judged()));
            if (!first) {
                first = std::move(outcome);
                continue;
            }
            const auto all = differences(*first, outcome);
            summary += "    " + files::differences_words(*first, outcome, sum_up(outcome, all), whom) + "\n";
            files::write_text(*stem + endings[0], files::differences_csv(*ready, *first, outcome, all));
            files::write_text(*stem + endings[1], files::difference_sums_csv(*ready, outcome, all));
            ++stem;
        }
    }
    files::write_text(figures_file, files::figures_csv(figures));
    files::write_text(summary_file, summary);
    console.note("");
    fmt::print("{}", summary);
    return kDone;
}

}  // namespace

std::unique_ptr<Command> compare_command() { return std::make_unique<Compare>(); }

}  // namespace otoro::batch
