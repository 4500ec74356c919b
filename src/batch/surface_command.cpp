/// Minutes or metres to the nearest site, everywhere.
#include <fmt/format.h>

#include "batch/command.h"
#include "batch/reach_options.h"
#include "files/all_fields.h"
#include "files/atomic_file.h"
#include "files/epsg.h"
#include "files/write_answer.h"
#include "files/write_reach.h"
#include "files/write_surface.h"

namespace otoro::batch {
namespace {

geo::Box parse_box(const std::string& text) {
    std::vector<double> numbers;
    for (std::size_t from = 0; from <= text.size();) {
        const std::size_t to = std::min(text.find(',', from), text.size());
        double number = 0;
        if (!parse_number(text.substr(from, to - from), number)) break;
        numbers.push_back(number);
        from = to + 1;
    }
    if (numbers.size() != 4 || numbers[0] >= numbers[2] || numbers[1] >= numbers[3])
        throw InputError({"", std::nullopt, fmt::format("'{}' is not west,south,east,north in degrees", text), ""});
    return {numbers[0], numbers[1], numbers[2], numbers[3]};
}

struct SurfaceOf : Command {
    ReachAsking asking;
    std::string cell, extent, crs, out, minus, sample, field = "value", sample_out;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;
    void write_samples(const service::SiteValues& values, Console& console, const Task& task) const;
    [[nodiscard]] service::ValueOf measure() const {
        return asking.asked.serving.measure == "time" ? service::ValueOf::time : service::ValueOf::distance;
    }
};

void SurfaceOf::add_to(Options& app) {
    asking.add_to(app);
    app.add_option("--cell", cell, "width of a cell, such as 25m; as in --minus, if that is given")
        .reads_as("LENGTH", parse_length);
    app.add_option("--extent", extent, "west,south,east,north in degrees; else all ground near roads")
        .reads_as("W,S,E,N", parse_box);
    app.add_option("--crs", crs, "coordinate system of the raster, by EPSG code; else the UTM zone of the place")
        .reads_as("EPSG", files::parse_epsg);
    app.add_option("--out", out, "where the surface goes: .tif, cloud-optimised; -9999 stands for no value")
        .required()
        .type_name("FILE");
    app.add_option("--minus", minus, "take the values of this surface off, which gives the cells too")
        .type_name("FILE");
    auto const points =
        app.add_option("--sample", sample, "points that get the value as a new column").type_name("FILE");
    app.add_option("--field", field, "name of that column").needs(points).shows_default();
    auto const samples =
        app.add_option("--sample-out", sample_out, "where they go: .csv, .gpkg, .geojson, .fgb or .shp")
            .needs(points)
            .type_name("FILE");
    points.needs(samples);
}

/// One row a point: all that its file says of it, and the value under the name that was asked for.
void SurfaceOf::write_samples(const service::SiteValues& values, Console& console, const Task& task) const {
    const files::LayerChoice choice{sample, "", ""};
    const auto points = files::add_demand({choice, {}, {}}, "", task);
    tell_reading(console, points.origin);
    const auto kept = files::all_fields(choice, files::Shape::point, task);
    std::vector<std::string> names;
    for (const auto& c : kept.columns) names.push_back(c.name);
    if (const auto there = files::guess_field(names, {field.c_str()}); !there.empty())
        throw InputError({sample, std::nullopt, fmt::format("it has a field '{}' already", there),
                          "Give the new column another name with --field"});
    const auto found = surface_at(values, measure(), places::positions(*points.set), task);
    auto columns = kept.columns;
    columns.push_back({field, files::AnswerColumn::Kind::number, 5});
    // Records come in the order of the places that were made of them.
    const auto each_row = [&](const auto& use) {
        std::uint32_t i = 0;
        kept.each_record(task, [&](std::vector<files::Cell>&& cells) {
            cells.emplace_back();
            if (i < found.size() && !std::isnan(found[i]))
                cells.back() = std::round(static_cast<double>(found[i]) * 1e5) / 1e5;
            use(std::move(cells), i < found.size() ? points.set->places[i].position : std::nullopt);
            ++i;
        });
    };
    files::ShapeTable table;
    table.name = points.set->name;
    table.kind = files::ShapeKind::points;
    table.columns = files::shape_columns(columns);
    table.each_row = [&](const auto& use) {
        each_row([&](std::vector<files::Cell>&& cells, const std::optional<geo::LonLat>& at) {
            files::ShapeRow row;
            row.cells = std::move(cells);
            if (at) row.lines = {{*at}};
            use(row);
        });
    };
    console.note(write_table(table, sample_out, task));
}

int SurfaceOf::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    std::vector<std::string> taken = asking.inputs();
    for (const auto& path : {minus, sample})
        if (!path.empty()) taken.push_back(path);
    check_output("--out", out, {".tif", ".tiff"}, taken);
    taken.push_back(out);
    if (!sample_out.empty()) {
        auto endings = files::shape_endings();
        endings.insert(endings.begin(), ".csv");
        check_output("--sample-out", sample_out, endings, taken);
    }
    if (cell.empty() && minus.empty()) throw Misuse("--cell", "the width of a cell is needed, such as 25m");
    const auto box = extent.empty() ? std::nullopt : std::optional(parsed("--extent", extent, parse_box));
    const auto width = cell.empty() ? Millimetres() : parsed("--cell", cell, parse_length);
    const auto [ready, plan] = asking.ready_to_ask(console, task);
    const auto frame = minus.empty() ? files::SurfaceFrame::around(*ready, box, width.metres(), crs)
                                     : files::SurfaceFrame::of_file(minus);
    console.note(frame.described());
    const auto values = nearest_values(ready, plan, measure(), {}, task);
    const std::string about =
        fmt::format("{} to the nearest of the {}", measure() == service::ValueOf::time ? "Minutes" : "Metres",
                    fmt::join(ready->question.sites, ", "));
    write_surface(*values, measure(), frame, out, minus.empty() ? std::nullopt : std::optional(minus), about, task);
    if (!sample.empty()) write_samples(*values, console, task);
    fmt::print("{}\n", frame.described());
    return kDone;
}

}  // namespace

std::unique_ptr<Command> surface_command() { return std::make_unique<SurfaceOf>(); }

}  // namespace otoro::batch
