#include "roads/network.h"

#include <catch2/catch.hpp>

#include "support/town.h"

using namespace otoro;
using test::At;
using test::Town;

TEST_CASE("Lines join where their ends are at the same point") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {100, 80}}).draw({{100, 80}, {0, 0}}).network();
    CHECK(net->link_count() == 3);
    CHECK(net->node_count() == 3);
    CHECK(net->ends(LinkId(0u)).to == net->ends(LinkId(1u)).from);
    CHECK(net->length(LinkId(0u)).metres() == Approx(100).margin(0.002));
}

TEST_CASE("Lines that cross without an end there do not join") {
    const auto net = Town().draw({{-50, 0}, {50, 0}}).draw({{0, -50}, {0, 50}}).network();
    CHECK(net->node_count() == 4);
}

TEST_CASE("The rounding of a coordinate change is forgiven, a gap of a centimetre is not") {
    const auto second_start = [](double shift) {
        roads::Lines lines;
        const geo::LonLat joint{-9.123456789, 46.2};
        lines.add(std::array{geo::LonLat{-9.13, 46.2}, joint}, {});
        lines.add(std::array{geo::LonLat{joint.lon + shift, joint.lat - shift}, geo::LonLat{-9.11, 46.21}}, {});
        return join(std::move(lines), Task()).node_count();
    };
    CHECK(second_start(0) == 3);
    CHECK(second_start(1e-12) == 3);
    CHECK(second_start(-9e-9) == 3);
    CHECK(second_start(1e-7) == 4);
}

TEST_CASE("Rounding is forgiven also across the edge of a cell") {
    roads::Lines lines;
    lines.add(std::array{geo::LonLat{1.0, 46.0}, geo::LonLat{2.0 - 1e-13, 46.5 + 1e-13}}, {});
    lines.add(std::array{geo::LonLat{2.0, 46.5}, geo::LonLat{3.0, 46.0}}, {});
    lines.add(std::array{geo::LonLat{2.0 + 1e-13, 46.5 - 1e-13}, geo::LonLat{3.0, 47.0}}, {});
    CHECK(join(std::move(lines), Task()).node_count() == 4);
}

TEST_CASE("Ends that the source names join by number and never by nearness") {
    roads::Lines lines;
    const geo::LonLat a{1, 46}, b{1.01, 46}, c{1.02, 46};
    lines.add(std::array{a, b}, {});
    lines.add(std::array{b, c}, {});
    lines.named_ends = {{7, 8}, {9, 10}};  // two nodes at one point
    CHECK(join(lines, Task()).node_count() == 4);
    lines.named_ends = {{7, 8}, {8, 10}};
    CHECK(join(lines, Task()).node_count() == 3);
}

TEST_CASE("A road that ends where it began is a loop at one node") {
    const auto net = Town().draw({{0, 0}, {50, 0}, {50, 50}, {0, 0}}).network();
    CHECK(net->node_count() == 1);
    CHECK(net->length(LinkId(0u)).metres() == Approx(100 + 50 * std::sqrt(2.0)).margin(0.01));
}

TEST_CASE("Pieces are listed largest first, one-way rules aside") {
    const auto net = Town()
                         .draw({{0, 0}, {10, 0}})
                         .draw({{500, 0}, {600, 0}}, test::one_way())
                         .draw({{600, 0}, {700, 0}}, test::one_way())
                         .network();
    const auto found = find_pieces(*net, {true, true, true});
    REQUIRE(found.pieces.size() == 2);
    CHECK(found.pieces[0].links == 2);
    CHECK(found.pieces[0].length.metres() == Approx(200).margin(0.01));
    CHECK(found.of_link == std::vector<std::uint32_t>{1, 0, 0});
    CHECK(found.nodes == 5);
}

TEST_CASE("Roads that may not be used belong to no piece and join nothing") {
    const auto net = Town().draw({{0, 0}, {10, 0}}).draw({{10, 0}, {20, 0}}).draw({{20, 0}, {30, 0}}).network();
    const auto found = find_pieces(*net, {true, false, true});
    CHECK(found.pieces.size() == 2);
    CHECK(found.of_link[1] == roads::kNoPiece);
}

TEST_CASE("The same roads have the same digest, other roads another") {
    Town a, b, c;
    a.draw({{0, 0}, {10, 0}});
    b.draw({{0, 0}, {10, 0}});
    c.draw({{0, 0}, {10, 0}}, test::one_way());
    CHECK(a.network()->digest() == b.network()->digest());
    CHECK(a.network()->digest() != c.network()->digest());
}

TEST_CASE("No roads at all is an error that says what to do") {
    CHECK_THROWS_WITH(roads::join(roads::Lines{}, Task()), Catch::Contains("no road line") && Catch::Contains("Add"));
}

TEST_CASE("Joining can be stopped") {
    std::stop_source stop;
    stop.request_stop();
    CHECK_THROWS_AS(join(Town().draw({{0, 0}, {1, 0}}).lines(), Task(stop.get_token())), Stopped);
}
