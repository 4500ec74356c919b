/// Makes the demo district's files, or a county for the benchmark. The same command always makes the same files.
#include <cpl_conv.h>
#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <CLI/CLI.hpp>
#include <filesystem>

#include "files/atomic_file.h"
#include "files/gdal_writer.h"
#include "generator/people.h"

namespace {
using namespace demo;
using otoro::files::GdalWriter;
namespace fs = std::filesystem;

void write_roads(const fs::path& path, const StreetPlan& plan) {
    fs::remove(path);
    GdalWriter out(path.string(), path.string());
    auto layer = out.layer("roads", wkbLineString,
                           {{"class", OFTString}, {"name", OFTString}, {"speed", OFTInteger}, {"oneway", OFTString}},
                           "Roads of an invented district");
    std::vector<otoro::geo::LonLat> shape;
    for (const auto& s : plan.streets) {
        auto row = layer.row();
        row.set(0, s.road_class);
        if (!s.name.empty()) row.set(1, s.name);
        if (s.speed > 0) row.set(2, s.speed);
        row.set(3, std::string(s.one_way ? "yes" : "no"));
        shape.clear();
        for (const Point p : s.shape) shape.push_back(place(p));
        row.line(shape);
        row.write();
    }
    out.close();
}

void write_dwellings(const fs::path& path, const std::vector<Dwelling>& dwellings, const std::string& weight) {
    const bool recorded = !dwellings.front().recorded.empty();
    std::string text = "id,lon,lat," + weight + (recorded ? ",recorded_school" : "") + "\n";
    for (const auto& d : dwellings) {
        const auto p = place(d.at);
        text += fmt::format("{},{:.7f},{:.7f},{}{}{}\n", d.id, p.lon, p.lat,
                            d.weight_missing ? "" : std::to_string(d.people), recorded ? "," : "", d.recorded);
    }
    otoro::files::write_text(path.string(), text);
}

void write_posts(const fs::path& path, const std::vector<Post>& posts, const std::string& capacity) {
    std::string text =
        fmt::format("{{\n\"type\": \"FeatureCollection\",\n\"name\": \"{}\",\n\"features\": [\n", path.stem().string());
    for (std::size_t i = 0; i < posts.size(); ++i) {
        const auto& p = posts[i];
        const auto at = place(p.near);
        text += fmt::format(R"({{ "type": "Feature", "properties": {{ "id": "{}", "name": "{}", "state": "{}")", p.id,
                            p.name, p.state);
        if (!capacity.empty()) text += fmt::format(R"(, "{}": {})", capacity, p.capacity);
        text += fmt::format(R"( }}, "geometry": {{ "type": "Point", "coordinates": [ {:.7f}, {:.7f} ] }} }}{})", at.lon,
                            at.lat, i + 1 < posts.size() ? ",\n" : "\n");
    }
    otoro::files::write_text(path.string(), text + "]\n}\n");
}

/// Two zones as polygons: the town and its estates, and the country round it.
void write_zones(const fs::path& path) {
    const auto ring = [](double x, double y, double rx, double ry, int n) {
        std::string s;
        for (int i = 0; i <= n; ++i) {
            const double a = 6.283185307179586 * (i % n) / n;
            const double wobble = 1 + 0.08 * std::sin(3 * a + 1);
            const auto p = place({x + rx * wobble * std::cos(a), y + ry * wobble * std::sin(a)});
            s += fmt::format("{}[{:.7f},{:.7f}]", i ? "," : "", p.lon, p.lat);
        }
        return "[" + s + "]";
    };
    const std::string town = ring(500, 0, 3900, 3700, 40);
    const auto sw = place({-10400, -6250});
    const auto ne = place({8950, 6250});
    const std::string all =
        fmt::format("[[{0:.7f},{1:.7f}],[{2:.7f},{1:.7f}],[{2:.7f},{3:.7f}],[{0:.7f},{3:.7f}],[{0:.7f},{1:.7f}]]",
                    sw.lon, sw.lat, ne.lon, ne.lat);
    otoro::files::write_text(path.string(), fmt::format(R"({{"type":"FeatureCollection","name":"zones","features":[
{{"type":"Feature","properties":{{"id":"town","name":"Town"}},"geometry":{{"type":"Polygon","coordinates":[{0}]}}}},
{{"type":"Feature","properties":{{"id":"country","name":"Country"}},"geometry":{{"type":"Polygon",)"
                                                        R"("coordinates":[{1},{0}]}}}}
]}}
)",
                                                        town, all));
}

