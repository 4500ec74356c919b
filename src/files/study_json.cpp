#include "files/study_json.h"

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

#include "files/serving_json.h"
#include "geo/error.h"

namespace otoro::files {
namespace {
using nlohmann::json;
using service::Change;

constexpr std::array<const char*, 4> kChanges{"open", "close", "move", "add"};

[[noreturn]] void not_readable(const std::string& wrong) {
    throw InputError({"", std::nullopt, wrong, "The study was damaged or made by a later version"});
}

/// The place of `word` in `words`, or an error.
template <std::size_t N>
std::size_t choice(const std::array<const char*, N>& words, const std::string& word, const char* what) {
    for (std::size_t i = 0; i < N; ++i)
        if (word == words[i]) return i;
    not_readable(std::string("its ") + what + " '" + word.substr(0, 40) + "' is not known");
}

json to_json(const Amount& a) {
    if (const auto* t = std::get_if<Millis>(&a)) return {{"ms", t->count()}};
    return {{"mm", std::get<Millimetres>(a).count()}};
}

Amount amount_from(const json& j) {
    const auto count =
        j.contains("ms") ? whole_number<std::int64_t>(j.at("ms")) : whole_number<std::int64_t>(j.at("mm"));
    if (count < 0 || count > 4'000'000'000) not_readable("a limit in it is out of range");
    if (j.contains("ms")) return Millis(count);
    return Millimetres(count);
}

Speed speed_from(const json& j) {
    const Speed speed(whole_number<std::uint32_t>(j));
    if (speed < Speed::km_per_hour(kSlowestKmh) || speed > Speed::km_per_hour(kFastestKmh))
        not_readable("a speed in it is out of range");
    return speed;
}

Millis time_from(const json& j) {
    const Millis t(whole_number<std::int64_t>(j));
    if (t < Millis(0) || t > Millis::minutes(60'000)) not_readable("a time in it is out of range");
    return t;
}

geo::LonLat position_from(const json& j) {
    const geo::LonLat p{j.at(0).get<double>(), j.at(1).get<double>()};
    if (!geo::on_the_globe_counted_on(p)) not_readable("a place in it is not on the globe");
    return p;
}

json position(geo::LonLat p) { return {p.lon, p.lat}; }

/// Runs `read`, turning the JSON library's complaints into ours.
template <class Read>
auto guarded(const char* what, Read&& read) {
    try {
        return read();
    } catch (const json::exception& e) {
        not_readable(std::string("its ") + what + " cannot be understood (" + e.what() + ")");
    }
}

constexpr std::array<const char*, 3> kClosureShapes{"point", "line", "area"};
constexpr std::array<const char*, 3> kClosureEffects{"closed", "slowed", "delay"};
constexpr std::array<const char*, 3> kTurningBack{"anywhere", "dead_ends", "never"};
constexpr std::array<const char*, 2> kUses{"open", "open+candidate"};
constexpr std::array<const char*, 4> kModes{"drive", "respond", "walk", "cycle"};
constexpr std::array<const char*, 2> kTowards{"demand", "site"};

}  // namespace

std::int64_t whole_number(const json& j, std::int64_t least, std::int64_t most) {
    const bool fits = j.is_number_unsigned() ? j.get<std::uint64_t>() <= static_cast<std::uint64_t>(INT64_MAX)
                                             : j.is_number_integer();
    if (!fits) not_readable("a number in it is not a whole one");
    const auto v = j.get<std::int64_t>();
    if (v < least || v > most) not_readable("a number in it is out of range");
    return v;
}

namespace {

/// Names of sets: a list, or, in version 1, one text, which was empty for none.
std::vector<std::string> names_from(const json& j) {
    if (!j.is_string()) {
        auto names = j.get<std::vector<std::string>>();
        auto sorted = names;
        std::sort(sorted.begin(), sorted.end());
        if (std::adjacent_find(sorted.begin(), sorted.end()) != sorted.end())
            not_readable("its question names one set twice");
        return names;
    }
    const auto name = j.get<std::string>();
    return name.empty() ? std::vector<std::string>() : std::vector{name};
}

}  // namespace

namespace {

/// The switches of a view of reach by their names in the file.
constexpr std::array kReachSwitches{
    std::pair{"full", &service::ReachView::full},           std::pair{"own_limits", &service::ReachView::own_limits},
    std::pair{"off_water", &service::ReachView::off_water}, std::pair{"in_zones", &service::ReachView::in_zones},
    std::pair{"roads", &service::ReachView::roads},         std::pair{"lines", &service::ReachView::lines},
    std::pair{"circles", &service::ReachView::circles}};

json to_json(const service::ReachView& view) {
    json j{{"overlap", name(view.overlap)},
           {"cover", name(view.cover)},
           {"circle_mm_per_hour", view.circle_speed.mm_per_hour()}};
    for (const auto& limit : view.limits) j["limits"].push_back(to_json(limit));
    for (const auto& [key, member] : kReachSwitches)
        if (view.*member) j[key] = true;
    return j;
}

json to_json(const service::Standard& standard) {
    json j{{"share_ppm", standard.share.ppm()}, {"limit", to_json(standard.limit)}};
    for (const auto& step : standard.further) {
        json row{{"share_ppm", step.share.ppm()}, {"limit", to_json(step.limit)}};
        if (step.scope.needed != 1) row["needed"] = step.scope.needed;
        if (!step.scope.part.empty()) row["part"] = step.scope.part;
        j["further"].push_back(std::move(row));
    }
    return j;
}

Share share_from(const json& j) {
    const auto ppm = whole_number<std::int32_t>(j);
    if (ppm <= 0 || ppm > 1'000'000) not_readable("its standard's share is out of range");
    return Share(ppm);
}

service::Standard standard_from(const json& j) {
    service::Standard standard{share_from(j.at("share_ppm")), amount_from(j.at("limit")), {}};
    for (const auto& row : j.value("further", json::array())) {
        service::Step step{share_from(row.at("share_ppm")), amount_from(row.at("limit")), {}};
        if (row.contains("needed"))
            step.scope.needed =
                static_cast<std::uint32_t>(whole_number(row.at("needed"), 1, std::int64_t{service::kMostNearest}));
        step.scope.part = row.value("part", std::string());
        standard.further.push_back(std::move(step));
    }
    if (standard.further.size() > service::kMostFurtherSteps) not_readable("its standard has too many steps");
    return standard;
}

service::ReachView reach_view_from(const json& j) {
    service::ReachView view;
    if (j.contains("limits"))
        for (const auto& limit : j.at("limits")) view.limits.push_back(amount_from(limit));
    if (view.limits.size() > service::kMostLimits) not_readable("its limits of reach are too many");
    for (std::size_t i = 1; i < view.limits.size(); ++i)
        if (view.limits[i].index() != view.limits[0].index() || !(view.limits[i - 1] < view.limits[i]))
            not_readable("its limits of reach do not rise");
    const auto overlap = service::parse_overlap(j.at("overlap").get<std::string>());
    const auto cover = service::parse_cover_list(j.at("cover").get<std::string>());
    if (!overlap || !cover) not_readable("its view of reach is not known");
    view.overlap = *overlap;
    view.cover = *cover;
    view.circle_speed = speed_from(j.at("circle_mm_per_hour"));
    for (const auto& [key, member] : kReachSwitches) view.*member = j.value(key, false);
    return view;
}

}  // namespace

json to_json(const service::Question& q) {
    json j{{"name", q.name},
           {"demand", q.demand},
           {"sites", q.sites},
           {"by_weight", q.by_weight},
           {"use", kUses[static_cast<std::size_t>(q.use)]},
           {"profile", to_json(q.profile)},
           {"towards", kTowards[static_cast<std::size_t>(q.towards)]},
           {"serving", to_json(q.serving)},
           {"attach_limit_mm", q.attach_limit.count()}};
    if (q.off_road_speed) j["off_road_mm_per_hour"] = q.off_road_speed->mm_per_hour();
    if (q.turnout.count() != 0) j["turnout_ms"] = q.turnout.count();
    if (!q.zones.empty()) j["zones"] = q.zones;
    if (q.limit) j["limit"] = to_json(*q.limit);
    if (q.own_limits) j["own_limits"] = true;
    if (!(q.reach == service::ReachView{})) j["reach"] = to_json(q.reach);
    if (q.standard) j["standard"] = to_json(*q.standard);
    return j;
}

service::Question question_from(const json& j) {
    return guarded("question", [&] {
        service::Question q;
        q.demand = names_from(j.at("demand"));
        q.sites = names_from(j.at("sites"));
        // Since version 2; before it a study had one question, and nearest was the only rule.
        q.name = j.value("name", q.demand.empty() ? q.name : q.demand.front());
        q.zones = j.value("zones", std::string());
        q.serving = j.contains("serving") ? serving_from(j.at("serving"))
                                          : service::Nearest{measure_from(j.at("measure").get<std::string>())};
        q.by_weight = j.at("by_weight").get<bool>();
        q.use = static_cast<service::SiteUse>(choice(kUses, j.at("use").get<std::string>(), "site use"));
        q.profile = profile_from(j.at("profile"));
        q.towards = static_cast<service::Towards>(choice(kTowards, j.at("towards").get<std::string>(), "direction"));
        q.attach_limit = Millimetres(whole_number<std::int64_t>(j.at("attach_limit_mm")));
        if (q.attach_limit.count() < 0 || q.attach_limit > Millimetres::metres(100'000))
            not_readable("its attach limit is out of range");
        if (j.contains("off_road_mm_per_hour")) q.off_road_speed = speed_from(j.at("off_road_mm_per_hour"));
        if (j.contains("turnout_ms")) q.turnout = time_from(j.at("turnout_ms"));
        if (j.contains("limit")) q.limit = amount_from(j.at("limit"));
        if (j.contains("own_limits")) q.own_limits = j.at("own_limits").get<bool>();
        q.standard.reset();
        if (j.contains("standard")) q.standard = standard_from(j.at("standard"));
        if (j.contains("reach")) q.reach = reach_view_from(j.at("reach"));
        return q;
    });
}

json to_json(const service::Plan& plan) {
    json changes = json::array();
    for (const auto& c : plan.changes) {
        json j{{"change", kChanges[static_cast<std::size_t>(c.change)]}, {"site", c.site}};
        if (c.position) j["position"] = {c.position->lon, c.position->lat};
        if (!c.set.empty()) j["set"] = c.set;
        if (c.nth != 1) j["nth"] = c.nth;
        if (c.added) j["added"] = true;
        changes.push_back(std::move(j));
    }
    json closures = json::array();
    for (const auto& c : plan.closures) {
        json vertices = json::array();
        for (const auto& p : c.vertices) vertices.push_back(position(p));
        json rings = json::array();
        for (const auto& ring : c.more_rings) {
            json points = json::array();
            for (const auto& p : ring) points.push_back(position(p));
            rings.push_back(std::move(points));
        }
        closures.push_back({{"name", c.name},
                            {"shape", name(c.shape)},
                            {"vertices", vertices},
                            {"more_rings", rings},
                            {"effect", name(c.effect)},
                            {"factor_per_mille", c.factor_per_mille},
                            {"delay_ms", c.delay.count()}});
    }
    json out{{"name", plan.name}, {"changes", changes}, {"closures", closures}};
    if (!plan.note.empty()) out["note"] = plan.note;
    return out;
}

namespace {

roads::Closure closure_from(const json& j) {
    roads::Closure c;
    c.name = j.at("name").get<std::string>();
    c.shape =
        static_cast<roads::ClosureShape>(choice(kClosureShapes, j.at("shape").get<std::string>(), "closure's shape"));
    for (const auto& p : j.at("vertices")) c.vertices.push_back(position_from(p));
    if (c.vertices.size() < static_cast<std::size_t>(c.shape) + 1) not_readable("a closure in it has too few points");
    for (const auto& points : j.value("more_rings", json::array())) {  // since the version that knows them
        auto& ring = c.more_rings.emplace_back();
        for (const auto& p : points) ring.push_back(position_from(p));
        if (c.shape != roads::ClosureShape::area || ring.size() < 3)
            not_readable("a ring of a closure in it has too few points");
    }
    const auto effect = j.at("effect").get<std::string>();  // version 1 said `shut`
    c.effect = static_cast<roads::ClosureEffect>(
        choice(kClosureEffects, effect == "shut" ? "closed" : effect, "closure's effect"));
    c.factor_per_mille = whole_number<std::uint32_t>(j.at("factor_per_mille"));
    if (c.factor_per_mille < 1000 || c.factor_per_mille > 1'000'000) not_readable("a closure's factor is out of range");
    c.delay = time_from(j.at("delay_ms"));
    return c;
}

}  // namespace

service::Plan plan_from(const json& j) {
    return guarded("plan", [&] {
        service::Plan plan;
        plan.name = j.at("name").get<std::string>();
        for (const auto& c : j.at("changes")) {
            service::SiteChange change;
            change.change = static_cast<Change>(choice(kChanges, c.at("change").get<std::string>(), "change"));
            change.site = c.at("site").get<std::string>();
            change.set = c.value("set", std::string());
            if (c.contains("nth")) change.nth = whole_number<std::uint32_t>(c.at("nth"));
            change.added = c.value("added", false);
            if (c.contains("position")) {
                const geo::LonLat p{c.at("position").at(0).get<double>(), c.at("position").at(1).get<double>()};
                if (!geo::on_the_globe(p)) not_readable("a site of its plan is not on the globe");
                change.position = p;
            } else if (change.change == Change::move || change.change == Change::add) {
                not_readable("a moved site of its plan has no position");
            }
            plan.changes.push_back(std::move(change));
        }
        for (const auto& c : j.at("closures")) plan.closures.push_back(closure_from(c));
        plan.note = j.value("note", std::string());
        return plan;
    });
}

json to_json(const service::Origin& o) {
    json flaws = json::array();
    for (const auto& f : o.flaws) {
        json j{{"file", f.file},   {"record", f.record},       {"id", f.id},
               {"wrong", f.wrong}, {"set_aside", f.set_aside}, {"kind", static_cast<int>(f.kind)}};
        if (f.place) j["place"] = *f.place;
        if (f.more > 0) j["more"] = f.more;
        flaws.push_back(std::move(j));
    }
    json sample = json::array();
    for (const auto& p : o.raw_sample) sample.push_back(position(p));
    return {{"file", o.file},     {"layer", o.layer},     {"description", o.description},
            {"flaws", flaws},     {"path", o.path},       {"crs", o.crs},
            {"filter", o.filter}, {"raw_sample", sample}, {"fields", o.fields}};
}

service::Origin origin_from(const json& j) {
    return guarded("list of sources", [&] {
        service::Origin o{j.at("file").get<std::string>(),
                          j.at("layer").get<std::string>(),
                          j.at("description").get<std::string>(),
                          {},
                          j.at("path").get<std::string>(),
                          j.at("crs").get<std::string>(),
                          j.at("filter").get<std::string>(),
                          {},
                          {}};
        for (const auto& f : j.at("flaws")) {
            const int kind = whole_number<int>(f.at("kind"));
            if (kind < 0 || kind > static_cast<int>(FlawKind::doubtful_time))
                not_readable("a flaw in it is of no known kind");
            o.flaws.push_back(
                {f.at("file").get<std::string>(), whole_number<std::int64_t>(f.at("record")),
                 f.at("id").get<std::string>(), f.at("wrong").get<std::string>(), f.at("set_aside").get<bool>(),
                 static_cast<FlawKind>(kind),
                 f.contains("place") ? std::optional(whole_number<std::uint32_t>(f.at("place"))) : std::nullopt,
                 f.contains("more") ? std::max(std::int64_t{0}, whole_number<std::int64_t>(f.at("more")))
                                    : std::int64_t{0}});
        }
        for (const auto& p : j.at("raw_sample")) o.raw_sample.push_back({p.at(0).get<double>(), p.at(1).get<double>()});
        if (j.contains("fields"))
            o.fields = j.at("fields").get<std::map<std::string, std::string>>();  // since the version that keeps them
        return o;
    });
}

namespace {

/// Ascending numbers as pairs of the first and the last of those that follow one another.
json runs_of(const std::vector<std::uint32_t>& numbers) {
    json out = json::array();
    for (std::size_t i = 0; i < numbers.size();) {
        std::size_t last = i;
        while (last + 1 < numbers.size() && numbers[last + 1] == numbers[last] + 1) ++last;
        out.push_back({numbers[i], numbers[last]});
        i = last + 1;
    }
    return out;
}

/// \param count every number is below it
std::vector<std::uint32_t> numbers_in(const json& runs, std::uint32_t count) {
    std::vector<std::uint32_t> out;
    std::int64_t next = 0;
    for (const auto& run : runs) {
        const auto first = whole_number(run.at(0), next, std::int64_t{count} - 1);
        const auto last = whole_number(run.at(1), first, std::int64_t{count} - 1);
        next = last + 1;
        for (std::int64_t i = first; i <= last; ++i) out.push_back(static_cast<std::uint32_t>(i));
    }
    return out;
}

}  // namespace

json to_json(const roads::Preparation& p) {
    json closed = json::array();
    for (const auto& g : p.closed)
        closed.push_back(
            {{"from", position(g.from)}, {"to", position(g.to)}, {"from_line", g.from_line}, {"to_line", g.to_line}});
    json out{{"rule", name(p.rule)}, {"closed_gaps", closed}};
    if (!p.by_speed.empty()) out["by_speed"] = runs_of(p.by_speed);
    return out;
}

roads::Preparation preparation_from(const json& j, std::uint32_t lines) {
    return guarded("preparation", [&] {
        roads::Preparation p;
        const auto rule = roads::parse_join_rule(j.at("rule").get<std::string>());
        if (!rule) not_readable("its rule of joining is not known");
        p.rule = *rule;
        for (const auto& g : j.at("closed_gaps"))
            p.closed.push_back({position_from(g.at("from")), position_from(g.at("to")),
                                whole_number<std::uint32_t>(g.at("from_line")),
                                whole_number<std::uint32_t>(g.at("to_line"))});
        p.by_speed = numbers_in(j.value("by_speed", json::array()), lines);
        return p;
    });
}

json to_json(const places::Attaching& a) {
    json by_hand = json::array();
    for (const auto& [place, at] : a.by_hand) by_hand.push_back({place, at.lon, at.lat});
    json j{{"classes", a.rule.classes},
           {"ramps", a.rule.ramps},
           {"least_piece_mm", a.rule.least_piece.count()},
           {"by_hand", by_hand},
           {"road_names", a.road_names}};
    if (a.rule.limit) j["limit_mm"] = a.rule.limit->count();
    return j;
}

places::Attaching attaching_from(const json& j) {
    return guarded("way of attaching", [&] {
        places::Attaching a;
        const auto length = [&](const json& v) {
            const Millimetres l(whole_number<std::int64_t>(v));
            if (l.count() < 0 || l > Millimetres::metres(100'000'000)) not_readable("a length in it is out of range");
            return l;
        };
        a.rule.classes = whole_number<std::uint32_t>(j.at("classes"));
        if (j.contains("ramps"))
            a.rule.ramps = whole_number<std::uint32_t>(j.at("ramps"));  // since the version that knows them
        a.rule.least_piece = length(j.at("least_piece_mm"));
        if (j.contains("limit_mm")) a.rule.limit = std::min(length(j.at("limit_mm")), Millimetres::metres(100'000));
        for (const auto& h : j.at("by_hand"))
            a.by_hand[whole_number<std::uint32_t>(h.at(0))] = position_from({h.at(1), h.at(2)});
        a.road_names = j.at("road_names").get<std::vector<std::string>>();
        return a;
    });
}

json to_json(const travel::Profile& p) {
    json j{{"mode", kModes[static_cast<std::size_t>(p.mode)]},
           {"name", p.name},
           {"heeds_stated_speed", p.heeds_stated_speed},
           {"slope", p.slope}};
    if (p.one_speed) j["one_speed_mm_per_hour"] = p.one_speed->mm_per_hour();
    if (p.one_way) j["one_way"] = *p.one_way;
    if (p.table) {
        json classes = json::object();
        for (std::size_t i = 0; i < p.table->size(); ++i)
            classes[std::string(name(static_cast<roads::RoadClass>(i)))] = {
                {"allowed", (*p.table)[i].allowed}, {"speed_mm_per_hour", (*p.table)[i].speed.mm_per_hour()}};
        j["classes"] = classes;
    }
    if (p.turning)
        j["turning"] = {{"left_ms", p.turning->left.count()},     {"straight_ms", p.turning->straight.count()},
                        {"right_ms", p.turning->right.count()},   {"back_ms", p.turning->back.count()},
                        {"signal_ms", p.turning->signal.count()}, {"where_back", name(p.turning->where_back)},
                        {"obeys_bans", p.turning->obeys_bans}};
    return j;
}

travel::Profile profile_from(const json& j) {
    return guarded("travel profile", [&] {
        travel::Profile p;
        p.mode = static_cast<travel::Mode>(choice(kModes, j.at("mode").get<std::string>(), "way of travelling"));
        p.name = j.at("name").get<std::string>();
        p.heeds_stated_speed = j.at("heeds_stated_speed").get<bool>();
        p.slope = j.at("slope").get<bool>();
        if (j.contains("one_speed_mm_per_hour")) p.one_speed = speed_from(j.at("one_speed_mm_per_hour"));
        if (j.contains("one_way")) p.one_way = j.at("one_way").get<bool>();
        if (j.contains("classes")) {
            p.table = travel::standard_table(p.mode);
            for (const auto& [word, rule] : j.at("classes").items()) {
                const auto parsed = roads::parse_class(word);
                if (!parsed || parsed->ramp) not_readable("its road class '" + word.substr(0, 40) + "' is not known");
                (*p.table)[static_cast<std::size_t>(parsed->road_class)] = {rule.at("allowed").get<bool>(),
                                                                            speed_from(rule.at("speed_mm_per_hour"))};
            }
        }
        if (j.contains("turning")) {
            const json& t = j.at("turning");
            p.turning =
                travel::Turning{time_from(t.at("left_ms")),
                                time_from(t.at("straight_ms")),
                                time_from(t.at("right_ms")),
                                time_from(t.at("back_ms")),
                                time_from(t.at("signal_ms")),
                                static_cast<travel::TurningBack>(choice(
                                    kTurningBack, t.at("where_back").get<std::string>(), "rule of turning back")),
                                t.at("obeys_bans").get<bool>()};
        }
        return p;
    });
}

json to_json(const service::Route& route) {
    json stops = json::array();
    for (const auto& s : route.stops) stops.push_back({{"name", s.name}, {"at", position(s.at)}});
    return {{"stops", stops}, {"round", route.round}};
}

service::Route route_from(const json& j) {
    return guarded("route", [&] {
        service::Route route;
        for (const auto& s : j.at("stops"))
            route.stops.push_back({s.at("name").get<std::string>(), position_from(s.at("at"))});
        route.round = j.at("round").get<bool>();
        return route;
    });
}

}  // namespace otoro::files
