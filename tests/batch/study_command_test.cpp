#include <fcntl.h>
#include <poll.h>
#include <sys/file.h>
#include <sys/inotify.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <catch2/catch.hpp>
#include <filesystem>
#include <set>
#include <vector>

#include "batch/commands.h"
#include "batch/program.h"
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

/// What comes to be in a folder from now on, as the system tells.
class NewFiles {
public:
    explicit NewFiles(const std::filesystem::path& folder) : fd_(::inotify_init1(IN_CLOEXEC)) {
        REQUIRE(::inotify_add_watch(fd_, folder.c_str(), IN_CREATE) >= 0);
    }
    ~NewFiles() { ::close(fd_); }
    NewFiles(const NewFiles&) = delete;
    NewFiles& operator=(const NewFiles&) = delete;
    /// Waits until there is one more whose name begins so; false after a minute.
    [[nodiscard]] bool wait_for(const std::string& begin) {
        pollfd ready{fd_, POLLIN, 0};
        alignas(inotify_event) std::array<char, 4096> told{};
        while (true) {
            for (; at_ < names_.size(); ++at_)
                if (names_[at_].starts_with(begin)) return ++at_ > 0;
            if (::poll(&ready, 1, 60'000) <= 0) return false;
            const auto bytes = ::read(fd_, told.data(), told.size());
            for (ssize_t at = 0; at < bytes;) {
                const auto* event = reinterpret_cast<const inotify_event*>(told.data() + at);
                names_.emplace_back(event->len > 0 ? event->name : "");
                at += static_cast<ssize_t>(sizeof(inotify_event) + event->len);
            }
        }
    }

private:
    int fd_;
    std::vector<std::string> names_;
    std::size_t at_ = 0;  ///< of the next that was not looked at
};

}  // namespace

TEST_CASE("A study put together from files answers as the files do, to the last digit") {
    const Folder folder;
    const auto closures =
        folder.write("winter works.geojson",
                     R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"name":"w"},)"
                     R"("geometry":{"type":"Point","coordinates":[-9.49196,46.2098]}}]})");
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

TEST_CASE("Sites opened and closed by id, and zones, in every command that asks") {
    const Folder folder;
    const auto words = with(question(), {"--open", "C1", "--close", "A1", "--zones", saltmere("zones.geojson")});
    REQUIRE(run(with(with({"assign"}, words), {"--out", folder.file("a.csv"), "--loads", folder.file("loads.csv")})) ==
            0);
    const auto loads = test::contents(folder.file("loads.csv"));
    CHECK(loads.find("C1,") != std::string::npos);
    CHECK(loads.find("closed,no") != std::string::npos);
    const auto answer = test::contents(folder.file("a.csv"));
    CHECK(
        answer.starts_with("demand_id,rank,site_id,status,minutes,metres,off_road_m,straight_m,weight,"
                           "within_standard,note,zone,site_name\r\n"));
    CHECK(answer.find(",Town,") != std::string::npos);
    CHECK(answer.find(",A1,") == std::string::npos);
    CHECK(run(with(with({"candidates"}, words), {"--out", folder.file("c.csv")})) == 0);
    auto table = words;
    const auto standard = std::find(table.begin(), table.end(), "--standard");
    table.erase(standard, standard + 2);
    CHECK(run(with(with({"table"}, table), {"--nearest", "1", "--out", folder.file("t.csv")})) == 0);
    CHECK(test::contents(folder.file("t.csv")).find("\r\nC1,") != std::string::npos);
    CHECK(run(with(with({"assign"}, with(question(), {"--open", "nobody"})), {"--out", folder.file("b.csv")})) == 1);
    CHECK_FALSE(std::filesystem::exists(folder.file("b.csv")));
}

TEST_CASE("Several files of demand and of sites are asked about together") {
    const Folder folder;
    const auto more = folder.write("mobile homes.csv", "id,lon,lat,residents\nm1,-9.49,46.2,7\n");
    const auto posts = folder.write("spare posts.csv", "id,lon,lat\nspare,-9.49,46.2\n");
    REQUIRE(run(with(with({"assign"}, question()),
                     {"--demand", more, "--sites", posts, "--out", folder.file("a.csv")})) == 0);
    const auto answer = test::contents(folder.file("a.csv"));
    CHECK(answer.find("\r\nm1,1,spare,served,") != std::string::npos);
    CHECK(std::count(answer.begin(), answer.end(), '\n') == 9002);
}

