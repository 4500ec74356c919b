#include "files/study_json.h"

#include <array>
#include <nlohmann/json.hpp>

#include "geo/error.h"

namespace otoro::files {
namespace {
using nlohmann::json;
using service::Change;

constexpr std::array<const char*, 4> kChanges{"open", "close", "move", "add"};

[[noreturn]] void refuse(const std::string& wrong) { throw InputError({"", std::nullopt, wrong, "The study was damaged or made by a later version"}); }

/// The place of `word` in `words`, or an error.
template <std::size_t N>
std::size_t choice(const std::array<const char*, N>& words, const std::string& word, const char* what) {
    for (std::size_t i = 0; i < N; ++i)
        if (word == words[i]) return i;
    refuse(std::string("its ") + what + " '" + word.substr(0, 40) + "' is not known");
}

json to_json(const Amount& a) {
    if (const auto* t = std::get_if<Millis>(&a)) return {{"ms", t->count()}};
    return {{"mm", std::get<Millimetres>(a).count()}};
}

Amount amount_from(const json& j) {
    const auto count = j.contains("ms") ? j.at("ms").get<std::int64_t>() : j.at("mm").get<std::int64_t>();
    if (count < 0 || count > 4'000'000'000) refuse("a limit in it is out of range");
    if (j.contains("ms")) return Millis(count);
    return Millimetres(count);
}

/// Runs `read`, turning the JSON library's complaints into ours.
template <class Read>
auto guarded(const char* what, Read&& read) {
    try {
        return read();
    } catch (const json::exception& e) {
        refuse(std::string("its ") + what + " cannot be understood (" + e.what() + ")");
    }
}

constexpr std::array<const char*, 2> kUses{"open", "open+candidate"};
constexpr std::array<const char*, 4> kModes{"drive", "respond", "walk", "cycle"};
constexpr std::array<const char*, 2> kTowards{"demand", "site"};
constexpr std::array<const char*, 2> kMeasures{"time", "distance"};

}  // namespace

json to_json(const service::Question& q) {
    json j{{"demand", q.demand},
           {"sites", q.sites},
           {"by_weight", q.by_weight},
           {"use", kUses[static_cast<std::size_t>(q.use)]},
           {"travel", kModes[static_cast<std::size_t>(q.profile.mode)]},
           {"towards", kTowards[static_cast<std::size_t>(q.towards)]},
           {"measure", kMeasures[static_cast<std::size_t>(q.measure)]},
           {"attach_limit_mm", q.attach_limit.count()}};
    if (q.profile.one_speed) j["speed_mm_per_hour"] = q.profile.one_speed->mm_per_hour();
    if (q.limit) j["limit"] = to_json(*q.limit);
    if (q.standard) j["standard"] = {{"share_ppm", q.standard->share.ppm()}, {"limit", to_json(q.standard->limit)}};
    return j;
}

service::Question question_from(const json& j) {
    return guarded("question", [&] {
        service::Question q;
        q.demand = j.at("demand").get<std::string>();
        q.sites = j.at("sites").get<std::string>();
        q.by_weight = j.at("by_weight").get<bool>();
        q.use = static_cast<service::SiteUse>(choice(kUses, j.at("use").get<std::string>(), "site use"));
        q.profile.mode = static_cast<travel::Mode>(choice(kModes, j.at("travel").get<std::string>(), "way of travelling"));
        q.towards = static_cast<service::Towards>(choice(kTowards, j.at("towards").get<std::string>(), "direction"));
        q.measure = static_cast<routing::Measure>(choice(kMeasures, j.at("measure").get<std::string>(), "measure"));
        q.attach_limit = Millimetres(j.at("attach_limit_mm").get<std::int64_t>());
        if (q.attach_limit.count() < 0 || q.attach_limit > Millimetres::metres(100'000)) refuse("its attach limit is out of range");
        if (j.contains("speed_mm_per_hour")) {
            const Speed speed(j.at("speed_mm_per_hour").get<std::uint32_t>());
            if (speed < Speed::km_per_hour(kSlowestKmh) || speed > Speed::km_per_hour(kFastestKmh)) refuse("its speed is out of range");
            q.profile.one_speed = speed;
        }
        if (j.contains("limit")) q.limit = amount_from(j.at("limit"));
        q.standard.reset();
        if (j.contains("standard")) {
            const auto ppm = j.at("standard").at("share_ppm").get<std::int32_t>();
            if (ppm <= 0 || ppm > 1'000'000) refuse("its standard's share is out of range");
            q.standard = service::Standard{Share(ppm), amount_from(j.at("standard").at("limit"))};
        }
        return q;
    });
}

json to_json(const service::Plan& plan) {
    json changes = json::array();
    for (const auto& c : plan.changes) {
        json j{{"change", kChanges[static_cast<std::size_t>(c.change)]}, {"site", c.site}};
        if (c.position) j["position"] = {c.position->lon, c.position->lat};
        changes.push_back(std::move(j));
    }
    return {{"name", plan.name}, {"changes", changes}};
}

service::Plan plan_from(const json& j) {
    return guarded("plan", [&] {
        service::Plan plan;
        plan.name = j.at("name").get<std::string>();
        for (const auto& c : j.at("changes")) {
            service::SiteChange change;
            change.change = static_cast<Change>(choice(kChanges, c.at("change").get<std::string>(), "change"));
            change.site = c.at("site").get<std::string>();
            if (c.contains("position")) {
                const geo::LonLat p{c.at("position").at(0).get<double>(), c.at("position").at(1).get<double>()};
                if (!geo::on_the_globe(p)) refuse("a site of its plan is not on the globe");
                change.position = p;
            } else if (change.change == Change::move || change.change == Change::add) {
                refuse("a moved site of its plan has no position");
            }
            plan.changes.push_back(std::move(change));
        }
        return plan;
    });
}

json to_json(const service::Origin& o) {
    json flaws = json::array();
    for (const auto& f : o.flaws) flaws.push_back({{"file", f.file}, {"record", f.record}, {"id", f.id}, {"wrong", f.wrong}, {"set_aside", f.set_aside}});
    return {{"file", o.file}, {"layer", o.layer}, {"description", o.description}, {"flaws", flaws}};
}

service::Origin origin_from(const json& j) {
    return guarded("list of sources", [&] {
        service::Origin o{j.at("file").get<std::string>(), j.at("layer").get<std::string>(), j.at("description").get<std::string>(), {}};
        for (const auto& f : j.at("flaws"))
            o.flaws.push_back({f.at("file").get<std::string>(), f.at("record").get<std::int64_t>(), f.at("id").get<std::string>(), f.at("wrong").get<std::string>(),
                               f.at("set_aside").get<bool>()});
        return o;
    });
}

}  // namespace otoro::files
