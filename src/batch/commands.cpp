#include "batch/commands.h"

#include <fmt/format.h>

#include <cstdio>
#include <new>

#include "batch/command.h"
#include "files/atomic_file.h"

namespace otoro::batch {
namespace {

constexpr const char* kExamples = R"(Examples:
  otoro-batch check --roads roads.gpkg --travel drive --demand households.csv --json report.json
  otoro-batch assign --roads roads.gpkg --demand households.csv --sites posts.geojson --travel respond \
      --measure time --towards demand --standard "90% within 8min" --out answer.csv
  otoro-batch assign --roads town.osm.pbf --demand pupils.csv --sites schools.geojson --travel walk \
      --measure distance --towards site --limit 2km --out answer.gpkg --as lines
  otoro-batch candidates --roads roads.gpkg --demand households.csv --sites posts.geojson --travel respond \
      --measure time --towards demand --standard "90% within 8min" --out candidates.csv
  otoro-batch locate --roads roads.gpkg --demand households.csv --sites posts.geojson --travel respond \
      --measure time --towards demand --goal cover --choose 2 --within 8min --json best.json
  otoro-batch table --roads roads.gpkg --demand pupils.csv --sites schools.geojson --travel walk \
      --measure distance --towards site --nearest 3 --out three-nearest.csv
  otoro-batch route --roads roads.gpkg --travel drive --stop -9.51,46.2 --stop -9.5,46.22 --stop -9.48,46.2 --best-order
  otoro-batch reach --roads roads.gpkg --sites posts.geojson --travel respond --measure time --towards demand \
      --limits 4min,8min --overlap nearest --out reach.gpkg
  otoro-batch uncovered --roads roads.gpkg --sites posts.geojson --zones zones.geojson --demand households.csv \
      --travel respond --measure time --towards demand --limit 8min --out uncovered.gpkg
  otoro-batch study --roads roads.gpkg --demand households.csv --sites posts.geojson --travel respond \
      --measure time --towards demand --standard "90% within 8min" --out saltmere.otoro.gpkg
  otoro-batch answer saltmere.otoro.gpkg --plan "Quay opens" --out tables/

Amounts carry their unit: 90s 8min 1h 500m 2km 1.5mi. Exit code: 0 done, 1 bad input, 2 misuse, 3 findings )"
                                  R"((check --strict).)";

}  // namespace

int run(int argc, const char* const* argv) {
    const auto say_error = [](const std::string& text) { fmt::print(stderr, "otoro-batch: {}\n", text); };
    CommandLine line{"Otoro: who is served by whom, and does that meet the standard",
                     "otoro-batch",
                     "otoro-batch 0.1.0",
                     kExamples,
                     {}};
    const auto add = [&](const char* name, const char* about, const std::shared_ptr<Command>& command) {
        line.commands.push_back({name, about, [command](Options& options) { command->add_to(options); },
                                 [command] { return command->run(); }});
    };
    add("check", "what the roads and places are like", check_command());
    add("assign", "each demand place to its nearest site", assign_command());
    add("candidates", "what each candidate would change if it were opened", candidates_command());
    add("locate", "the best set of sites to open, and how good it is proven to be", locate_command());
    add("standard", "a standard of several steps, judged for all, by zone and by group", standard_command());
    add("fairness", "whether some fare worse than others, by zone and group", fairness_command());
    add("access", "places of sites for each who shares them, by floating catchments", access_command());
    add("table", "from every site to every demand place", table_command());
    add("route", "a way over several stops, turn by turn", route_command());
    add("reach", "how far sites, or spots, reach: areas, roads, lines and circles", reach_command());
    add("surface", "minutes or metres to the nearest site, as a raster", surface_command());
    add("uncovered", "ground that no site reaches within a limit, patch by patch", uncovered_command());
    add("reach-change", "what a second reach gains and loses against a first", reach_change_command());
    add("zones", "whether every part of each zone is within a limit", zones_command());
    add("weakest", "which site's closing hurts most, and which road's", weakest_command());
    add("answer", "the answers of a saved study", answer_command());
    add("compare", "the plans of a saved study side by side", compare_command());
    add("study", "files and a question put into a study file", study_command());

    try {
        files::OutputsTogether outputs;
        const int code = line.run(argc, argv);
        if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0)
            throw InputError(
                {"standard output", std::nullopt, "it cannot be written to the end", "Write to a file, or make room"});
        if (Console::was_told_to_stop()) throw Stopped();
        outputs.put_in_place();
        return code;
    } catch (const Misuse& e) {
        say_error(fmt::format("{}\nRun with --help for usage and examples.", e.what()));
        return kMisuse;
    } catch (const Stopped&) {
        say_error("stopped; nothing was written");
        return kBadInput;
    } catch (const std::bad_alloc&) {
        say_error("there is not enough memory for this; use a smaller part of the data, or a machine with more");
        return kBadInput;
    } catch (const std::exception& e) {
        say_error(e.what());
        return kBadInput;
    }
}

}  // namespace otoro::batch
