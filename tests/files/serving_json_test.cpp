#include "files/serving_json.h"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "geo/error.h"

using namespace otoro;
using routing::Measure;
using service::AsCapacityAllows;

TEST_CASE("Every rule of serving comes back as it was written") {
    const std::vector<service::Serving> all{
        service::Nearest{Measure::distance},
        service::SeveralNearest{Measure::distance, 5, 3},
        service::SeveralNearest{Measure::time, 0, 2},
        AsCapacityAllows{Measure::distance, AsCapacityAllows::Fill::nearest_first, true, true},
        AsCapacityAllows{Measure::time, AsCapacityAllows::Fill::least_travel, true, false},
        service::AsRecorded{Measure::distance},
        service::WholeZones{Measure::distance},
        service::ByPairs{Measure::distance, true, Share::percent(70)},
        service::ByPairs{Measure::time, false, Share::percent(100), true}};
    for (const auto& rule : all) CHECK(files::serving_from(nlohmann::json::parse(files::to_json(rule).dump())) == rule);
}

TEST_CASE("A rule that makes no sense is refused, not guessed") {
    const auto refused = [](const char* text) {
        CHECK_THROWS_AS(files::serving_from(nlohmann::json::parse(text)), InputError);
    };
    refused(R"({"rule": "by lot", "measure": "time"})");
    refused(R"({"rule": "nearest", "measure": "patience"})");
    refused(R"({"rule": "several nearest", "measure": "time", "count": 2, "needed": 3})");
    refused(R"({"rule": "several nearest", "measure": "time", "count": 2, "needed": 0})");
    refused(R"({"rule": "several nearest", "measure": "time", "count": 4000000, "needed": 1})");
    refused(R"({"rule": "as capacity allows", "measure": "time", "fill": "", "split": true, "by_priority": false})");
}
