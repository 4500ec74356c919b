#include "files/read_places.h"

#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <unordered_map>

#include "files/read_values.h"
#include "geo/amounts.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

/// Calls `use(record, number, position, wrong)` for every record, having told progress.
template <class Use>
std::int64_t each_record(Source& source, const Task& task, const char* step, Use&& use) {
    std::int64_t number = 0;
    std::int64_t located = 0;
    std::string first_wrong;
    while (auto record = source.next()) {
        if (number % 4096 == 0)
            task.at(step, source.expected_records() > 0
                              ? static_cast<double>(source.record()) / static_cast<double>(source.expected_records())
                              : 0.0);
        std::string wrong;
        const auto position = source.point(*record, wrong);
        if (position)
            ++located;
        else if (first_wrong.empty())
            first_wrong = wrong;
        use(*record, source.record(), position, wrong);
        ++number;
    }
    source.check_units();
    if (number == 0) source.fail(std::nullopt, "it has no records", "Export it again with its records");
    if (located == 0)
        source.fail(0, fmt::format("none of its {} records can be located; the first: {}", number, first_wrong),
                    "Check its coordinates");
    return number;
}

/// An id as it stands, and a flaw where it is none.
class IdReader {
public:
    /// \param field -1: ids are the records' numbers
    IdReader(const Source& source, int field, FlawList& flaws) : source_(source), field_(field), flaws_(flaws) {}

    std::string read(OGRFeature& record, std::int64_t number, std::uint32_t place) {
        if (field_ < 0) return std::to_string(number);
        std::string id = source_.text(record, field_);
        if (id.empty()) {
            flaws_.push_back(
                {source_.path(), number, "", "its id is empty; it is kept", false, FlawKind::id_missing, place});
            return id;
        }
        if (const auto kind = source_.no_id(record, field_); !kind.empty())
            flaws_.push_back(
                {source_.path(), number, id,
                 fmt::format("its id '{}' is {}, not a text; it is kept as it stands", id.substr(0, 40), kind), false,
                 FlawKind::other, place});
        const auto [at, added] = first_.try_emplace(id, number);
        if (!added)
            flaws_.push_back({source_.path(), number, id,
                              fmt::format("its id '{}' is also that of record {}; both are kept", id, at->second + 1),
                              false, FlawKind::id_duplicate, place});
        return id;
    }

private:
    const Source& source_;
    int field_;
    FlawList& flaws_;
    std::unordered_map<std::string, std::int64_t> first_;
};

/// What was taken in one of several ways: of the file, and of columns of numbers.
std::vector<std::string> remarks_of(const Source& source, std::initializer_list<int> columns) {
    auto out = source.remarks();
    for (const int c : columns)
        if (c >= 0)
            if (const auto said = source.remark(c); !said.empty())
                out.push_back(fmt::format("'{}' {}", source.fields()[static_cast<std::size_t>(c)], said));
    return out;
}

void note_location(FlawList& flaws, const std::string& path, std::int64_t number, const std::string& id,
                   const std::string& wrong, std::uint32_t place) {
    if (!wrong.empty())
        flaws.push_back(
            {path, number, id, wrong + "; it is kept and counted as bad_location", false, FlawKind::location, place});
}

}  // namespace

std::string set_name_from(const std::string& path) {
    // Of an address only what stands before its options: they may hold a password.
    const bool file = reach_of(path) == Reach::file;
    const std::string shown = without_password(path);
    const std::string location = file ? path : shown.substr(0, shown.find_first_of("?#"));
    std::string s = as_utf8(std::filesystem::path(location).stem().string());
    std::replace_if(
        s.begin(), s.end(), [](char c) { return c == '_' || c == '-'; }, ' ');
    return s.empty() ? "places" : s;
}

DemandFields guess_demand_fields(const std::vector<std::string>& fields, const std::string& key) {
    const std::string id = guess_field(fields, {"id", "ref", "reference"});
    return {id.empty() ? key : id,
            guess_field(fields, {"weight", "residents", "population", "pop", "people", "persons", "pupils", "students",
                                 "households", "dwellings", "properties", "premises", "demand", "count"}),
            {},
            guess_field(fields, {"group", "age group", "category"}),
            guess_field(fields, {"recorded site", "assigned site", "current site", "site id", "recorded school",
                                 "recorded station", "recorded depot"}),
            guess_field(fields, {"priority"})};
}

