#include <filesystem>

#include "batch/command.h"
#include "files/read_places.h"
#include "files/study_file.h"
#include "service/study.h"

namespace otoro::batch {
namespace {

struct PutTogether : Command {
    Asking asking;
    std::string out, name;

    void add_to(CLI::App& app) override {
        asking.add_to(app);
        app.add_option("--out", out, "where the study goes, such as town.otoro.gpkg")->required()->type_name("FILE");
        app.add_option("--name", name, "what the study is called (its file's name)")->type_name("NAME");
    }
    [[nodiscard]] int run() const override;
};

int PutTogether::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    check_output("--out", out, {".gpkg"}, asking.inputs());
    auto parts = asking.read(console, task);
    service::Study study;
    study.name = name.empty() ? files::set_name_from(std::filesystem::path(out).stem().string()) : name;
    study = with_roads(std::move(study), std::move(parts.roads));
    study = with_demand(std::move(study), std::move(parts.demand));
    study = with_sites(std::move(study), std::move(parts.sites));
    study.question = parts.question;
    if (!parts.question.profile.name.empty()) study.profiles.push_back(parts.question.profile);
    if (!parts.plan.closures.empty()) {
        parts.plan.name = files::set_name_from(asking.closures);
        study.plans.push_back(parts.plan);
    }
    files::save_study(study, out, task);
    console.note("");
    fmt::print("{}\nSaved to {}, with {} plan{}.\n", sentence(study.question, *study.demand[0].set), out,
               study.plans.size(), study.plans.size() == 1 ? "" : "s");
    return kDone;
}

}  // namespace

std::unique_ptr<Command> study_command() { return std::make_unique<PutTogether>(); }

}  // namespace otoro::batch
