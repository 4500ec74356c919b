#include <catch2/catch.hpp>
#include <filesystem>

#include "batch/program.h"
#include "files/study_file.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;
using test::Program;

namespace {

std::string saltmere(const char* file) { return std::string(OTORO_SALTMERE "/") + file; }

std::vector<std::string> asked(const std::string& command, const std::string& sites, const std::string& out) {
    return {command,
            "--roads",
            saltmere("roads.gpkg"),
            "--demand",
            saltmere("households.csv"),
            "--sites",
            sites,
            "--travel",
            "drive",
            "--measure",
            "time",
            "--towards",
            "demand",
            "--out",
            out};
}

/// Two thousand sites: a table that takes a while.
std::string many_sites(const Folder& folder) {
    std::string text = "id,lon,lat\n";
    for (int i = 0; i < 2000; ++i)
        text += "s" + std::to_string(i) + "," + std::to_string(-9.52 + 0.00004 * i) + ",46.2\n";
    return folder.write("sites.csv", text);
}

/// Whether something is being written in a folder.
bool writing_in(const std::string& folder) {
    std::error_code error;
    for (const auto& e : std::filesystem::directory_iterator(folder, error))
        if (e.path().filename().string().starts_with(".otoro-")) return true;
    return false;
}

}  // namespace

TEST_CASE("A signal stops the work, says so, and leaves nothing half written") {
    for (const int signal : {SIGINT, SIGTERM}) {
        const Folder folder;
        const auto sites = many_sites(folder);
        std::filesystem::create_directory(folder.file("out"));
        Program program(asked("table", sites, folder.file("out/table.csv")), folder.file("stdout"),
                        folder.file("stderr"));
        INFO("signal " << signal);
        REQUIRE(program.wait_until([&] { return writing_in(folder.file("out")); }));
        program.send(signal);
        CHECK(program.wait() == 1);
        CHECK(std::filesystem::is_empty(folder.file("out")));
        CHECK(test::contents(folder.file("stdout")).empty());
        CHECK(test::contents(folder.file("stderr")).find("stopped; nothing was written") != std::string::npos);
    }
}

TEST_CASE("Of several outputs of a command all are new or none, also where a stop comes between them") {
    const Folder folder;
    const auto sites = many_sites(folder);
    std::filesystem::create_directory(folder.file("out"));
    auto words = asked("table", sites, folder.file("out/table.csv"));
    for (const auto& more : {"--statistics", "out/statistics.csv"})
        words.push_back(more[0] == '-' ? std::string(more) : folder.file(more));
    (void)folder.write("out/statistics.csv", "old");
    Program program(words, folder.file("stdout"), folder.file("stderr"));
    // The first is finished when the second is begun.
    const auto begun = [&] {
        std::error_code error;
        for (const auto& e : std::filesystem::directory_iterator(folder.file("out"), error))
            if (std::filesystem::exists(e.path() / "1", error)) return true;
        return false;
    };
    REQUIRE(program.wait_until(begun));
    program.send(SIGTERM);
    CHECK(program.wait() == 1);
    CHECK(test::contents(folder.file("out/statistics.csv")) == "old");
    CHECK_FALSE(std::filesystem::exists(folder.file("out/table.csv")));
    CHECK_FALSE(writing_in(folder.file("out")));
    CHECK(test::contents(folder.file("stderr")).find("stopped; nothing was written") != std::string::npos);
}

TEST_CASE("Whichever thread a signal comes to, the work stops") {
    // One of the first is woken by signals, and may be the one that gets it.
    for (const std::size_t nth : {0U, 1U, 2U}) {
        INFO("thread " << nth);
        const Folder folder;
        const auto sites = many_sites(folder);
        std::filesystem::create_directory(folder.file("out"));
        Program program(asked("table", sites, folder.file("out/table.csv")), folder.file("stdout"),
                        folder.file("stderr"));
        REQUIRE(program.wait_until([&] { return writing_in(folder.file("out")) && program.threads().size() > 2; }));
        program.send_to(program.threads()[nth], SIGINT);
        CHECK(program.wait() == 1);
        CHECK(std::filesystem::is_empty(folder.file("out")));
    }
}

TEST_CASE("A program killed while saving leaves the old study or the new one, never half") {
    const Folder folder;
    const auto out = folder.file("s.otoro.gpkg");
    auto words = asked("study", saltmere("ambulance-posts.geojson"), out);
    {
        Program first(words, folder.file("stdout"), folder.file("stderr"));
        REQUIRE(first.wait() == 0);
    }
    words.insert(words.end(), {"--name", "Saved anew"});
    int killed = 0;
    for (int i = 0; i < 4; ++i) {
        Program program(words, folder.file("stdout"), folder.file("stderr"));
        (void)program.wait_until([&] { return writing_in(std::filesystem::path(out).parent_path().string()); });
        program.send(SIGKILL);
        killed += program.wait() == -SIGKILL ? 1 : 0;
        const auto back = files::open_study(out, Task());
        CHECK((back.name == "s" || back.name == "Saved anew"));
        CHECK(back.roads);
        for (const auto& e : std::filesystem::directory_iterator(std::filesystem::path(out).parent_path()))
            if (e.path().filename().string().starts_with(".otoro-")) std::filesystem::remove_all(e.path());
    }
    CHECK(killed > 0);
}

TEST_CASE("Standard output that cannot be written is an error") {
    const Folder folder;
    Program program(asked("assign", saltmere("ambulance-posts.geojson"), folder.file("a.csv")), "/dev/full",
                    folder.file("stderr"));
    CHECK(program.wait() == 1);
    CHECK(test::contents(folder.file("stderr")).find("standard output") != std::string::npos);
}
