#include <algorithm>
#include <catch2/catch.hpp>
#include <filesystem>
#include <set>

#include "batch/commands.h"
#include "files/study_file.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;

namespace {

std::string saltmere(const char* file) { return std::string(OTORO_SALTMERE "/") + file; }

int run(const std::vector<std::string>& arguments) {
    std::vector<const char*> argv{"otoro-batch"};
    for (const auto& a : arguments) argv.push_back(a.c_str());
    return batch::run(static_cast<int>(argv.size()), argv.data());
}

std::vector<std::string> with(std::vector<std::string> words, const std::vector<std::string>& more) {
    words.insert(words.end(), more.begin(), more.end());
    return words;
}

const std::vector<std::string>& question() {
    static const std::vector<std::string> words{"--roads",    saltmere("roads.gpkg"),
                                                "--demand",   saltmere("households.csv"),
                                                "--sites",    saltmere("ambulance-posts.geojson"),
                                                "--travel",   "respond",
                                                "--measure",  "time",
                                                "--towards",  "demand",
                                                "--standard", "90% within 8min",
                                                "--quiet"};
    return words;
}

}  // namespace

TEST_CASE("A study put together from files answers as the files do, to the last digit") {
    const Folder folder;
    const auto closures = folder.write(
        "winter works.geojson",
        R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"name":"w"},"geometry":{"type":"Point","coordinates":[-9.49196,46.2098]}}]})");
    const std::vector<std::vector<std::string>> ways{
        {},
        {"--join", "crossings", "--close-gaps", "5m"},
        {"--limit", "4min", "--off-road-speed", "4.8km/h", "--attach-never", "motorway", "--attach-limit", "120m"},
        {"--closures", closures},
    };
    for (const auto& more : ways) {
        INFO((more.empty() ? std::string("as it stands") : more.front()));
        REQUIRE(run(with(with({"assign"}, question()),
                         with(more, {"--out", folder.file("direct.csv"), "--loads", folder.file("loads.csv")}))) == 0);
        REQUIRE(run(with(with({"study"}, question()), with(more, {"--out", folder.file("s.otoro.gpkg")}))) == 0);
        REQUIRE(run({"answer", folder.file("s.otoro.gpkg"), "--out", folder.file("tables"), "--quiet"}) == 0);
        const bool closed = !more.empty() && more.front() == "--closures";
        const std::string plan = closed ? "winter_works" : "Today";
        CHECK(test::contents(folder.file("tables/" + plan + ".csv")) == test::contents(folder.file("direct.csv")));
        CHECK(test::contents(folder.file("tables/" + plan + "_sites.csv")) == test::contents(folder.file("loads.csv")));
        std::filesystem::remove_all(folder.file("tables"));
    }
}

TEST_CASE("Plans whose names lead to one file name give files of their own") {
    const Folder folder;
    REQUIRE(run(with(with({"study"}, question()), {"--out", folder.file("s.otoro.gpkg")})) == 0);
    auto study = files::open_study(folder.file("s.otoro.gpkg"), Task());
    const std::vector<std::string> names{"A b",
                                         "A_b",
                                         "a b",
                                         "A_b_sites",
                                         "summary",
                                         "\xC3\xA4",
                                         "\xC3\xB6",
                                         std::string(400, 'x'),
                                         std::string(400, 'x') + "y"};
    for (const auto& name : names)
        study.plans.push_back({name, {{service::Change::add, "X" + name, geo::LonLat{-9.47, 46.2}}}, {}});
    files::save_study(study, folder.file("s.otoro.gpkg"), Task());
    REQUIRE(run({"answer", folder.file("s.otoro.gpkg"), "--out", folder.file("t"), "--quiet"}) == 0);
    std::size_t answers = 0, loads = 0;
    std::set<std::string> lower;
    for (const auto& e : std::filesystem::directory_iterator(folder.file("t"))) {
        std::string name = e.path().filename().string();
        std::transform(name.begin(), name.end(), name.begin(), [](unsigned char c) { return std::tolower(c); });
        CHECK(lower.insert(name).second);
        if (name.ends_with("csv")) ++(test::contents(e.path().string()).starts_with("demand_id") ? answers : loads);
    }
    CHECK(answers == names.size() + 1);
    CHECK(loads == names.size() + 1);
}

TEST_CASE("What can be refused is refused before anything is read or written over") {
    const Folder folder;
    const auto demand = folder.write("homes.csv", "id,lon,lat\nh,-9.49,46.2\n");
    auto words = question();
    words[3] = demand;
    const auto before = test::contents(demand);
    CHECK(run(with(with({"assign"}, words), {"--out", demand})) == 1);
    CHECK(run(with(with({"assign"}, words), {"--out", folder.file("a.csv"), "--loads", demand})) == 1);
    CHECK(run(with(with({"assign"}, words), {"--out", folder.file("a.csv"), "--loads", folder.file("a.csv")})) == 1);
    auto table = words;
    if (const auto standard = std::find(table.begin(), table.end(), "--standard"); standard != table.end())
        table.erase(standard, standard + 2);
    CHECK(run(with(with({"table"}, table), {"--out", demand})) == 1);
    CHECK(run(with(with({"table"}, table), {"--out", folder.file("a.xyz")})) == 1);
    CHECK(run(with(with({"study"}, words), {"--out", folder.file("a.csv")})) == 1);
    CHECK(run(with(with({"assign"}, words), {"--out", folder.file("no/such/a.csv")})) == 1);
    CHECK(run(with({"check"}, {"--roads", saltmere("roads.gpkg"), "--gap-tolerance", "200m"})) == 2);
    CHECK(test::contents(demand) == before);
    CHECK(folder.count() == 1);
    CHECK(run(with(with({"assign"}, words), {"--out", "/dev/null"})) == 0);
    CHECK(std::filesystem::is_character_file("/dev/null"));
}
