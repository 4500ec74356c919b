#include "reach.h"

#include <malloc.h>
#include <tbb/parallel_for.h>

#include "geo/local_frame.h"
#include "measure.h"
#include "reach/ground_grid.h"
#include "service/assign.h"
#include "service/reach.h"
#include "service/surface.h"

namespace otoro::bench {
namespace {

std::shared_ptr<const places::SiteSet> sites_at(const roads::Network& network, std::uint32_t count) {
    auto out = std::make_shared<places::SiteSet>();
    out->name = "sites";
    for (std::uint32_t i = 0; i < count; ++i) {
        const auto node =
            static_cast<std::uint32_t>((std::uint64_t{network.node_count()} * i + network.node_count() / 2) / count);
        out->sites.push_back(
            {std::to_string(i), "", network.position(NodeId(node)), places::SiteState::open, std::nullopt});
    }
    return out;
}

std::size_t vertices_of(const service::Reach& reach) {
    std::size_t count = 0;
    for (const auto& a : reach.areas)
        for (const auto& p : a.polygons) {
            count += p.outer.size();
            for (const auto& h : p.holes) count += h.size();
        }
    return count;
}

/// A window's map around the spot: which road each pixel is attached to, and what it takes there, from nothing.
void run_screen(const std::shared_ptr<const service::Ready>& ready) {
    constexpr std::uint32_t kSide = 256, kAcross = 5, kDown = 4;
    const auto& ground = *ready->ground;
    const geo::LonLat centre = *ready->inputs.sites.at(0U).position;
    const auto scale = geo::MetresPerDegree::at_latitude(centre.lat);
    constexpr double kMetresAPixel = 10;
    std::vector<reach::GroundGrid> grids(kAcross * kDown);
    std::vector<std::vector<reach::GridValue>> values(grids.size());
    std::shared_ptr<const service::SiteValues> along;
    const auto each = [&](auto&& work) { tbb::parallel_for(std::size_t{0}, grids.size(), work); };
    const auto fill = [&](std::size_t i) {
        const double column = static_cast<double>(i % kAcross) * kSide - kAcross * kSide / 2.0;
        const double row = static_cast<double>(i / kAcross) * kSide - kDown * kSide / 2.0;
        grids[i] = ground_grid(
            ground.network(), ground.use(), ground.plane(), ground.limit(), kSide, kSide,
            [&](double c, double r) {
                return geo::LonLat{centre.lon + (column + c) * kMetresAPixel / scale.east,
                                   centre.lat - (row + r) * kMetresAPixel / scale.north};
            },
            Task());
    };
    const auto look_up = [&](std::size_t i) { values[i] = grid_values(grids[i], ground.network(), *along, 0); };
    const double all = best_of(3, [&] {
        along = nearest_values(ready, {}, service::ValueOf::time, {}, Task());
        each(fill);
        each(look_up);
    });
    row("  on the screen, 1.3 million pixels, from nothing", ms(all), "0.2 s", all / 0.2, 1.0);
    row("  of that: another answer over the same pixels", ms(best_of(3, [&] { each(look_up); })), "", 0, 0);
}

/// A surface of ten million cells, and the slow obvious way: every cell asks for its nearest road by itself.
void run_surface(const std::shared_ptr<const service::Ready>& ready) {
    const auto values = nearest_values(ready, {}, service::ValueOf::time, {}, Task());
    const auto& e = ready->inputs.network->extent();
    constexpr std::uint32_t kColumns = 4000, kRows = 2500;
    const service::SurfaceGrid grid{kColumns, kRows, [&](double c, double r) {
                                        return geo::LonLat{e.west + (e.east - e.west) * (c + 0.5) / kColumns,
                                                           e.north - (e.north - e.south) * (r + 0.5) / kRows};
                                    }};
    double sum = 0;
    const double all = best_of(2, [&] {
        surface(
            *values, service::ValueOf::time, grid,
            [&](std::uint32_t, std::uint32_t, const std::vector<float>& cells) { sum += cells[cells.size() / 2]; },
            Task());
    });
    row("surface of 10 million cells", ms(all), "3 s", all / 3, 1.0);
    std::vector<std::optional<geo::LonLat>> spots;
    for (std::uint32_t i = 0; i < 50'000; ++i)
        spots.emplace_back(grid.place_of((i * 7919) % kColumns, (i * 104'729) % kRows));
    const double slow = best_of(2, [&] { kept = surface_at(*values, service::ValueOf::time, spots, Task()).size(); }) *
                        static_cast<double>(grid.cells()) / static_cast<double>(spots.size());
    row("  every cell by itself", ms(slow), "a twentieth of that", all / (slow / 20), 1.0);
}

}  // namespace

void run_reach(const std::shared_ptr<const roads::Network>& network, double building) {
    service::Question q;
    q.profile.mode = travel::Mode::respond;
    auto nobody = std::make_shared<places::DemandSet>();
    nobody->name = "places";
    const auto ready_for = [&](std::uint32_t count, const service::Ready* earlier) {
        auto ready = std::make_shared<service::Ready>(
            *prepare({network, nobody, sites_at(*network, count)}, q, earlier, Task()));
        if (earlier) ready->prepared = earlier->prepared;
        if (!ready->prepared) ready->prepared = prepare_searches(*ready, nullptr, nullptr, Task());
        return ready;
    };
    const auto one = ready_for(1, nullptr);
    service::ReachRequest request;
    request.limits = {Millis::minutes(4), Millis::minutes(8)};
    service::Reach reach;
    const double cold = seconds([&] { reach = reach_areas(one, {}, request, Task()); });
    row("an 8-minute area with bands, nothing prepared", ms(cold), "3 s", cold / 3, 1.0);
    const double warm = best_of(5, [&] { reach = reach_areas(one, {}, request, Task()); });
    row(fmt::format("  strips there, {} vertices, {} roads km", vertices_of(reach),
                    static_cast<int>(reach.areas.empty() ? 0 : reach.areas.back().road.kilometres())),
        ms(warm), "50 ms", warm / 0.05, 1.0);
    run_screen(one);
    run_surface(one);
    const auto many = ready_for(200, one.get());
    const std::size_t before = mallinfo2().uordblks;
    const double all = seconds([&] { reach = reach_areas(many, {}, request, Task()); });
    row("strips of the whole county, and areas of 200 sites", ms(all), "reading and building", all / building, 60);
    row("  bytes of strips kept", fmt::format("{:.0f} MB", static_cast<double>(many->ground->bytes()) / 1e6),
        fmt::format("memory grew by {:.0f} MB", static_cast<double>(mallinfo2().uordblks - before) / 1e6), 0, 0);
    const double again = best_of(2, [&] { reach = reach_areas(many, {}, request, Task()); });
    row(fmt::format("  200 sites again, {} areas, {} vertices", reach.areas.size(), vertices_of(reach)), ms(again),
        "5 s", again / 5, 1.0);
}

}  // namespace otoro::bench
