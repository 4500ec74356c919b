/// The diagram of the cells of a tile, held against the distances to all of them.
#include "reach/strip_diagram.h"

#include <catch2/catch.hpp>

#include "support/cases.h"
#include "support/exact_grids.h"

using namespace otoro;
using reach::Spot;

namespace {

constexpr double kApart = 2;  // units of the plane
constexpr double kLimit = 400'000;

struct Diagram {
    reach::StripCells cells;
    reach::StripDiagram found;
};
Diagram diagram_of(test::Town& town) {
    const auto network = town.network();
    const reach::Plane plane(network->extent());
    constexpr std::int32_t kFar = 100'000'000;
    const reach::Rectangle all{{-kFar, -kFar}, {kFar, kFar}};
    Diagram out;
    out.cells = reach::strip_cells(*network, std::vector<bool>(network->link_count(), true), plane, all, Task());
    out.found = reach::strip_diagram(out.cells, all, kLimit, Task());
    return out;
}

/// How many ends of lines, within the limit, are not equally far from both of their cells, or nearer to another.
int misplaced(const Diagram& d) {
    int out = 0;
    const auto look_at = [&](Spot at, std::uint32_t left, std::uint32_t right) {
        const double away = distance_to(d.cells.cells[left], at);
        if (std::abs(away - distance_to(d.cells.cells[right], at)) > kApart) ++out;
        for (std::uint32_t i = 0; i < d.cells.segments; ++i)
            if (distance_to(d.cells.cells[i], at) < away - kApart) {
                ++out;
                break;
            }
    };
    for (const auto& line : d.found.lines) {
        if (line.p_within) look_at(line.p, line.left, line.right);
        if (line.q_within) look_at(line.q, line.left, line.right);
    }
    return out;
}

}  // namespace

TEST_CASE("Lines between strips begin and end as far from one road as from the other, and from no other nearer") {
    std::mt19937 rng(5);
    for (int n = 0; n < test::cases(60); ++n) {
        auto town = test::exact_town(rng);
        const Diagram d = diagram_of(town);
        CHECK(d.found.unsound == 0);
        REQUIRE(d.found.lines.size() > d.cells.segments);
        CHECK(misplaced(d) == 0);
    }
    for (const test::Kept kept : test::kKept) {
        auto grid = test::kept_grid(kept, rng);
        const Diagram d = diagram_of(grid.roads);
        CHECK(d.found.unsound == 0);
        CHECK(misplaced(d) == 0);
    }
}
