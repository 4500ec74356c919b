/// Puts Saltmere's files together into a study, as a planner would by hand.
#include <fmt/format.h>

#include <filesystem>

#include "files/add_data.h"
#include "files/study_file.h"

namespace {
using namespace otoro;

service::Study make(const std::filesystem::path& folder) {
    const Task task;
    service::Study s;
    s.name = "Saltmere, winter";
    const auto layer = [&](const char* file) { return files::LayerChoice{(folder / file).string(), "", ""}; };
    s = with_roads(std::move(s), files::add_roads({layer("roads.gpkg"), {}}, {}, task));
    const auto demand = [&](const char* file) {
        s = with_demand(std::move(s), files::add_demand({layer(file), {}, {}}, "", task));
    };
    const auto sites = [&](const char* file) {
        s = with_sites(std::move(s), files::add_sites({layer(file), {}, {}, {}, {}}, "", task));
    };
    s = with_zones(std::move(s), files::add_zones({layer("zones.geojson")}, "", task));
    demand("households.csv");
    demand("pupils.csv");
    demand("winter-round.csv");
    sites("ambulance-posts.geojson");
    sites("primary-schools.geojson");
    sites("gritting-depots.geojson");

    s.water = files::add_water(layer("water.geojson"), task);
    auto& ambulances = s.question();
    ambulances.name = "Ambulances";
    ambulances.profile.mode = travel::Mode::respond;
    ambulances.standard = service::Standard{Share::percent(90), Millis::minutes(8)};

    service::Question pupils;
    pupils.name = "Pupils on foot";
    pupils.demand = {"pupils"};
    pupils.sites = {"primary schools"};
    pupils.profile.mode = travel::Mode::walk;
    pupils.towards = service::Towards::site;
    pupils.serving = service::Nearest{routing::Measure::distance};
    pupils.standard = service::Standard{Share::percent(95), Millimetres::metres(2000)};
    service::Question gritting;
    gritting.name = "Gritting";
    gritting.demand = {"winter round"};
    gritting.sites = {"gritting depots"};
    gritting.standard = service::Standard{Share::percent(90), Millis::minutes(15)};
    s = with_question(with_question(std::move(s), pupils), gritting);
    s.in_sight = 0;

    const auto opens = [](const char* id) {
        return service::SiteChange{service::Change::open, id, std::nullopt, "ambulance posts"};
    };
    s.plans.push_back({"Quay opens", {opens("C1")}, {}});
    s.plans.push_back({"Mill opens", {opens("C2")}, {}});
    s.plans.push_back({"Island opens", {opens("C3")}, {}});
    s.plans.push_back({"Quay and Mill", {opens("C1"), opens("C2")}, {}});
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