/// The sea, with the island left out of it, and the river, as polygons that overlap at the mouth.
void write_water(const fs::path& path, const Terrain& t) {
    const auto ring = [](const std::vector<Point>& points) {
        std::string s;
        for (std::size_t i = 0; i <= points.size(); ++i) {
            const auto p = place(points[i % points.size()]);
            s += fmt::format("{}[{:.7f},{:.7f}]", i ? "," : "", p.lon, p.lat);
        }
        return "[" + s + "]";
    };
    constexpr double kMargin = 1500, kStep = 150;
    std::vector<Point> sea{{t.low.x - kMargin, t.low.y - kMargin}};
    for (double y = t.low.y - kMargin; y <= t.high.y + kMargin; y += kStep) sea.push_back({t.coast(y), y});
    sea.push_back({t.low.x - kMargin, t.high.y + kMargin});
    std::vector<Point> island;
    for (int i = 0; i < 72; ++i) {
        const double a = 6.283185307179586 * i / 72;
        const auto& land = t.islands[0];
        // Where `Terrain::water` has its shore, in the direction of `a`.
        double low = 0, high = 2 * land.rx;
        for (int k = 0; k < 40; ++k) {
            const double r = (low + high) / 2;
            const Point d{r * std::cos(a), r * std::sin(a)};
            const double wobble = 1 + 0.12 * std::sin(3 * a + 1) + 0.06 * std::sin(7 * a);
            (std::hypot(d.x / land.rx, d.y / land.ry) < wobble ? low : high) = r;
        }
        island.push_back(land.centre + Point{low * std::cos(a), low * std::sin(a)});
    }
    const auto& river = t.rivers[0];
    std::vector<Point> bank;
    for (double x = t.coast_x - 900; x <= t.high.x + kMargin; x += kStep)
        bank.push_back({x, river.centre(x) + river.half_width(x)});
    for (double x = t.high.x + kMargin; x >= t.coast_x - 900; x -= kStep)
        bank.push_back({x, river.centre(x) - river.half_width(x)});
    otoro::files::write_text(path.string(), fmt::format(R"({{"type":"FeatureCollection","name":"water","features":[
{{"type":"Feature","properties":{{"name":"The Strand Sea"}},"geometry":{{"type":"Polygon","coordinates":[{},{}]}}}},
{{"type":"Feature","properties":{{"name":"River Mere"}},"geometry":{{"type":"Polygon","coordinates":[{}]}}}}
]}}
)",
                                                        ring(sea), ring(island), ring(bank)));
}

void make_saltmere(const fs::path& folder) {
    const Terrain t = saltmere();
    Dice dice(20);
    StreetPlan plan = grow_streets(t, dice);
    plant_flaws(plan, dice);
    fs::create_directories(folder);
    write_roads(folder / "roads.gpkg", plan);

    auto homes = settle(t, plan, 9000, "H", 7, dice);
    plant_flaws(t, homes, dice);
    write_dwellings(folder / "households.csv", homes, "residents");
    auto pupils = settle(t, plan, 1400, "P", 1, dice);
    write_dwellings(folder / "winter-round.csv", settle(t, plan, 320, "W", 1, dice), "premises");

    const Point town = t.towns[0].centre;
    write_posts(folder / "ambulance-posts.geojson",
                put_beside_streets(plan, {{"A1", "Market Cross", "open", town, 0},
                                          {"A2", "Linnet Hill", "open", {5300, -3900}, 0},
                                          {"A3", "Saltpan Road", "open", {3300, 2300}, 0},
                                          {"A4", "Northend", "open", {-4800, 4200}, 0},
                                          {"A5", "Weir Cottages", "open", {6400, 900}, 0},
                                          {"C1", "Quay", "candidate", {700, -1300}, 0},
                                          {"C2", "Mill", "candidate", {-1300, 2000}, 0},
                                          {"C3", "Strand Island", "candidate", {-8600, 2200}, 0},
                                          {"C4", "Southcote", "candidate", {-4300, -3500}, 0}}),
                "");
    std::vector<Post> schools;
    constexpr std::array<const char*, 9> kNames{"Curlew Primary",    "Tidemill Primary",   "Old Lantern School",
                                                "Southmere Primary", "Orchard Primary",    "Weir Primary",
                                                "Northend Primary",  "Harrow Hill School", "Saltings Primary"};
    for (std::size_t i = 0; i < kNames.size(); ++i) {
        const std::array<Point, 9> where{Point{2400, 2100}, {-1600, 1900}, town,          {900, -1600},  {-1000, -2500},
                                         {6500, 1000},      {-4900, 4300}, {5300, -4000}, {-4400, -3500}};
        schools.push_back({fmt::format("S{}", i + 1), kNames[i], i == 8 ? "candidate" : "open", where[i],
                           120 + 30 * static_cast<int>(i % 4)});
    }
    schools = put_beside_streets(plan, schools);
    write_posts(folder / "primary-schools.geojson", schools, "places");
    record_posts(pupils, schools);
    write_dwellings(folder / "pupils.csv", pupils, "pupils");
    write_posts(folder / "gritting-depots.geojson",
                put_beside_streets(plan, {{"G1", "Weir Depot", "open", {5900, 500}, 210},
                                          {"G2", "Coast Depot", "open", {-4000, 3000}, 120},
                                          {"G3", "Hill Depot", "candidate", {4800, -3500}, 80}}),
                "capacity");
    write_zones(folder / "zones.geojson");
    write_water(folder / "water.geojson", t);
    fmt::print("{}: {} links, {} households\n", folder.string(), plan.streets.size(), homes.size());
}

void make_county(const fs::path& folder, std::size_t links) {
    const Terrain t = county(links);
    Dice dice(11);
    const StreetPlan plan = grow_streets(t, dice);
    fs::create_directories(folder);
    write_roads(folder / "roads.gpkg", plan);
    write_dwellings(folder / "households.csv", settle(t, plan, plan.streets.size() / 2, "H", 7, dice), "residents");
    fmt::print("{}: {} links\n", folder.string(), plan.streets.size());
}

}  // namespace

int main(int argc, char** argv) {
    CPLSetConfigOption("OGR_CURRENT_DATE", "2026-01-01T00:00:00.000Z");
    CLI::App app{"Invented data for Otoro"};
    std::string folder;
    std::size_t links = 0;
    app.add_option("folder", folder, "where the files go")->required();
    app.add_option("--county", links, "make a county of about this many links instead of Saltmere");
    CLI11_PARSE(app, argc, argv);
    try {
        if (links > 0)
            make_county(folder, links);
        else
            make_saltmere(folder);
    } catch (const std::exception& e) {
        fmt::print(stderr, "otoro-demo-data: {}\n", e.what());
        return 1;
    }
    return 0;
}