TEST_CASE("Questions and plans are added to a study, and asked for by name") {
    const Folder folder;
    const auto study = folder.file("s.otoro.gpkg");
    REQUIRE(run(with(with({"study"}, question()), {"--zones", saltmere("zones.geojson"), "--out", study})) == 0);
    REQUIRE(run({"study", study, "--add-question", "Pupils", "--demand", saltmere("pupils.csv"), "--sites",
                 saltmere("primary-schools.geojson"), "--travel", "walk", "--measure", "distance", "--towards", "site",
                 "--standard", "95% within 2km", "--quiet"}) == 0);
    REQUIRE(run({"study", study, "--add-question", "Homes by schools", "--demand-set", "households", "--site-set",
                 "primary schools", "--site-set", "ambulance posts", "--travel", "drive", "--quiet"}) == 0);
    REQUIRE(run({"study", study, "--add-plan", "Quay opens", "--open", "C1", "--quiet"}) == 0);
    const auto s = files::open_study(study, Task());
    REQUIRE(s.questions.size() == 3);
    CHECK(s.questions[0].name == "households");
    CHECK(s.questions[1].name == "Pupils");
    CHECK(s.questions[2].sites == std::vector<std::string>{"primary schools", "ambulance posts"});
    REQUIRE(s.plans.size() == 2);
    CHECK(s.plans[1].changes ==
          std::vector<service::SiteChange>{{service::Change::open, "C1", std::nullopt, "ambulance posts"}});
    for (const auto& q : s.questions) CHECK(s.inputs(q));

    REQUIRE(run({"answer", study, "--question", "Pupils", "--plan", "Today", "--out", folder.file("t"), "--quiet"}) ==
            0);
    CHECK(test::contents(folder.file("t/summary.txt")).find("The pupils, counted by pupils") == 0);
    CHECK(test::contents(folder.file("t/summary.txt")).find("By zone:\n  Town: ") != std::string::npos);
    REQUIRE(run({"answer", study, "--question", "households", "--plan", "Quay opens", "--close", "A1", "--out",
                 folder.file("u"), "--quiet"}) == 0);
    CHECK(std::filesystem::exists(folder.file("u/Quay_opens__changed.csv")));
    CHECK(run({"answer", study, "--question", "Nobody's", "--out", folder.file("v"), "--quiet"}) == 1);
}

TEST_CASE("What a study command cannot mean is misuse, and changes nothing") {
    const Folder folder;
    const auto study = folder.file("s.otoro.gpkg");
    CHECK(run({"study", "--travel", "drive", "--out", study}) == 2);
    REQUIRE(run(with(with({"study"}, question()), {"--out", study})) == 0);
    const auto before = test::contents(study);
    CHECK(run({"study", study, "--open", "C1"}) == 2);
    CHECK(run({"study", study, "--add-plan", "nothing"}) == 2);
    CHECK(run({"study", study, "--demand-set", "households"}) == 2);
    CHECK(run({"study", study, "--travel", "walk"}) == 2);  // of no question
    CHECK(run({"study", study, "--add-question", "q", "--demand-set", "households", "--demand-set", "households"}) ==
          2);
    CHECK(run({"study", study, "--roads", saltmere("roads.gpkg")}) == 2);
    CHECK(run({"study", study, "--add-question", "q", "--demand-set", "nobody"}) == 1);
    CHECK(run({"study", study, "--add-plan", "p", "--open", "nobody"}) == 1);
    CHECK(test::contents(study) == before);
}

TEST_CASE("What somebody else saves while a study is added to is not written over") {
    const Folder folder;
    const auto study = folder.file("s.otoro.gpkg");
    const auto roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{},"geometry":{"type":"LineString","coordinates":[[0,0],[0.02,0]]}}]})");
    const auto homes = folder.write("homes.csv", "id,lon,lat\nh,0.001,0\n");
    const auto posts = folder.write("posts.csv", "id,lon,lat,state\nA,0,0,open\nB,0.01,0,candidate\n");
    REQUIRE(run({"study", "--roads", roads, "--demand", homes, "--sites", posts, "--travel", "drive", "--measure",
                 "time", "--towards", "demand", "--out", study, "--quiet"}) == 0);
    const Folder elsewhere;
    const auto theirs = elsewhere.file("theirs.otoro.gpkg");
    std::filesystem::copy_file(study, theirs);
    REQUIRE(run({"study", theirs, "--add-plan", "Theirs", "--open", "B", "--quiet"}) == 0);
    const auto more = elsewhere.write("more.csv", "id,lon,lat\nk,0.002,0\n");
    // It comes as far as to the name of the file, which this test holds on to.
    const auto beside = std::filesystem::path(study).parent_path();
    const int held = ::open(beside.c_str(), O_RDONLY | O_DIRECTORY);
    REQUIRE(::flock(held, LOCK_EX) == 0);
    NewFiles beside_it(beside);
    test::Program slow({"study", study, "--demand", more, "--quiet"}, elsewhere.file("out"), elsewhere.file("err"));
    REQUIRE(beside_it.wait_for(".otoro"));  // it tries whether it may write there, before it reads
    REQUIRE(beside_it.wait_for(".otoro"));  // it has read, and writes
    std::filesystem::rename(theirs, study);
    ::flock(held, LOCK_UN);
    ::close(held);
    CHECK(slow.wait() == 1);
    CHECK_THAT(test::contents(elsewhere.file("err")), Catch::Contains("somebody else has written it"));
    const auto now = files::open_study(study, Task());
    CHECK(now.plans.size() == 2);
    CHECK(now.demand.size() == 1);
}