DemandRead read_demand(const DemandChoice& choice, const Task& task) {
    Source source(choice.layer, Shape::point, task);
    DemandRead out;
    out.demand.name = set_name_from(choice.layer.path);
    const auto guessed = guess_demand_fields(source.fields(), source.key());
    out.fields = {resolve(source, choice.id, guessed.id, "the id"),
                  resolve(source, choice.weight, guessed.weight, "the weight"),
                  {}};
    out.fields.road = resolve(source, choice.road, "", "the road's name");
    out.fields.group = resolve(source, choice.group, guessed.group, "the group");
    out.fields.recorded = resolve(source, choice.recorded, guessed.recorded, "the recorded site");
    out.fields.priority = resolve(source, choice.priority, guessed.priority, "the priority");
    out.demand.group = places::TextColumn(out.fields.group);
    out.demand.recorded = places::TextColumn(out.fields.recorded);
    out.demand.priority = places::TextColumn(out.fields.priority);
    const int group = index_of(source, out.fields.group);
    const int recorded = index_of(source, out.fields.recorded);
    const int priority = index_of(source, out.fields.priority);
    out.demand.weight_name = out.fields.weight;
    const int road = index_of(source, out.fields.road);
    const int id = index_of(source, out.fields.id);
    const int weight = index_of(source, out.fields.weight);
    source.look_at(std::array{weight});
    IdReader ids(source, id, out.flaws);

    each_record(
        source, task, "reading demand",
        [&](OGRFeature& record, std::int64_t number, const auto& position, const std::string& wrong) {
            const auto place = out.demand.count();
            places::DemandPlace p{ids.read(record, number, place), position, Weight::one()};
            if (weight >= 0) {
                std::string bad;
                const auto w = read_weight(source, record, weight, bad);
                if (!w)
                    out.flaws.push_back({source.path(), number, p.id, fmt::format("its weight {}; it counts as 0", bad),
                                         false, FlawKind::weight, place});
                p.weight = w.value_or(Weight());
            }
            note_location(out.flaws, source.path(), number, p.id, wrong, place);
            if (group >= 0) out.demand.group.push_back(source.text(record, group));
            if (recorded >= 0) out.demand.recorded.push_back(source.text(record, recorded));
            if (priority >= 0) out.demand.priority.push_back(source.text(record, priority));
            if (road >= 0) out.demand.attaching.road_names.push_back(source.text(record, road));
            out.demand.places.push_back(std::move(p));
        });
    try {
        places::check_weights(out.demand);
    } catch (const InputError& e) {
        source.fail(std::nullopt, e.parts().wrong, e.parts().remedy);
    }
    out.left_out = source.left_out();
    out.raw_sample = source.raw_sample();
    out.remarks = remarks_of(source, {weight});
    return out;
}

SiteFields guess_site_fields(const std::vector<std::string>& fields, const std::string& key) {
    const std::string id = guess_field(fields, {"id", "ref", "reference"});
    return {id.empty() ? key : id,
            guess_field(fields, {"name", "site", "title"}),
            guess_field(fields, {"state", "status"}),
            guess_field(fields, {"capacity", "places"}),
            guess_field(fields, {"zone", "district", "catchment"}),
            guess_field(fields, {"cost", "price"})};
}

namespace {

/// Minutes, or an amount that says its unit.
std::optional<Amount> limit_of(const std::string& text) {
    double minutes = 0;
    try {
        if (parse_number(text, minutes)) return parse_time(text + "min");
        return parse_amount(text);
    } catch (const InputError&) {
        return std::nullopt;
    }
}

}  // namespace

