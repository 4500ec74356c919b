#include "files/atomic_file.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <catch2/catch.hpp>
#include <chrono>
#include <thread>

#include "support/files.h"

using namespace otoro;
using test::contents;
using test::Folder;

namespace {
mode_t mode_of(const std::string& path) {
    struct stat s {};
    REQUIRE(::stat(path.c_str(), &s) == 0);
    return s.st_mode & 07777U;
}
}  // namespace

TEST_CASE("A file keeps its permissions when it is written again") {
    const Folder folder;
    const auto path = folder.write("a.txt", "old");
    ::chmod(path.c_str(), 0640);
    files::write_text(path, "new");
    CHECK(contents(path) == "new");
    CHECK(mode_of(path) == 0640);
    CHECK(folder.count() == 1);
}

TEST_CASE("A symbolic link is followed to the file it names, and stays a link") {
    const Folder folder;
    std::filesystem::create_directory(folder.file("shared"));
    const auto real = folder.write("shared/real.txt", "old");
    std::filesystem::create_symlink("shared/real.txt", folder.file("link.txt"));
    std::filesystem::create_symlink("link.txt", folder.file("link to a link.txt"));
    files::write_text(folder.file("link to a link.txt"), "new");
    CHECK(contents(real) == "new");
    CHECK(std::filesystem::is_symlink(folder.file("link.txt")));

    std::filesystem::create_symlink("not there yet.txt", folder.file("dangling.txt"));
    files::write_text(folder.file("dangling.txt"), "made");
    CHECK(contents(folder.file("not there yet.txt")) == "made");

    std::filesystem::create_symlink("round b", folder.file("round a"));
    std::filesystem::create_symlink("round a", folder.file("round b"));
    CHECK_THROWS_WITH(files::write_text(folder.file("round a"), "x"), Catch::Contains("circle"));
}

TEST_CASE("Names as long as the disk takes can be written") {
    const Folder folder;
    const std::string longest = std::string(249, 'x') + ".a.txt";
    REQUIRE(longest.size() == 255);
    files::write_text(folder.file(longest), "fits");
    CHECK(contents(folder.file(longest)) == "fits");
    CHECK_THROWS_AS(files::write_text(folder.file("y" + longest), "does not"), InputError);
    CHECK(folder.count() == 1);
}

TEST_CASE("A device is written to and stays a device") {
    const Folder folder;
    files::write_text("/dev/null", "gone");
    CHECK(std::filesystem::is_character_file("/dev/null"));
    CHECK_THROWS_WITH(files::write_text("/dev/full", "no room"),
                      Catch::Contains("/dev/full") && Catch::Contains("space"));
    CHECK(std::filesystem::is_character_file("/dev/full"));

    const auto pipe = folder.file("pipe");
    REQUIRE(::mkfifo(pipe.c_str(), 0600) == 0);
    std::string heard;
    std::thread reader([&] { heard = contents(pipe); });
    files::write_text(pipe, "through the pipe");
    reader.join();
    CHECK(heard == "through the pipe");
    CHECK(std::filesystem::is_fifo(pipe));

    // As a shell names a pipe that has no name.
    std::array<int, 2> ends{};
    REQUIRE(::pipe(ends.data()) == 0);
    const auto nameless = "/dev/fd/" + std::to_string(ends[1]);
    files::check_can_write(nameless);
    files::write_text(nameless, "no name");
    std::array<char, 16> bytes{};
    CHECK(::read(ends[0], bytes.data(), bytes.size()) == 7);
    CHECK(std::string(bytes.data()) == "no name");
    ::close(ends[0]);
    ::close(ends[1]);
}

