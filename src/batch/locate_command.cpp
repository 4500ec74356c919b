/// The best set of sites to open.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/best_set_file.h"
#include "geo/wording.h"
#include "service/best_set.h"
#include "service/candidate_spots.h"
#include "service/more_sets.h"
#include "service/sentence.h"

namespace otoro::batch {
namespace {

struct Locate : Command {
    Asking asking;
    std::string goal, within, share, capacity, busy = "30%", budget, cost, keep = "open", grid, apart,
                                               time_limit = "60s", gap, nearly;
    std::uint32_t choose = 1;
    bool junctions = false, at_demand = false, sure = false;
    std::vector<std::string> required, forbidden, conflicts, one_of;
    std::optional<std::uint32_t> close_at_most;
    std::string json_out, out, curve;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;

private:
    void check() const;
    [[nodiscard]] service::BestSetAsked asked(const std::vector<service::SiteOutcome>& sites) const;
    [[nodiscard]] service::Study with_spots(service::Study study, Console& console) const;
};

std::vector<std::string> parts_of(const std::string& text) {
    std::vector<std::string> out;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        out.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

std::vector<std::string> parse_two(const std::string& text) {
    auto ids = parts_of(text);
    if (ids.size() != 2) refuse("", fmt::format("'{}' does not name two ids", text), "");
    return ids;
}

double parse_part(const std::string& text) {
    return text == "0" || text == "0%" ? 0.0 : parse_share(text).percent() / 100;
}

Weight parse_budget(const std::string& text) {
    double sum = 0;
    if (!parse_number(text, sum) || sum < 0 || sum > Weight::kMost)
        refuse("", fmt::format("'{}' is no sum from 0 to {}", text, Weight::kMost), "");
    return Weight::of(sum);
}

void Locate::add_to(Options& app) {
    asking.add_to(app, QuestionOptions::kLimit | QuestionOptions::kWeight);
    app.add_option("--goal", goal,
                   "cover: most demand within a limit; backup: counted again where a second site is within it; "
                   "expected: of a site that is not busy; travel: least total travel; worst: the farthest as near as "
                   "can be; fewest: the fewest sites that cover all that can be covered, or a share")
        .required()
        .one_of({"cover", "backup", "expected", "travel", "worst", "fewest"});
    app.add_option("--within", within, "the limit of cover, backup, expected and fewest: 8min, 2km")
        .reads_as("AMOUNT", parse_amount);
    app.add_option("--share", share, "of fewest: so much of the whole demand is enough, such as 90%")
        .reads_as("SHARE", parse_share);
    app.add_option("--capacity", capacity,
                   "of cover: each site takes only as many as this field of the sites says, all where it says nothing")
        .type_name("FIELD");
    app.add_option("--busy", busy, "of expected: how much of the time each site is busy")
        .shows_default()
        .reads_as("SHARE", parse_busy);
    auto number = app.add_option("--choose", choose, "how many candidates").shows_default();
    app.add_option("--budget", budget, "instead of a number: what those chosen may cost in all")
        .reads_as("SUM", parse_budget)
        .excludes(number);
    app.add_option("--cost", cost, "of --budget: field of the sites with what each costs (found by name)")
        .type_name("FIELD");
    app.add_option("--keep", keep, "open: open sites stay open; none: they are chosen or closed like candidates")
        .one_of({"open", "none"})
        .shows_default();
    app.add_option("--close-at-most", close_at_most, "of --keep none: no more than so many open sites are closed")
        .type_name("N");
    app.add_option("--require", required, "id of a site that is to be among those chosen; may be named again")
        .type_name("ID")
        .one_each_time();
    app.add_option("--forbid", forbidden, "id of a site that is not to be chosen; may be named again")
        .type_name("ID")
        .one_each_time();
    app.add_option("--conflict", conflicts, "ids of two sites that may not both be open; may be named again")
        .reads_as("ID,ID", parse_two)
        .one_each_time();
    app.add_option("--one-of", one_of, "ids of sites of which at least one is to be open; may be named again")
        .type_name("ID,ID,...")
        .one_each_time();
    app.add_option("--apart", apart, "no two nearer to one another by the straight line, such as 2km")
        .reads_as("LENGTH", parse_length);
    auto every = app.add_option("--grid", grid, "further candidates on a grid over the demand, such as 500m")
                     .reads_as("LENGTH", parse_length);
    auto joints = app.add_flag("--junctions", junctions, "further candidates wherever three roads meet");
    app.add_flag("--at-demand", at_demand, "further candidates wherever demand stands")
        .excludes(every)
        .excludes(joints);
    every.excludes(joints);
    app.add_option(
           "--time-limit", time_limit,
           "leave off choosing after this long, everything that is asked for taken together; what is proven by then "
           "is said, and what is left off")
        .shows_default()
        .reads_as("TIME", parse_time);
    app.add_option("--gap", gap, "leave off when the best can be no more than this much better, such as 0.1% (0)")
        .reads_as("SHARE", parse_part);
    app.add_option("--curve", curve, "the best for one site, for two, ... up to --choose, as CSV, each with its bound")
        .type_name("FILE");
    app.add_option("--nearly", nearly, "also list sets that are worse by no more than this, such as 1%; at most twenty")
        .reads_as("SHARE", parse_share);
    app.add_flag("--sure", sure,
                 "also say how many sets are as good, and what the set loses against the best when speeds are 10 and "
                 "20 % lower or higher, when each place counts once, and with the busiest road of each chosen site "
                 "shut, of five at most");
    app.add_option("--json", json_out, "the set, its value and bound, as JSON").type_name("FILE");
    app.add_option("--out", out, "the sites of the set, as CSV").type_name("FILE");
}

void Locate::check() const {
    const auto g = *service::parse_goal(goal);
    if (has_limit(g) && within.empty())
        throw Misuse("--within", fmt::format("the goal {} needs a limit, such as 8min", goal));
    if (!has_limit(g) && !within.empty()) throw Misuse("--within", fmt::format("the goal {} has no limit", goal));
    if (!share.empty() && g != service::Goal::fewest) throw Misuse("--share", "it goes with fewest");
    if (!capacity.empty() && g != service::Goal::cover) throw Misuse("--capacity", "it goes with cover");
    if (!budget.empty() && g == service::Goal::fewest)
        throw Misuse("--budget", "fewest counts sites, not what they cost");
    if (close_at_most && keep != "none") throw Misuse("--close-at-most", "it goes with --keep none");
    if (!cost.empty() && budget.empty()) throw Misuse("--cost", "it goes with --budget");
    if (!curve.empty() && (!budget.empty() || g == service::Goal::fewest))
        throw Misuse("--curve", "it goes with --choose");
    if (asking.asked.use != "open") throw Misuse("--use", "candidates are chosen here; they are not in use before");
    std::vector<std::string> taken = asking.inputs();
    check_output("--json", json_out, {}, taken);
    taken.push_back(json_out);
    check_output("--out", out, {".csv"}, taken);
    taken.push_back(out);
    check_output("--curve", curve, {".csv"}, taken);
}

service::BestSetAsked Locate::asked(const std::vector<service::SiteOutcome>& sites) const {
    std::vector<NamedSite> named;
    std::map<std::string_view, std::size_t> so_far;  // of each set
    for (const auto& s : sites) {
        const service::PlannedSite& p = s.planned;
        named.push_back({p.site.id, p.set, std::nullopt});
        if (!p.added) named.back().record = so_far[p.set]++;
    }
    const auto by_id = [&](const char* option, const std::string& id) {
        return SiteIndex(static_cast<std::uint32_t>(site_named(option, id, named)));
    };
    service::BestSetAsked a;
    a.goal = *service::parse_goal(goal);
    if (!within.empty()) a.within = parsed("--within", within, parse_amount);
    if (!share.empty()) a.share = parsed("--share", share, parse_share);
    a.busy = parsed("--busy", busy, parse_busy);
    a.heed_room = !capacity.empty();
    a.choose = choose;
    if (!budget.empty()) a.budget = parsed("--budget", budget, parse_budget);
    a.keep_open = keep == "open";
    a.close_at_most = close_at_most;
    for (const auto& id : required) a.required.push_back(by_id("--require", id));
    for (const auto& id : forbidden) a.forbidden.push_back(by_id("--forbid", id));
    for (const auto& text : conflicts) {
        const auto ids = parsed("--conflict", text, parse_two);
        a.conflicts.emplace_back(by_id("--conflict", ids[0]), by_id("--conflict", ids[1]));
    }
    for (const auto& text : one_of) {
        a.one_of.emplace_back();
        for (const auto& id : parts_of(text)) a.one_of.back().push_back(by_id("--one-of", id));
    }
    if (!apart.empty()) a.apart = parsed("--apart", apart, parse_length);
    return a;
}

service::Study Locate::with_spots(service::Study study, Console& console) const {
    if (grid.empty() && !junctions && !at_demand) return study;
    const auto demand = study.inputs()->demand;
    places::SiteSet spots = !grid.empty() ? service::grid_candidates(demand, parsed("--grid", grid, parse_length))
                            : junctions   ? service::junction_candidates(*study.roads->network)
                                          : service::demand_candidates(demand);
    console.note(fmt::format("{} further candidates: {}", said_whole(spots.sites.size()), spots.name));
    service::SitesIn in;
    in.set = with_rule(spots, asking.places.attaching.rule());
    in = renamed(std::move(in), set_names(study, service::SetKind::sites));
    study.question().sites.push_back(in.set->name);
    return with_sites(std::move(study), std::move(in));
}

int Locate::run() const {
    check();
    Console console(asking.quiet);
    const Task reading = console.task();
    const double gap_part = gap.empty() ? 0 : parsed("--gap", gap, parse_part);
    const service::BestSetLimits limits{gap_part};
    const std::chrono::milliseconds most_time(parsed("--time-limit", time_limit, parse_time).count());
    const double near_part = nearly.empty() ? 0 : parsed("--nearly", nearly, parse_share).percent() / 100;
    service::Plan plan;
    auto with_costs = asking;
    with_costs.places.site_cost = cost;
    with_costs.places.site_capacity = capacity;
    auto study = with_spots(with_costs.read(console, reading, plan), console);
    const auto ready = prepare(*study.inputs(), study.question(), nullptr, reading);
    service::SetChooser chooser(ready, plan, reading);
    const auto a = asked(chooser.sites());
    console.note(sentence(ready->inputs, ready->question, a));

    // One moment for all that is chosen.
    const Task task = reading.leaving_off(Task::Clock::now() + most_time);
    const auto set = chooser.best(a, limits, task);
    if (!curve.empty()) {
        const auto steps = price_of_steps(chooser, a, limits, task);
        files::write_text(curve, files::best_set_curve_csv(chooser.sites(), steps));
        if (steps.enough > 0)
            console.note(fmt::format("{}: more than {} of the {} bring nothing", curve, steps.enough, a.choose));
        if (steps.left_off_from > 0)
            console.note(fmt::format("{}: left off at {} of {} sites; --time-limit allows it more time", curve,
                                     steps.left_off_from, a.choose));
    }
    auto said = files::best_set_json(*ready, chooser.sites(), a, set);
    std::string more;
    if (!nearly.empty()) {
        constexpr std::size_t kMost = 20;
        const auto near = nearly_as_good(chooser, a, set, near_part, kMost, limits, task);
        said["nearly_as_good"] = files::near_sets_json(chooser.sites(), set, near);
        more += files::near_sets_words(chooser.sites(), set, near, counted(ready->question, ready->inputs.demand));
    }
    if (sure) {
        const auto found = how_sure(chooser, ready, plan, a, set, service::kUsualSpeeds, limits, task);
        said["how_sure"] = files::how_sure_json(chooser.sites(), found);
        more += files::how_sure_words(chooser.sites(), found, counted(ready->question, ready->inputs.demand));
    }
    if (!json_out.empty())
        files::write_text(json_out, said.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
    if (!out.empty()) files::write_text(out, files::best_set_csv(chooser.sites(), set));
    console.note("");
    fmt::print("{}{}", files::best_set_summary(*ready, chooser.sites(), a, set), more);
    return kDone;
}

}  // namespace

std::unique_ptr<Command> locate_command() { return std::make_unique<Locate>(); }

}  // namespace otoro::batch
