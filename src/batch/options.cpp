#include "batch/options.h"

#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>

#include "files/atomic_file.h"
#include "files/closure_file.h"
#include "files/epsg.h"
#include "files/expression.h"
#include "files/profile_file.h"
#include "files/read_heights.h"
#include "geo/amounts.h"
#include "service/check.h"
#include "service/road_reading.h"
#include "service/serving_needs.h"

namespace otoro::batch {

namespace {

/// A word of a file, and what it means.
std::pair<std::string, std::string> parse_meaning(const std::string& text) {
    const auto at = text.rfind('=');
    if (at == std::string::npos) refuse("", fmt::format("'{}' is not like \"B Road=secondary\"", text), "");
    return {text.substr(0, at), text.substr(at + 1)};
}

roads::ParsedClass parse_class(const std::string& text) {
    const auto c = roads::parse_class(text);
    if (!c) refuse("", fmt::format("'{}' is not a class of road", text), "");
    return *c;
}

}  // namespace

Share parse_busy(const std::string& text) {
    if (text == "0%" || text == "0 %") return {};
    const auto busy = parse_share(text);
    if (busy == Share::percent(100)) refuse("", "sites that are always busy serve nobody", "");
    return busy;
}

void RoadOptions::add_to(Options& app, bool required) {
    auto o =
        app.add_option("--roads", paths, "lines to travel on; named again, further layers are merged with the first")
            .type_name("FILE");
    if (required) o.required();
    app.add_option("--roads-layer", layers,
                   "layer of that file (the first that fits); one for each --roads, in the same order")
        .type_name("NAME");
    app.add_option("--roads-crs", crs, "its coordinate system, by EPSG code (the file's own)")
        .reads_as("EPSG", files::parse_epsg);
    app.add_option("--roads-filter", filter, "only records of which this is true")
        .reads_as("CQL2", files::Expression::parse);
    app.add_option("--road-class", named.road_class, "field of the road's class (found by name)").type_name("FIELD");
    app.add_option("--road-name", named.name, "field of the road's name").type_name("FIELD");
    app.add_option("--road-speed", named.speed,
                   "field of the speed travelled, km/h unless its name or value says mph; or a formula after '='")
        .type_name("FIELD");
    app.add_option("--road-one-way", named.one_way, "field that says which way is allowed").type_name("FIELD");
    app.add_option("--road-minutes", named.minutes,
                   "field of the minutes from end to end; or a formula such as '= length_m / 1000 / kmh * 60'")
        .type_name("FIELD");
    app.add_option("--road-minutes-back", named.minutes_back,
                   "field of the minutes against the drawn direction, or a formula")
        .type_name("FIELD");
    app.add_option("--road-length", named.length, "field of the length, to be compared with the drawn line")
        .type_name("FIELD");
    app.add_option("--road-level", level, "field of the level, or of bridges or tunnels; \"\" for none")
        .type_name("FIELD");
    app.add_option("--road-bridge", named.bridge, "field that says which roads are bridges").type_name("FIELD");
    app.add_option("--road-tunnel", named.tunnel, "field that says which roads are tunnels").type_name("FIELD");
    app.add_option("--road-word", words, "what a class or one-way word of the file means, such as \"B Road=secondary\"")
        .reads_as("WORD=MEANING", parse_meaning);
    app.add_option("--join", join,
                   "where roads join: where road ends touch, wherever two roads pass through the same point, or also "
                   "where they cross on the same level")
        .one_of({"ends", "vertices", "crossings"})
        .shows_default();
    app.add_option("--heights", heights, "GeoTIFF elevation model, for travellers to whom climbing costs time")
        .type_name("FILE");
    app.add_option("--close-gaps", close_gaps, "close every gap narrower than this, such as 5m")
        .reads_as("LENGTH", parse_length);
}

files::RoadChoice RoadOptions::choice() const {
    if (layers.size() > paths.size())
        throw Misuse("--roads-layer", fmt::format("{} layers are named for {} --roads", layers.size(), paths.size()));
    std::vector<files::LayerChoice> all;
    for (std::size_t i = 0; i < paths.size(); ++i)
        all.push_back({paths[i], i < layers.size() ? layers[i] : std::string(), crs, "", "", filter});
    files::RoadChoice c{all.front(), fields(all.front()), {all.begin() + 1, all.end()}};
    return c;
}
std::optional<files::RoadFields> RoadOptions::fields(const files::LayerChoice& first) const {
    if (named == files::RoadFields{} && words.empty() && !level) return std::nullopt;
    if (files::is_osm(first.path)) {
        auto refused = named;  // what it names is refused where the file is read
        refused.level = level.value_or("");
        for (const auto& w : words) refused.words[w] = "";
        return refused;
    }
    auto fields = files::guess_road_fields(files::Source(first, files::Shape::line).fields());
    const auto put = [](std::string& field, const std::string& given) {
        if (!given.empty()) field = given;
    };
    put(fields.road_class, named.road_class);
    put(fields.name, named.name);
    put(fields.speed, named.speed);
    put(fields.one_way, named.one_way);
    put(fields.minutes, named.minutes);
    put(fields.minutes_back, named.minutes_back);
    put(fields.length, named.length);
    if (level) fields.level = *level;
    put(fields.bridge, named.bridge);
    put(fields.tunnel, named.tunnel);
    for (const auto& w : words) {
        auto [word, meaning] = parsed("--road-word", w, parse_meaning);
        fields.words[word] = std::move(meaning);
    }
    return fields;
}

constexpr std::size_t kMostFlawsShown = 20;

void tell_reading(Console& console, const service::Origin& origin) {
    if (console.is_quiet())
        for (const auto& taken : origin.taken) console.warn(fmt::format("{}: {}", origin.file, taken));
    console.note(fmt::format("{}: {}", origin.file, origin.description));
    tell_flaws(console, origin.flaws);
}

void tell_flaws(Console& console, const std::vector<Flaw>& flaws) {
    for (std::size_t i = 0; i < std::min(flaws.size(), kMostFlawsShown); ++i) {
        const auto& f = flaws[i];
        console.note(fmt::format("{}: record {}{}: {}{}", f.file, f.record + 1,
                                 f.id.empty() ? "" : fmt::format(" ({})", f.id), f.wrong,
                                 f.set_aside ? "; skipped" : ""));
        if (f.more > 0) console.note(fmt::format("{}: ... and {} later records of the same kind", f.file, f.more));
    }
    if (flaws.size() > kMostFlawsShown)
        console.note(fmt::format("... and {} more like these; 'otoro-batch check --json' lists them all",
                                 flaws.size() - kMostFlawsShown));
}

service::RoadsIn read_roads(const RoadOptions& options, const std::optional<travel::Profile>& profile,
                            const Task& task) {
    auto in = files::add_roads(options.choice(), options.preparation(), task);
    if (!options.heights.empty())
        in = roads_in(files::with_heights(*in.lines, options.heights, task), in.preparation, in.origin, task);
    if (options.close_gaps.empty()) return in;
    const Millimetres within = parsed("--close-gaps", options.close_gaps, parse_length);
    if (within > roads::kWidestGap)
        throw Misuse("--close-gaps",
                     fmt::format("gaps of more than {} are not closed unseen", describe(roads::kWidestGap)));
    const auto report = service::check_roads(*in.network, profile, task);
    auto preparation = in.preparation;
    for (const auto& g : roads::find_gaps(*in.network, report.as_pieces(), within, task))
        preparation.closed.push_back(g.closing);
    return roads_in(in.lines, std::move(preparation), in.origin, task);
}

std::shared_ptr<const places::SiteSet> read_points(const files::LayerChoice& layer, const std::string& id,
                                                   Console& console, const Task& task) {
    files::SiteChoice choice;
    choice.layer = layer;
    if (!id.empty()) choice.id = id;
    choice.state = choice.capacity = choice.zone = choice.cost = choice.limit = choice.least = choice.turnout =
        std::string();
    const auto in = files::add_sites(choice, "", task);
    tell_reading(console, in.origin);
    return in.set;
}

travel::Profile profile_of(const std::string& word) {
    if (const auto mode = travel::parse_mode(word)) return {*mode, std::nullopt};
    if (!std::filesystem::exists(word))
        throw Misuse("--travel",
                     fmt::format("'{}' is not drive, respond, walk or cycle, nor a file with a travel profile", word));
    return files::read_profile(word);
}
void AttachOptions::add_to(Options& app) {
    app.add_option("--attach-never", never,
                   "a class that places are never attached to, such as motorway, or its slip roads alone, "
                   "motorway_link; may be named again")
        .reads_as("CLASS", parse_class);
    app.add_option("--attach-piece", least_piece,
                   "attach only to pieces of the roads that are at least so long, such as 1km")
        .reads_as("LENGTH", parse_length);
    app.add_option("--demand-road", road_field,
                   "field with the name of the road that a demand place is on: taken if it is within the limit")
        .type_name("FIELD");
}
places::AttachRule AttachOptions::rule() const {
    places::AttachRule r;
    for (const auto& word : never) {
        const auto c = parsed("--attach-never", word, parse_class);
        // A word for slip roads means those alone; one for a class its slip roads too.
        (c.ramp ? r.ramps : r.classes) &= ~(1U << static_cast<unsigned>(c.road_class));
    }
    if (!least_piece.empty()) r.least_piece = parsed("--attach-piece", least_piece, parse_length);
    return r;
}

void FileOptions::add_to(Options& app, const std::string& what, const std::string& about, How how, bool points) {
    what_ = what;
    auto o = app.add_option("--" + what, paths,
                            about + (how == How::maybe_one ? "" : "; named again, a further set is added to the first"))
                 .type_name("FILE")
                 .one_each_time();
    if (how == How::one_or_more) o.required();
    if (how == How::maybe_one) o.at_most_once();
    // What says how a file is read needs the file.
    app.add_option("--" + what + "-layer", layers,
                   "layer of that file (the first that fits); one for each --" + what + ", in the same order")
        .type_name("NAME")
        .one_each_time()
        .needs(o);
    app.add_option("--" + what + "-crs", crs, "its coordinate system, by EPSG code (the file's own)")
        .reads_as("EPSG", files::parse_epsg)
        .needs(o);
    app.add_option("--" + what + "-filter", filter,
                   "only records of which this is true, such as \"class IN ('residential') AND speed >= 30\"")
        .reads_as("CQL2", files::Expression::parse)
        .needs(o);
    if (!points) return;
    app.add_option("--" + what + "-x", x, "column of longitude or x in a table (found by name)")
        .type_name("FIELD")
        .needs(o);
    app.add_option("--" + what + "-y", y, "column of latitude or y in a table (found by name)")
        .type_name("FIELD")
        .needs(o);
}

std::vector<files::LayerChoice> FileOptions::choices() const {
    if (layers.size() > paths.size())
        throw Misuse("--" + what_ + "-layer",
                     fmt::format("{} layers are named for {} --{}", layers.size(), paths.size(), what_));
    std::vector<files::LayerChoice> out;
    for (std::size_t i = 0; i < paths.size(); ++i)
        out.push_back({paths[i], i < layers.size() ? layers[i] : std::string(), crs, x, y, filter});
    return out;
}

std::size_t site_named(const char* option, const std::string& id, std::span<const NamedSite> sites) {
    std::vector<std::string> records;
    std::size_t found = sites.size();
    for (std::size_t i = 0; i < sites.size(); ++i) {
        if (sites[i].id != id) continue;
        if (records.empty()) found = i;
        records.push_back(sites[i].record ? fmt::format("record {} of the {}", *sites[i].record + 1, sites[i].set)
                                          : fmt::format("one of the {} that the plan adds", sites[i].set));
    }
    if (records.empty())
        refuse("", fmt::format("{} names '{}', which is the id of no site", option, id), "Name a site by its id");
    if (records.size() > 1)
        refuse("",
               fmt::format("{} names '{}', which is the id of {} sites: {}", option, id, records.size(),
                           fmt::join(records, ", ")),
               "Give each an id of its own");
    return found;
}

travel::Profile RoadOptions::heeding_heights(travel::Profile profile, Console& console) const {
    if (heights.empty() || profile.slope) return profile;
    if (profile.mode == travel::Mode::walk) {
        profile.slope = true;
        console.note(fmt::format("{}: climbing costs time (Tobler 1993)", heights));
    } else {
        console.warn(
            fmt::format("{}: heights change nothing for {}; climbing costs walkers time", heights, label(profile)));
    }
    return profile;
}

void PlanOptions::add_to(Options& app) {
    app.add_option("--open", open, "id of a site that opens; may be named again").type_name("ID").one_each_time();
    app.add_option("--close", close, "id of a site that closes; may be named again").type_name("ID").one_each_time();
    app.add_option("--closures", closures,
                   "roads closed, slowed or delayed: points, lines and areas with fields effect, factor, delay_min")
        .type_name("FILE");
}

namespace {

/// The change of the site with this id, named for good.
service::SiteChange change_by_id(const places::Sites& sites, const std::string& id, service::Change change) {
    std::vector<NamedSite> all;
    for (const auto& s : sites.sets())
        for (std::size_t i = 0; i < s->sites.size(); ++i) all.push_back({s->sites[i].id, s->name, i});
    return {change, id, std::nullopt,
            std::string(all[site_named(change == service::Change::open ? "--open" : "--close", id, all)].set)};
}

void tell_closures(const std::vector<roads::Closure>& closures, const std::string& file, const roads::Network& network,
                   Console& console) {
    for (const auto& c : closures) {
        if (!touches_a_road(network, c))
            console.note(fmt::format("{}: '{}' touches no road and closes nothing", file, c.name));
        else if (c.shape == roads::ClosureShape::point)
            if (const auto taken = service::describe_point(network, c); !taken.empty())
                console.note(fmt::format("{}: '{}' was taken for this: {}", file, c.name, taken));
    }
}

}  // namespace

void PlanOptions::add_changes(service::Plan& plan, const roads::Network& network, const places::Sites& sites,
                              Console& console, const Task& task) const {
    for (const auto& id : open) plan.changes.push_back(change_by_id(sites, id, service::Change::open));
    for (const auto& id : close) plan.changes.push_back(change_by_id(sites, id, service::Change::close));
    if (closures.empty()) return;
    const auto read = files::read_closures(closures, task);
    tell_closures(read, closures, network, console);
    plan.closures.insert(plan.closures.end(), read.begin(), read.end());
}

void QuestionOptions::add_to(Options& app, unsigned uses, bool required) {
    auto travels = app.add_option("--travel", travel, std::string("how they travel: ") + kTravel).type_name("PROFILE");
    app.add_option("--speed", speed, "one speed for all roads, such as 40km/h").reads_as("SPEED", parse_speed);
    serving.add_to(app, (uses & kEveryRule) != 0, required);
    auto way = app.add_option("--towards", towards, "which way they travel").one_of({"demand", "site"});
    if (required) {
        travels.required();
        way.required();
    }
    if ((uses & kLimit) != 0)
        app.add_option("--limit", limit, "farther places are not served: 8min, 2km").reads_as("AMOUNT", parse_amount);
    if ((uses & (kLimit | kEveryRule | kOwnLimits)) != 0)
        app.add_option(
               "--limit-field", serving.limit_field,
               "field of the sites with the limit of each, in minutes or as an amount such as 800m: no site serves "
               "farther")
            .type_name("FIELD");
    if ((uses & kStandard) != 0)
        app.add_option(
               "--standard", standard,
               "share and limit to be met, such as \"90% within 8min\"; further steps after commas, such as \"all "
               "within 20min\", with 'by 2' for a second site and 'for NAME' for a zone or group")
            .reads_as("STANDARD", [](const std::string& text) { return service::parse_standard(text); });
    app.add_option("--attach-limit", attach_limit, "farthest road that a place is joined to")
        .shows_default()
        .reads_as("LENGTH", parse_length);
    app.add_option("--off-road-speed", off_road_speed,
                   "count off-road legs too, at this speed, such as 4.8km/h (they are reported and not counted)")
        .reads_as("SPEED", parse_speed);
    app.add_option("--turnout", turnout,
                   "time for taking the call and turning out, part of every time, such as 90s, where a site has none "
                   "of its own")
        .reads_as("TIME", parse_time);
    app.add_option("--use", use, "which sites may serve").one_of({"open", "open+candidate"}).shows_default();
}

service::Question QuestionOptions::question() const {
    service::Question q;
    q.use = use == "open" ? service::SiteUse::open : service::SiteUse::open_and_candidate;
    q.profile = profile_of(travel);
    if (!off_road_speed.empty()) q.off_road_speed = parsed("--off-road-speed", off_road_speed, parse_speed);
    if (!turnout.empty()) q.turnout = parsed("--turnout", turnout, parse_time);
    if (!speed.empty()) q.profile.one_speed = parsed("--speed", speed, parse_speed);
    q.towards = towards == "demand" ? service::Towards::demand : service::Towards::site;
    q.serving = serving.serving();
    if (!limit.empty()) q.limit = parsed("--limit", limit, parse_amount);
    q.own_limits = !serving.limit_field.empty();
    q.standard.reset();
    if (!standard.empty())
        q.standard =
            parsed("--standard", standard, [](const std::string& text) { return service::parse_standard(text); });
    q.attach_limit = parsed("--attach-limit", attach_limit, parse_length);
    return q;
}

void PlaceOptions::add_to(Options& app, unsigned uses, bool required) {
    const auto how = required ? FileOptions::How::one_or_more : FileOptions::How::any;
    demand.add_to(app, "demand", "points to be served", how, true);
    sites.add_to(app, "sites", "points that serve", how, true);
    zones.add_to(app, "zones", "areas by which answers are summed up", FileOptions::How::maybe_one, false);
    attaching.add_to(app);
    app.add_option("--demand-id", demand_id, "field of the demand's id ('id')").type_name("FIELD");
    app.add_option("--site-id", site_id, "field of the sites' id ('id')").type_name("FIELD");
    app.add_option("--turnout-field", site_turnout,
                   "field of the sites that says how long turning out takes there: 90s, 2min; bare numbers are minutes")
        .type_name("FIELD");
    app.add_option("--group", group, "field by which answers are summed up, such as an age (found by name)")
        .type_name("FIELD");
    if ((uses & QuestionOptions::kWeight) != 0)
        app.add_option("--weight", weight, "field that says how much each place counts (found by name)")
            .type_name("FIELD");
}

std::vector<std::string> PlaceOptions::inputs() const {
    std::vector<std::string> all;
    for (const auto* files : {&demand, &sites, &zones}) all.insert(all.end(), files->paths.begin(), files->paths.end());
    return all;
}

service::Study PlaceOptions::read_into(service::Study study, service::Question& question, const ServingOptions& serving,
                                       Console& console, const Task& task) const {
    const auto rule = attaching.rule();
    if (demand.given()) question.demand.clear();
    for (const auto& layer : demand.choices()) {
        auto in = files::add_demand({layer, if_given(demand_id), if_given(weight), if_given(attaching.road_field),
                                     if_given(group), if_given(serving.recorded), if_given(serving.priority)},
                                    "", task);
        in.set = with_rule(*in.set, rule);
        in = renamed(std::move(in), set_names(study, service::SetKind::demand));
        tell_reading(console, in.origin);
        question.demand.push_back(in.set->name);
        study = with_demand(std::move(study), std::move(in));
    }
    if (sites.given()) question.sites.clear();
    for (const auto& layer : sites.choices()) {
        auto in = files::add_sites({layer,
                                    if_given(site_id),
                                    {},
                                    {},
                                    if_given(serving.capacity.empty() ? site_capacity : serving.capacity),
                                    if_given(site_zone),
                                    if_given(site_cost),
                                    if_given(serving.limit_field.empty() ? site_limit : serving.limit_field),
                                    if_given(serving.least),
                                    if_given(site_turnout)},
                                   "", task);
        in.set = with_rule(*in.set, rule);
        in = renamed(std::move(in), set_names(study, service::SetKind::sites));
        tell_reading(console, in.origin);
        question.sites.push_back(in.set->name);
        study = with_sites(std::move(study), std::move(in));
    }
    auto areas = zones.choices();
    if (!serving.together.empty()) {
        if (!areas.empty()) throw Misuse("--together", "answers are summed up by the same areas: leave --zones out");
        areas.push_back({serving.together, "", ""});
    }
    for (const auto& layer : areas) {
        auto in = renamed(files::add_zones({layer}, "", task), set_names(study, service::SetKind::zones));
        tell_reading(console, in.origin);
        question.zones = in.set->name;
        study = with_zones(std::move(study), std::move(in));
    }
    if (!serving.pairs.empty()) {
        study.pairs = files::add_pairs(
            {{serving.pairs, "", ""}, if_given(serving.pair_demand), if_given(serving.pair_site), if_given(serving.by)},
            task);
        tell_reading(console, study.pairs->origin);
    }
    return study;
}

void Asking::add_to(Options& app, unsigned uses, bool required) {
    roads.add_to(app);
    places.add_to(app, uses, required);
    asked.add_to(app, uses, required);
    changes.add_to(app);
    app.add_flag("--quiet", quiet, "no progress, and no remarks but on how numbers were read");
}

std::vector<std::string> Asking::inputs() const {
    std::vector<std::string> all = roads.paths;
    for (const auto& path : places.inputs()) all.push_back(path);
    for (const auto& path :
         {roads.heights, changes.closures, asked.travel, asked.serving.together, asked.serving.pairs})
        all.push_back(path);
    return all;
}

service::Study Asking::read(Console& console, const Task& task, service::Plan& plan) const {
    auto question = asked.question();
    question.profile = roads.heeding_heights(std::move(question.profile), console);
    service::Study study;
    study = with_roads(std::move(study), read_roads(roads, question.profile, task));
    tell_reading(console, study.roads->origin);
    study = places.read_into(std::move(study), question, asked.serving, console, task);
    question.name = question.demand.front();
    asked.serving.check(study, question);
    study.question() = std::move(question);
    changes.add_changes(plan, *study.roads->network, study.sites_of(study.question()), console, task);
    if (changes.given()) plan.name += ", changed";
    return study;
}

Asking::Ready Asking::ready_to_ask(Console& console, const Task& task) const {
    service::Plan plan;
    const auto study = read(console, task, plan);
    return {prepare(*study.inputs(), study.question(), nullptr, task), plan};
}

void check_output(const std::string& option, const std::string& path, const std::vector<std::string>& endings,
                  const std::vector<std::string>& taken) {
    if (path.empty()) return;
    for (const auto& file : taken)
        for (const auto& other : files::files_read_with(file))
            if (files::same_file(path, other))
                throw InputError({path, std::nullopt,
                                  fmt::format("{} names a file that is read or written already", option),
                                  "Choose another name"});
    std::string ending = std::filesystem::path(path).extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    if (!files::is_device_or_pipe(path) && !endings.empty() &&
        std::find(endings.begin(), endings.end(), ending) == endings.end())
        throw InputError({path, std::nullopt,
                          fmt::format("the ending of {} does not say which format to write", option),
                          fmt::format("Use {}", fmt::join(endings, " or "))});
    files::check_can_write(path);
}

void check_table(const service::Study& study, const std::string& path, const std::vector<std::string>& taken) {
    for (const auto& file : taken)
        if (!file.empty() && files::same_file(path, file))
            throw InputError({file, std::nullopt, fmt::format("'{}' would be written over it", path),
                              "Choose another folder with --out"});
    if (const auto what = files::read_from(study, path))
        throw InputError({path, std::nullopt,
                          fmt::format("{} of the study were read from it, and a table would be written over it", *what),
                          "Choose another folder with --out"});
    files::check_can_write(path);
}

}  // namespace otoro::batch
