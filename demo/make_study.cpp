/// Puts Saltmere's files together into a study, as a planner would by hand.
#include <fmt/format.h>

#include <filesystem>

#include "files/add_data.h"
#include "files/study_file.h"
#include "service/itinerary.h"

namespace {
using namespace otoro;

/// A day's round from the first depot over eight premises and back, in the best order.
service::Route days_round(const service::Study& study, const service::Question& gritting, const Task& task) {
    const auto inputs = *study.inputs(gritting);
    const auto ready = prepare(inputs, gritting, nullptr, task);
    const auto outcome = answer(*ready, service::Plan{}, task);
    service::Route route;
    route.round = true;
    const auto& depot = inputs.sites.at(0U);
    route.stops.push_back({service::label(depot), *depot.position});
    constexpr std::size_t kPremises = 8;
    const std::uint32_t step = inputs.demand.count() / 14;
    for (std::uint32_t i = step / 2; i < inputs.demand.count() && route.stops.size() <= kPremises; i += step) {
        const auto& place = inputs.demand.at(i);
        const auto& of = outcome.places[i];
        if (of.served()) route.stops.push_back({place.id, *place.position});
    }
    std::vector<geo::LonLat> at;
    for (const auto& stop : route.stops) at.push_back(stop.at);
    const auto way = itinerary(*ready, nullptr, at, {true, true}, task);
    auto best = route;
    for (std::size_t i = 0; i < route.stops.size(); ++i) best.stops[i] = route.stops[way.order[i]];
    return best;
}

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
    auto places = pupils;
    places.name = "Pupils by places";
    places.serving = service::AsCapacityAllows{routing::Measure::distance};
    auto recorded = pupils;
    recorded.name = "Pupils on record";
    recorded.serving = service::AsRecorded{routing::Measure::distance};
    auto full_depots = gritting;
    full_depots.name = "Gritting by capacity";
    full_depots.serving = service::AsCapacityAllows{};
    for (const auto& question : {pupils, gritting, places, recorded, full_depots})
        s = with_question(std::move(s), question);
    s.in_sight = 0;
    s.route = days_round(s, gritting, task);

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
