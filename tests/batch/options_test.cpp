/// What the command line is told is understood before anything is read, worked out or written.
#include <catch2/catch.hpp>
#include <regex>
#include <set>
#include <sstream>

#include "batch/running.h"

using namespace otoro;

namespace {

struct Told {
    std::string option, kind;  ///< "--limit", "AMOUNT"
};

std::vector<std::string> commands() {
    std::vector<std::string> out;
    std::istringstream help(test::run({"--help"}).out);
    bool listed = false;
    for (std::string line; std::getline(help, line);) {
        if (listed && line.starts_with("  ") && line.size() > 2 && line[2] != ' ')
            out.push_back(line.substr(2, line.find(' ', 2) - 2));
        if (line.starts_with("Subcommands:")) listed = true;
        if (line.empty() && !out.empty()) break;
    }
    return out;
}

/// The options of a command that take a value.
std::vector<Told> options_of(const std::string& command) {
    std::vector<Told> out;
    std::istringstream help(test::run({command, "--help"}).out);
    const std::regex told("^  (--[a-z-]+) ([A-Z][A-Z0-9,.|=]*)(:.*|[ =].*)?$");
    std::smatch found;
    for (std::string line; std::getline(help, line);)
        if (std::regex_match(line, found, told)) out.push_back({found[1], found[2]});
    return out;
}

/// What can be anything: whether it is there the data tells.
const std::set<std::string> kWords{"FILE", "FIELD", "NAME", "NAME,...", "ID", "ID,ID,...", "DIR", "PROFILE", "STUDY"};

}  // namespace

TEST_CASE("Every option of every command is understood before anything is read") {
    const auto all = commands();
    REQUIRE(all.size() >= 17);
    int tried = 0;
    for (const auto& command : all) {
        INFO(command);
        const auto options = options_of(command);
        CHECK(options.size() >= 3);
        for (const auto& [option, kind] : options) {
            INFO(option << " " << kind);
            if (option == "--field") continue;  // any name
            // Nothing else is given, and no file is there: the first that is wrong is the value.
            const auto empty = test::run({command, option, ""});
            if (option != "--road-level") {
                CHECK(empty.code == 2);
                CHECK_THAT(empty.err, Catch::StartsWith("otoro-batch: " + option + ": "));
            }
            if (kWords.count(kind) > 0) continue;
            const auto wrong = test::run({command, option, "@?@"});
            CHECK(wrong.code == 2);
            CHECK_THAT(wrong.err, Catch::StartsWith("otoro-batch: " + option + ": "));
            ++tried;
        }
    }
    CHECK(tried > 150);
}

TEST_CASE("What an option refuses it says as a sentence, and names what could stand there") {
    for (const auto& [option, value, said] : {
             std::tuple{"--limits", "5min,abc", "--limits: 'abc' is not an amount with its unit"},
             std::tuple{"--interval", "often", "--interval: 'often' is not an amount with its unit"},
             std::tuple{"--circle-speed", "fast", "--circle-speed: 'fast' is not a speed"},
             std::tuple{"--from", "here", "--from: 'here' is not a position"},
             std::tuple{"--limits", "", "--limits: nothing is given"},
             std::tuple{"--out", "", "--out: nothing is given"},
             std::tuple{"--attach-never", "roads", "--attach-never: 'roads' is not a class of road"},
             std::tuple{"--roads-crs", "EPSG:1", "--roads-crs: 'EPSG:1' is not a known coordinate system"},
             std::tuple{"--demand-filter", "a = ", "--demand-filter: "},
         }) {
        const auto r = test::run({"reach", option, value});
        CHECK(r.code == 2);
        CHECK(r.out.empty());
        CHECK_THAT(r.err, Catch::Contains(said));
    }
}
