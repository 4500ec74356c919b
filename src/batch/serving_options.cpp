/// The options that say by which rule places are served.
#include <fmt/format.h>

#include <cmath>

#include "batch/options.h"
#include "geo/amounts.h"
#include "service/serving_needs.h"

namespace otoro::batch {

namespace {

/// 0 for all.
std::uint32_t parse_count(const std::string& text) {
    if (text == "all") return 0;
    double count = 0;
    if (!parse_number(text, count) || count < 1 || count > service::kMostNearest || count != std::floor(count))
        refuse("", fmt::format("'{}' is no number from 1 to {}, and not all", text, service::kMostNearest), "");
    return static_cast<std::uint32_t>(count);
}

}  // namespace

void ServingOptions::add_to(Options& app, bool every_rule, bool required) {
    auto o = app.add_option("--measure", measure, "what nearest means").one_of({"time", "distance"});
    if (required) o.required();
    if (!every_rule) return;
    app.add_option(
           "--nearest", nearest,
           "so many nearest sites of each place instead of one, ranked; all: all, within the limit if there is one")
        .reads_as("K|all", parse_count);
    app.add_option("--needed", needed, "how many of them must be within the standard: 2 is backup cover")
        .positive()
        .shows_default();
    app.add_option("--capacity", capacity,
                   "sites take no more than this field of theirs says; those where it is empty take all")
        .type_name("FIELD");
    app.add_option("--least", least,
                   "field of the sites with what each should serve at least: least travel sees to it, other rules say "
                   "who is short of it")
        .type_name("FIELD");
    app.add_option("--fill", fill, "how they are filled (least-travel)").one_of({"least-travel", "nearest-first"});
    app.add_option("--priority", priority,
                   "field of the demand that says who comes first, before nearness: low numbers, then texts")
        .type_name("FIELD");
    app.add_flag("--split", split, "part of a place may go elsewhere");
    app.add_option("--recorded", recorded, "each place goes to the site whose id this field of the demand has")
        .type_name("FIELD");
    app.add_option("--pairs", pairs, "a table of pairs of places and sites decides: the largest value wins")
        .type_name("FILE");
    app.add_option("--by", by, "of --pairs: the field with the value (found by name)").type_name("FIELD");
    app.add_flag("--smallest", smallest, "of --pairs: the smallest value wins");
    app.add_option("--blend", blend, "of --pairs: how much the value counts, such as 70%; the rest is nearness")
        .reads_as("SHARE", parse_share);
    app.add_flag("--else-nearest", else_nearest,
                 "of --pairs: places without a value with any site that there is a way to go to their nearest");
    app.add_option("--pair-demand", pair_demand, "of --pairs: the field with the demand's id (found by name)")
        .type_name("FIELD");
    app.add_option("--pair-site", pair_site, "of --pairs: the field with the site's id (found by name)")
        .type_name("FIELD");
    app.add_option("--together", together, "areas each of which goes to one site as a whole").type_name("FILE");
}

service::Serving ServingOptions::serving() const {
    const auto near = measure == "time" ? routing::Measure::time : routing::Measure::distance;
    const int rules = (nearest.empty() ? 0 : 1) + (fills() ? 1 : 0) + (recorded.empty() ? 0 : 1) +
                      (together.empty() ? 0 : 1) + (pairs.empty() ? 0 : 1);
    if (rules > 1)
        throw Misuse("--nearest, --capacity, --recorded, --together, --pairs", "each is a rule of its own: name one");
    if (needed > 1 && nearest.empty()) throw Misuse("--needed", "it goes with --nearest");
    if (!nearest.empty()) {
        const service::SeveralNearest rule{near, parsed("--nearest", nearest, parse_count), needed};
        if (!is_sound(rule)) throw Misuse("--needed", fmt::format("{} are needed of {} nearest", needed, nearest));
        return rule;
    }
    if (fills()) {
        service::AsCapacityAllows rule{near};
        if (fill == "nearest-first") rule.fill = service::AsCapacityAllows::Fill::nearest_first;
        if (!priority.empty() && fill != "nearest-first")
            throw Misuse("--priority", "it goes with --fill nearest-first");
        rule.split = split;
        rule.by_priority = !priority.empty();
        return rule;
    }
    if (!recorded.empty()) return service::AsRecorded{near};
    if (!together.empty()) return service::WholeZones{near};
    if (!pairs.empty())
        return service::ByPairs{
            near, smallest, blend.empty() ? Share::percent(100) : parsed("--blend", blend, parse_share), else_nearest};
    for (const auto& [option, given] :
         {std::pair{"--by", !by.empty()}, std::pair{"--smallest", smallest}, std::pair{"--blend", !blend.empty()},
          std::pair{"--else-nearest", else_nearest}, std::pair{"--pair-demand", !pair_demand.empty()},
          std::pair{"--pair-site", !pair_site.empty()}})
        if (given) throw Misuse(option, "it goes with --pairs");
    return service::Nearest{near};
}

void ServingOptions::check(const service::Study& study, const service::Question& question) const {
    if (const auto missing = service::what_is_missing(study, question))
        throw InputError({"", std::nullopt, missing->wrong, missing->to_do});
}

}  // namespace otoro::batch
