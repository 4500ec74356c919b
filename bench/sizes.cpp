#include "sizes.h"

#include <cmath>
#include <filesystem>
#include <random>

#include "files/add_data.h"
#include "files/study_file.h"
#include "files/write_answer.h"
#include "geo/local_frame.h"
#include "measure.h"
#include "service/candidate.h"
#include "service/findings.h"
#include "service/travel_table.h"

namespace otoro::bench {
namespace {

/// Time at two sizes; n log n has an exponent a little above 1.
void growth(const std::string& work, std::size_t small, std::size_t large,
            const std::function<double(std::size_t)>& seconds_for) {
    const double a = seconds_for(small), b = seconds_for(large);
    const double exponent = std::log(b / a) / std::log(static_cast<double>(large) / static_cast<double>(small));
    constexpr double kMost = 1.25;
    row(work, ms(b), fmt::format("{} of them; {} of {}", large, ms(a), small), exponent, kMost);
}

geo::LonLat place(double x, double y) {
    static const auto scale = geo::MetresPerDegree::at_latitude(46.2);
    return {-9.5 + x / scale.east, 46.2 + y / scale.north};
}

using Points = std::vector<geo::LonLat>;
std::shared_ptr<const roads::Lines> drawn(const std::vector<Points>& lines) {
    auto out = std::make_shared<roads::Lines>();
    for (const auto& l : lines) out->add(l, {});
    return out;
}

std::shared_ptr<const roads::Lines> star(std::size_t roads, double least, double most) {
    std::vector<Points> lines;
    for (std::size_t i = 0; i < roads; ++i) {
        const double angle = 2 * M_PI * static_cast<double>(i) / static_cast<double>(roads),
                     r = least + (most - least) * static_cast<double>(i % 7) / 7;
        lines.push_back({place(0, 0), place(r * std::cos(angle), r * std::sin(angle))});
    }
    return drawn(lines);
}

double check(const std::shared_ptr<const roads::Lines>& lines) {
    service::Study s;
    s = with_roads(std::move(s), service::roads_in(lines, {}, {}, Task()));
    return seconds([&] { kept = kept + findings_of(s, *check_study(s, Task())).size(); });
}

double cross(const std::shared_ptr<const roads::Lines>& lines) {
    return seconds([&] {
        kept = kept + roads::prepare(lines, {roads::JoinRule::crossings, {}, {}}, Task()).link_count();
    });
}

std::vector<std::optional<geo::LonLat>> scattered(std::size_t count, double x, double y, double dx, double dy) {
    std::mt19937 random(3);
    const auto at = [&](double span) { return std::uniform_real_distribution<double>(0, span)(random); };
    std::vector<std::optional<geo::LonLat>> out;
    for (std::size_t i = 0; i < count; ++i) out.emplace_back(place(x + at(dx), y + at(dy)));
    return out;
}

void sizes_of_roads() {
    growth("checking roads that meet in one junction, short", 10'000, 100'000,
           [](std::size_t n) { return check(star(n, 5, 10)); });
    growth("  the same, 100 to 500 m long", 10'000, 100'000, [](std::size_t n) { return check(star(n, 100, 500)); });
    Points winding;
    for (int i = 0; i < 100'000; ++i) winding.push_back(place(i * 10.0, 30 * std::sin(i / 9.0)));
    const auto line = join(drawn({winding}), Task());
    growth("attaching places along a line of 100,000 vertices", 10'000, 100'000, [&](std::size_t n) {
        return seconds([&] {
            kept = kept + places::attach_set(line, {true}, scattered(n, 0, -30, 900'000, 60), {},
                                             Millimetres::metres(250), Task())
                              .size();
        });
    });
    growth("attaching places 20 to 60 km from any road", 500, 5'000, [&](std::size_t n) {
        return seconds([&] {
            kept = kept + places::attach_set(line, {true}, scattered(n, 0, 20'000, 900'000, 40'000), {},
                                             Millimetres::metres(100'000), Task())
                              .size();
        });
    });
    growth("joining where one winding line crosses itself", 50'000, 200'000, [](std::size_t n) {
        Points p;
        for (std::size_t i = 0; i < n; ++i) {
            const double t = static_cast<double>(i), r = 2000 * t / static_cast<double>(n);
            p.push_back(place(r * std::cos(t / 50), r * std::sin(t / 50)));
        }
        return cross(drawn({p}));
    });
    growth("joining where long diagonals cross", 20'000, 80'000, [](std::size_t n) {
        std::vector<Points> lines;
        for (std::size_t i = 0; i < n; ++i)
            lines.push_back(
                {place(20.0 * static_cast<double>(i), 0), place(20.0 * static_cast<double>(i) + 8000, 8000)});
        return cross(drawn(lines));
    });
    growth("joining copies of one road of 500 vertices", 500, 2'000, [](std::size_t n) {
        Points p;
        for (int i = 0; i < 500; ++i) p.push_back(place(i * 40.0, 200 * std::sin(i / 20.0)));
        return cross(drawn(std::vector<Points>(n, p)));
    });
}

Points ring(const geo::Box& box, std::size_t corners, double part) {
    Points out;
    for (std::size_t i = 0; i < corners; ++i) {
        const double t = 2 * M_PI * static_cast<double>(i) / static_cast<double>(corners),
                     r = part * (1 + 0.2 * std::sin(40 * t));
        out.push_back({box.centre().lon + r * (box.east - box.west) * std::cos(t),
                       box.centre().lat + r * (box.north - box.south) * std::sin(t)});
    }
    return out;
}

void sizes_of_county(const std::string& folder) {
    service::Study s;
    s = with_roads(std::move(s), files::add_roads({{folder + "/roads.gpkg", "", ""}, {}}, {}, Task()));
    s = with_demand(std::move(s), files::add_demand({{folder + "/households.csv", "", ""}, {}, {}}, "", Task()));
    const auto& network = *s.roads->network;
    growth("closing an area of so many corners in a county", 1'000, 10'000, [&](std::size_t n) {
        roads::Closure c;
        c.shape = roads::ClosureShape::area;
        c.vertices = ring(network.extent(), n, 0.3);
        return seconds([&] { kept = kept + restrictions(network, std::span(&c, 1)).size(); });
    });
    growth("checking a county against so many lakes", 1'000, 10'000, [&](std::size_t n) {
        auto lakes = std::make_shared<std::vector<geo::Area>>();
        std::mt19937 random(9);
        const auto& box = network.extent();
        for (std::size_t i = 0; i < n; ++i) {
            const double x = std::uniform_real_distribution<double>(box.west, box.east)(random),
                         y = std::uniform_real_distribution<double>(box.south, box.north)(random);
            Points p;
            for (int k = 0; k < 12; ++k)
                p.push_back({x + 0.0008 * std::cos(k * M_PI / 6), y + 0.0008 * std::sin(k * M_PI / 6)});
            lakes->emplace_back().add(p);
        }
        service::Study wet;
        wet.roads = s.roads;
        const double dry = seconds([&] { kept = kept + check_study(wet, Task())->gaps.size(); });
        wet.water = service::WaterIn{lakes, {}};
        return std::max(0.001, seconds([&] { kept = kept + check_study(wet, Task())->gaps.size(); }) - dry);
    });
    const auto sites_of = [&](std::size_t n) {
        auto sites = std::make_shared<places::SiteSet>();
        const auto& homes = s.demand[0].set->places;
        for (std::size_t i = 0; i < n; ++i)
            sites->sites.push_back(
                {std::to_string(i), "", homes[i * homes.size() / n].position, places::SiteState::open, std::nullopt});
        return sites;
    };
    growth("from so many sites to every place of a county", 25, 100, [&](std::size_t n) {
        service::Question q;
        const auto ready = service::prepare({s.roads->network, s.demand[0].set, sites_of(n)}, q, nullptr, Task());
        return seconds([&] {
            each_site_to_all(
                *ready, {}, [](SiteIndex, std::span<const service::PlaceOutcome> p) { kept = kept + p.size(); },
                Task());
        });
    });
    s = with_sites(std::move(s), {sites_of(100), {}});
    const auto ready = service::prepare(*s.inputs(), s.question(), nullptr, Task());
    const auto outcome = service::answer(*ready, service::Plan{}, Task());
    const auto out = std::filesystem::temp_directory_path() / "otoro-bench-out";
    std::filesystem::create_directories(out);
    const auto written = [&](const char* name) {
        return seconds(
            [&] { write_answer(*ready, outcome, (out / name).string(), files::AnswerShape::points, Task()); });
    };
    const double csv = written("a.csv");
    for (const char* name : {"a.geojson", "a.gpkg"}) {
        const double t = written(name);
        row(fmt::format("writing the answer of a county as {}", name + 2), ms(t), fmt::format("as CSV: {}", ms(csv)),
            t / csv, 2);
    }
    const double saving = seconds([&] { files::save_study(s, (out / "s.otoro.gpkg").string(), Task()); });
    row("saving the county's study", ms(saving), "as CSV, the answer", saving / csv, 0);
    const double opening =
        seconds([&] { kept = kept + files::open_study((out / "s.otoro.gpkg").string(), Task()).demand.size(); });
    row("opening it again", ms(opening), "", 0, 0);
    std::filesystem::remove_all(out);
}

void sizes_of_candidates(const std::string& folder) {
    const auto roads = files::add_roads({{folder + "/roads.gpkg", "", ""}, {}}, {}, Task());
    const auto demand = files::add_demand({{folder + "/households.csv", "", ""}, {}, {}}, "", Task());
    growth("trying so many candidates in Saltmere", 2'500, 10'000, [&](std::size_t n) {
        auto sites = std::make_shared<places::SiteSet>();
        const auto& homes = demand.set->places;
        for (std::size_t i = 0; i < n; ++i)
            sites->sites.push_back({std::to_string(i), "", homes[i * homes.size() / n].position,
                                    i % 100 == 0 ? places::SiteState::open : places::SiteState::candidate,
                                    std::nullopt});
        const auto ready = service::prepare({roads.network, demand.set, sites}, {}, nullptr, Task());
        const auto base = std::make_shared<const service::Outcome>(service::answer(*ready, service::Plan{}, Task()));
        return seconds([&] {
            service::Candidates candidates(ready, base);
            for (std::uint32_t i = 0; i < n; ++i)
                if (i % 100 != 0) kept = kept + candidates.add(SiteIndex(i)).changed.size();
        });
    });
}

}  // namespace

void run_sizes(const std::string& county, const std::string& district) {
    fmt::print("\n{:<44} {:>12}   {:<40} {:>8}\n", "how it grows", "figure", "against", "exponent");
    sizes_of_roads();
    sizes_of_candidates(district);
    sizes_of_county(county);
}

}  // namespace otoro::bench
