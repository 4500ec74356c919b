/// Puts Saltmere's files together into a study, as a planner would by hand.
#include <fmt/format.h>

#include <filesystem>

#include "files/read_places.h"
#include "files/read_roads.h"
#include "files/study_file.h"

namespace {
using namespace otoro;

service::Study make(const std::filesystem::path& folder) {
    const Task task;
    service::Study s;
    s.name = "Saltmere, winter";
    auto roads = files::read_roads({{(folder / "roads.gpkg").string(), "", "", "", ""}, {}}, task);
    s = with_roads(std::move(s), {std::make_shared<const roads::Network>(join(std::move(roads.lines), task)), {"roads.gpkg", "roads", "class, name, speed and one-way from the file", roads.flaws}});

    const auto demand = [&](const char* file) {
        auto read = files::read_demand({{(folder / file).string(), "", "", "", ""}, {}, {}}, task);
        const std::string about = "id from '" + read.fields.id + "', weight from '" + read.fields.weight + "'";
        s = with_demand(std::move(s), {std::make_shared<const places::DemandSet>(std::move(read.demand)), {file, "", about, read.flaws}});
    };
    const auto sites = [&](const char* file) {
        auto read = files::read_sites({{(folder / file).string(), "", "", "", ""}, {}, {}, {}, {}}, task);
        s = with_sites(std::move(s), {std::make_shared<const places::SiteSet>(std::move(read.sites)), {file, "", "id, name and state from the file", read.flaws}});
    };
    demand("households.csv");
    demand("pupils.csv");
    demand("winter-round.csv");
    sites("ambulance-posts.geojson");
    sites("primary-schools.geojson");
    sites("gritting-depots.geojson");

    s.question.profile.mode = travel::Mode::respond;
    s.question.standard = service::Standard{Share::percent(90), Millis::minutes(8)};
    const auto opens = [](const char* id) { return service::SiteChange{service::Change::open, id, std::nullopt}; };
    s.plans.push_back({"Quay opens", {opens("C1")}});
    s.plans.push_back({"Mill opens", {opens("C2")}});
    s.plans.push_back({"Island opens", {opens("C3")}});
    s.plans.push_back({"Quay and Mill", {opens("C1"), opens("C2")}});
    return s;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 3) {
        fmt::print(stderr, "usage: otoro-demo-study FOLDER_OF_SALTMERE STUDY\n");
        return 2;
    }
    try {
        files::save_study(make(argv[1]), argv[2], Task());
    } catch (const std::exception& e) {
        fmt::print(stderr, "otoro-demo-study: {}\n", e.what());
        return 1;
    }
    return 0;
}