SitesRead read_sites(const SiteChoice& choice, const Task& task) {
    Source source(choice.layer, Shape::point, task);
    SitesRead out;
    out.sites.name = set_name_from(choice.layer.path);
    const auto guessed = guess_site_fields(source.fields(), source.key());
    out.fields = {resolve(source, choice.id, guessed.id, "the id"),
                  resolve(source, choice.name, guessed.name, "the name"),
                  resolve(source, choice.state, guessed.state, "the state"),
                  resolve(source, choice.capacity, guessed.capacity, "the capacity"),
                  resolve(source, choice.zone, guessed.zone, "the zone"),
                  resolve(source, choice.cost, guessed.cost, "the cost"),
                  resolve(source, choice.limit, guessed.limit, "the limit"),
                  resolve(source, choice.least, guessed.least, "the least"),
                  resolve(source, choice.turnout, guessed.turnout, "the turnout")};
    const int zone = index_of(source, out.fields.zone);
    const int cost = index_of(source, out.fields.cost);
    const int limit = index_of(source, out.fields.limit);
    const int id = index_of(source, out.fields.id);
    const int name = index_of(source, out.fields.name);
    const int state = index_of(source, out.fields.state);
    const int capacity = index_of(source, out.fields.capacity);
    const int least = index_of(source, out.fields.least);
    const int turnout = index_of(source, out.fields.turnout);
    source.look_at(std::array{capacity, cost, least});
    IdReader ids(source, id, out.flaws);

    each_record(
        source, task, "reading sites",
        [&](OGRFeature& record, std::int64_t number, const auto& position, const std::string& wrong) {
            places::Site s;
            const auto place = out.sites.count();
            s.id = ids.read(record, number, place);
            s.name = source.text(record, name);
            s.position = position;
            const std::string state_text = source.text(record, state);
            if (const auto parsed = places::parse_site_state(state_text))
                s.state = *parsed;
            else
                out.flaws.push_back({source.path(), number, s.id,
                                     fmt::format("its state '{}' is not open, candidate or closed; it is taken as open",
                                                 state_text.substr(0, 40)),
                                     false, FlawKind::state, place});
            const auto amount = [&](int field, const char* what, const char* taken_as, FlawKind kind) {
                std::string bad;
                if (source.text(record, field).empty()) return std::optional<Weight>();
                const auto given = read_weight(source, record, field, bad);
                if (!given)
                    out.flaws.push_back({source.path(), number, s.id,
                                         fmt::format("its {} {}; it is taken as {}", what, bad, taken_as), false, kind,
                                         place});
                return given;
            };
            s.capacity = amount(capacity, "capacity", "unlimited", FlawKind::capacity);
            s.zone = source.text(record, zone);
            s.cost = amount(cost, "cost", "not known", FlawKind::other);
            s.least = amount(least, "least", "having none", FlawKind::capacity);
            if (s.least && s.capacity && *s.capacity < *s.least)
                out.flaws.push_back({source.path(), number, s.id,
                                     fmt::format("its least of {} is more than its capacity of {}; it is filled as far "
                                                 "as that goes",
                                                 describe(*s.least), describe(*s.capacity)),
                                     false, FlawKind::capacity, place});
            if (const std::string text = source.text(record, limit); !text.empty()) {
                s.limit = limit_of(text);
                if (!s.limit)
                    out.flaws.push_back({source.path(), number, s.id,
                                         fmt::format("its limit '{}' is neither minutes nor an amount such as 8min or "
                                                     "800m; it is taken as having none",
                                                     text.substr(0, 40)),
                                         false, FlawKind::other, place});
            }
            if (const std::string text = source.text(record, turnout); !text.empty()) {
                const auto given = limit_of(text);
                if (given && std::holds_alternative<Millis>(*given))
                    s.turnout = std::get<Millis>(*given);
                else
                    out.flaws.push_back({source.path(), number, s.id,
                                         fmt::format("its turnout '{}' is neither minutes nor a time such as 90s or "
                                                     "2min; it is taken as the question's",
                                                     text.substr(0, 40)),
                                         false, FlawKind::other, place});
            }
            note_location(out.flaws, source.path(), number, s.id, wrong, place);
            out.sites.sites.push_back(std::move(s));
        });
    out.left_out = source.left_out();
    out.raw_sample = source.raw_sample();
    out.remarks = remarks_of(source, {capacity, cost, least});
    return out;
}

}  // namespace otoro::files
