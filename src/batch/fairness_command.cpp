/// Whether some fare worse than others.
#include <fmt/format.h>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/fairness_file.h"
#include "service/sentence.h"

namespace otoro::batch {
namespace {

struct FairnessOf : Command {
    Asking asking;
    std::string lorenz, out;

    void add_to(Options& app) override {
        asking.add_to(app, QuestionOptions::kAll | QuestionOptions::kEveryRule);
        app.add_option("--lorenz", lorenz, "the Lorenz curve of travel, as CSV").type_name("FILE");
        app.add_option("--out", out,
                       "where the table goes, as CSV: all, then zones and groups, those who miss most first")
            .required()
            .type_name("FILE");
    }
    [[nodiscard]] int run() const override {
        std::vector<std::string> taken = asking.inputs();
        check_output("--lorenz", lorenz, {".csv"}, taken);
        taken.push_back(lorenz);
        check_output("--out", out, {".csv"}, taken);
        Console console(asking.quiet);
        const Task task = console.task();
        const auto [ready, plan] = asking.ready_to_ask(console, task);
        const auto outcome = service::answer(*ready, plan, task);
        const auto fair = how_fair(*ready, outcome, outcome.question.standard, task);
        if (!lorenz.empty()) {
            if (!fair.all)
                throw InputError({"", std::nullopt, "nobody is served, so there is no curve of travel",
                                  "Leave --lorenz out, or look why in the answer"});
            files::write_text(lorenz, files::lorenz_csv(*fair.all));
        }
        files::write_text(out, files::fairness_csv(outcome, outcome.question.standard, fair));
        console.note("");
        fmt::print("{}\n", files::fairness_words(outcome, fair, counted(ready->question, ready->inputs.demand)));
        return kDone;
    }
};

}  // namespace

std::unique_ptr<Command> fairness_command() { return std::make_unique<FairnessOf>(); }

}  // namespace otoro::batch
