#include "files/order_file.h"

#include <catch2/catch.hpp>
#include <fstream>
#include <sstream>

#include "support/files.h"

using namespace otoro;
using files::OrderFile;

namespace {

const std::string kName(32, 'a'), kOther(32, 'b');

std::string bytes_of(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    std::stringstream out;
    out << in.rdbuf();
    return out.str();
}
void write_bytes(const std::string& path, const std::string& bytes) { std::ofstream(path, std::ios::binary) << bytes; }

}  // namespace

TEST_CASE("An order is found again under its name, the newest of each, and no more than four are kept") {
    const test::Folder folder;
    OrderFile file(folder.file("study.gpkg"));
    CHECK(file.path() == folder.file("study.gpkg") + ".order");
    CHECK_FALSE(file.find(kName));
    file.keep(kName, std::vector<std::uint32_t>{2, 0, 1});
    file.keep(kOther, std::vector<std::uint32_t>{0});
    CHECK(*file.find(kName) == std::vector<std::uint32_t>{2, 0, 1});
    file.keep(kName, std::vector<std::uint32_t>{1, 0});
    CHECK(*OrderFile(folder.file("study.gpkg")).find(kName) == std::vector<std::uint32_t>{1, 0});
    for (const char c : {'c', 'd', 'e'}) file.keep(std::string(32, c), std::vector<std::uint32_t>{0});
    CHECK(file.find(kName));
    CHECK_FALSE(file.find(kOther));
}

TEST_CASE("A file of orders that is foreign, cut short or changed anywhere is as good as none, and is written anew") {
    const test::Folder folder;
    OrderFile file(folder.file("study.gpkg"));
    std::vector<std::uint32_t> turns(50);
    for (std::uint32_t i = 0; i < turns.size(); ++i) turns[i] = (i * 7) % 50;
    file.keep(kName, turns);
    const std::string good = bytes_of(file.path());
    for (std::size_t i = 0; i < good.size(); ++i) {
        INFO("byte " << i);
        std::string bad = good;
        bad[i] = static_cast<char>(bad[i] ^ 0x5a);
        write_bytes(file.path(), bad);
        REQUIRE_FALSE(file.find(kName));
        write_bytes(file.path(), good.substr(0, i));
        REQUIRE_FALSE(file.find(kName));
    }
    write_bytes(file.path(), std::string(1000, 'x'));
    file.keep(kName, turns);
    CHECK(*file.find(kName) == turns);
}

TEST_CASE("Where an order cannot be written nothing else suffers") {
    OrderFile file("/nowhere/at/all/study.gpkg");
    file.keep(kName, std::vector<std::uint32_t>{0});
    CHECK_FALSE(file.find(kName));
}