TEST_CASE("Many threads may write one file: it is one of theirs, whole, and nothing is left behind") {
    const Folder folder;
    const auto path = folder.file("one.txt");
    std::vector<std::thread> writers;
    for (char c = 'a'; c <= 'h'; ++c)
        writers.emplace_back([&, c] {
            for (int i = 0; i < 20; ++i) files::write_text(path, std::string(100'000, c));
        });
    for (auto& w : writers) w.join();
    const auto text = contents(path);
    CHECK(text == std::string(100'000, text.at(0)));
    CHECK(folder.count() == 1);
}

TEST_CASE("What somebody else wrote meanwhile is not written over") {
    const Folder folder;
    const auto path = folder.write("a.txt", "mine");
    const auto seen = files::stamp_of(path);
    files::write_text(path, "theirs");
    CHECK_THROWS_AS(files::write_atomically(
                        path, [](const std::string& t) { files::write_text(t, "mine again"); }, files::Expected{seen}),
                    files::ChangedMeanwhile);
    CHECK(contents(path) == "theirs");
    CHECK_THROWS_AS(files::write_atomically(
                        path, [](const std::string& t) { files::write_text(t, "new"); }, files::Expected{std::nullopt}),
                    files::ChangedMeanwhile);
    files::write_atomically(
        path, [](const std::string& t) { files::write_text(t, "knowingly"); }, files::Expected{files::stamp_of(path)});
    CHECK(contents(path) == "knowingly");
}

TEST_CASE("Whether a file can be written is known before anything is worked out for it") {
    const Folder folder;
    files::check_can_write(folder.file("new.csv"));
    CHECK(folder.count() == 0);
    CHECK_THROWS_WITH(files::check_can_write(folder.file("no/such/new.csv")), Catch::Contains("no such folder"));
    CHECK_THROWS_WITH(files::check_can_write(std::filesystem::path(folder.file("x")).parent_path().string()),
                      Catch::Contains("folder"));
    files::check_can_write("/dev/null");
}

TEST_CASE("Two paths to one file are known as one") {
    const Folder folder;
    const auto a = folder.write("a.csv", "x");
    std::filesystem::create_symlink("a.csv", folder.file("b.csv"));
    std::filesystem::create_hard_link(a, folder.file("c.csv"));
    CHECK(files::same_file(a, folder.file("b.csv")));
    CHECK(files::same_file(a, folder.file("c.csv")));
    CHECK(files::same_file(folder.file("new.csv"), folder.file("./new.csv")));
    CHECK_FALSE(files::same_file(a, folder.write("d.csv", "x")));
    CHECK_FALSE(files::same_file("", a));
}

TEST_CASE("Files that belong together take their names together, or none does") {
    const Folder folder;
    const auto a = folder.write("a.txt", "old a"), b = folder.file("b.txt");
    {
        files::OutputsTogether outputs;
        files::write_text(a, "new a");
        files::make_folder(folder.file("made/deep"));
        files::write_text(folder.file("made/deep/c.txt"), "new c");
        files::write_text(b, "new b");
        CHECK(contents(a) == "old a");
        CHECK_FALSE(std::filesystem::exists(b));
    }
    CHECK(contents(a) == "old a");
    CHECK(folder.count() == 1);  // nothing is left of them, and no folder
    {
        files::OutputsTogether outputs;
        files::write_text(a, "new a");
        files::make_folder(folder.file("made/deep"));
        files::write_text(folder.file("made/deep/c.txt"), "new c");
        files::write_text(b, "new b");
        files::write_text(b, "newer b");
        outputs.put_in_place();
    }
    CHECK(contents(a) == "new a");
    CHECK(contents(b) == "newer b");
    CHECK(contents(folder.file("made/deep/c.txt")) == "new c");
    files::write_text(a, "alone again");
    CHECK(contents(a) == "alone again");
    CHECK(folder.count() == 3);
    // One that cannot take its name takes the others back.
    {
        files::OutputsTogether outputs;
        files::write_text(a, "newest a");
        files::write_text(folder.file("d.txt"), "new d");
        files::write_text(b, "newest b");
        std::filesystem::remove(b);
        std::filesystem::create_directories(folder.file("b.txt/in the way"));
        CHECK_THROWS_WITH(outputs.put_in_place(), Catch::Contains("b.txt"));
    }
    CHECK(contents(a) == "alone again");
    CHECK_FALSE(std::filesystem::exists(folder.file("d.txt")));
}

TEST_CASE("However many files belong together, few are open, and all take their names") {
    const Folder folder;
    struct rlimit before {};
    REQUIRE(::getrlimit(RLIMIT_NOFILE, &before) == 0);
    struct rlimit few = before;
    few.rlim_cur = 64;
    REQUIRE(::setrlimit(RLIMIT_NOFILE, &few) == 0);
    {
        files::OutputsTogether outputs;
        for (int i = 0; i < 150; ++i) files::write_text(folder.file(std::to_string(i) + ".txt"), std::to_string(i));
        outputs.put_in_place();
    }
    ::setrlimit(RLIMIT_NOFILE, &before);
    CHECK(folder.count() == 150);
    CHECK(contents(folder.file("149.txt")) == "149");
}

TEST_CASE("What a program that was killed left behind is cleared away by the next, and nothing else is") {
    const Folder folder;
    const auto room = [&](const std::string& name, bool lockable, int minutes_ago) {
        const auto path = folder.file(name);
        std::filesystem::create_directory(path);
        if (lockable) (void)folder.write(name + "/held", "");
        (void)folder.write(name + "/new.csv", "half");
        std::filesystem::last_write_time(
            path, std::filesystem::file_time_type::clock::now() - std::chrono::minutes(minutes_ago));
        return path;
    };
    const auto left = room(".otoro-killed", true, 10), fresh = room(".otoro-fresh1", true, 0),
               alive = room(".otoro-alive1", true, 10), earlier = room(".otoro-before", false, 10),
               old = room(".otoro-oldest", false, 3 * 24 * 60), other = room("not of ours", true, 10);
    const int held = ::open((alive + "/held").c_str(), O_RDWR);
    REQUIRE(::flock(held, LOCK_EX) == 0);
    files::write_text(folder.file("a.txt"), "new");
    ::close(held);
    for (const auto& gone : {left, old}) CHECK_FALSE(std::filesystem::exists(gone));
    for (const auto& kept : {fresh, alive, earlier, other}) CHECK(std::filesystem::exists(kept + "/new.csv"));
}
