/// Opening a study: whatever is in it is checked before it is believed.
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>
#include <sqlite3.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "files/atomic_file.h"
#include "files/complaints.h"
#include "files/content.h"
#include "files/database_file.h"
#include "files/open_file.h"
#include "files/read_roads.h"
#include "files/source.h"
#include "files/study_file.h"
#include "files/study_json.h"
#include "files/study_layers.h"
#include "files/study_layout.h"
#include "files/study_settings.h"
#include "geo/wording.h"
#include "service/sentence.h"

namespace otoro::files {
namespace {
using nlohmann::json;

constexpr int kLongestValue = 256 * 1024 * 1024;
constexpr std::int64_t kMostWeight = 1'000'000'000'000'000;
constexpr int kDeepest = 100;  // settings are seven deep
constexpr std::string_view kNotAStudy = "it is not a study of Otoro";

bool holds_a_study(const std::string& path) {
    return content_of(path) == Content::geopackage && DatabaseFile(path).has_table(kStudyTable);
}

/// Brackets in brackets without end would end the program, not the reading. \throws InputError
json parse_setting(const std::string& text) {
    int depth = 0;
    bool in_text = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (in_text && c == '\\')
            ++i;
        else if (c == '"')
            in_text = !in_text;
        else if (!in_text && (c == '[' || c == '{') && ++depth > kDeepest)
            refuse("", "the study is damaged: its settings are nested without end", "Use an earlier copy of it");
        else if (!in_text && (c == ']' || c == '}'))
            --depth;
    }
    return json::parse(text);
}

std::string said_bytes(std::uint64_t bytes) {
    return bytes < 1'000'000 ? fmt::format("{} kB", said_whole((bytes + 999) / 1000))
                             : fmt::format("{} MB", said(static_cast<double>(bytes) / 1e6, 1));
}

/// A study file opened for reading.
class Reader {
public:
    Reader(const std::string& path, const Task& task, std::vector<std::string>* remarks)
        : path_(path), task_(task), remarks_(remarks) {
        std::error_code error;
        if (!std::filesystem::exists(path, error)) fail("there is no such file", "Check the name and the folder");
        if (const auto part = broken_off(path)) say_what_is_left(*part);
        if (!holds_a_study(path)) fail(std::string(kNotAStudy), "Add it on the Data page instead");
        database_.emplace(path);
        if (const auto made_up = database_->made_up_catalogue(); !made_up.empty())
            damaged("its list of layers, '" + made_up.front() + "', is no ordinary table");
        if (const auto made_up = database_->made_up_columns(); !made_up.empty())
            damaged("its column '" + made_up.front() + "' stands in no row and is worked out as it is read");
        prepare_gdal();
        name_.emplace(path, Content::geopackage);
        const Complaints complaints;
        const char* const drivers[] = {"GPKG", nullptr};
        dataset_.reset(static_cast<GDALDataset*>(
            GDALDataset::Open(name_->path().c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers, nullptr, nullptr)));
        if (!dataset_)
            fail(fmt::format("it cannot be read ({})",
                             complaints.first().empty() ? "it is damaged" : complaints.first()),
                 "Use a copy of it");
        if (auto* db = static_cast<sqlite3*>(dataset_->GetInternalHandle("SQLITE_HANDLE"))) {
            sqlite3_limit(db, SQLITE_LIMIT_LENGTH, kLongestValue);
            sqlite3_progress_handler(
                db, 50'000, [](void* self) { return static_cast<Reader*>(self)->task_.stop_requested() ? 1 : 0; },
                this);
        }
    }

    service::Study read() {
        const auto settings = read_settings();
        service::Study study;
        study.name = settings.at("name").get<std::string>();
        study.plans.clear();
        for (const auto& p : settings.at("plans")) study.plans.push_back(plan_from(p));
        if (study.plans.empty()) study.plans.emplace_back();
        if (const json& about = settings.at("roads"); !about.is_null()) {
            auto lines = read_roads(about);
            auto preparation = preparation_from(about.at("preparation"), lines->count());
            for (const auto& g : preparation.closed)
                if (std::max(g.from_line, g.to_line) >= lines->count())
                    damaged("a closed gap names a road that is not there");
            study.roads =
                service::roads_in(std::move(lines), std::move(preparation), origin_from(about.at("origin")), task_);
        }
        if (const json& about = settings.at("water"); !about.is_null())
            study.water = service::WaterIn{read_water(), origin_from(about)};
        for (const auto& p : settings.at("profiles")) study.profiles.push_back(profile_from(p));
        study.accepted = settings.at("accepted").get<std::map<std::string, std::string>>();
        study.gap_tolerance = Millimetres(
            std::clamp<std::int64_t>(whole_number<std::int64_t>(settings.at("gap_tolerance_mm")), 0, 100'000));
        for (const auto& d : settings.at("demand")) study.demand.push_back(read_demand(d, study.demand.size()));
        for (const auto& s : settings.at("sites")) study.sites.push_back(read_sites(s, study.sites.size()));
        for (const auto& z : settings.value("zones", json::array()))
            study.zones.push_back(read_zones(z, study.zones.size()));
        if (const json about = settings.value("pairs", json()); !about.is_null()) study.pairs = read_pairs(about);
        if (settings.contains("route")) study.route = route_from(settings.at("route"));
        read_questions(settings, study);
        if (version_ < 2) name_sites_for_good(study);
        check_content(settings, study);
        remark_on_unknown(settings, study);
        return study;
    }

private:
    [[noreturn]] void fail(std::string wrong, std::string remedy) const {
        throw InputError({path_, std::nullopt, std::move(wrong), std::move(remedy)});
    }
    [[noreturn]] void damaged(const std::string& what) const {
        fail(fmt::format("the study is damaged: {}", what), "Use an earlier copy of it");
    }

    [[noreturn]] void say_what_is_left(const BrokenOff& part) const {
        std::vector<std::string> whole, parts;
        for (const auto& left : DatabaseFile(path_).what_is_left(task_)) {
            if (left.table.starts_with("gpkg_") || left.table.starts_with("sqlite_") ||
                left.table.starts_with("rtree_") || left.table == kStudyTable || left.rows == 0)
                continue;
            const auto said =
                fmt::format("{} ({} {})", left.table, said_whole(left.rows), left.rows == 1 ? "row" : "rows");
            (left.whole ? whole : parts).push_back(said);
        }
        std::string said = fmt::format("it is broken off: the last {} of its {} are missing",
                                       said_bytes(part.whole - part.there), said_bytes(part.whole));
        if (!whole.empty()) said += "; whole are " + service::listed(whole);
        if (!parts.empty()) said += "; begun are " + service::listed(parts);
        fail(said, "Copy it again, or use an earlier copy of it");
    }

    /// What was read is what was saved. Studies of before do not say.
    void check_content(const json& settings, const service::Study& study) const {
        if (!settings.contains(kContent)) return;
        const json &layers = settings.at(kContent).at("layers"), &kept = settings.at(kContent).at("settings");
        for (const auto& [key, digest] : kept.items()) {
            const auto at = digests_.find(key);
            if (at == digests_.end()) damaged("its setting '" + as_utf8(key) + "' is missing");
            if (at->second != digest.get<std::string>())
                damaged("its setting '" + as_utf8(key) + "' is not what was saved: something else has changed it");
        }
        const auto read = contents_of(study);
        for (const auto& [name, held] : read) {
            if (!layers.contains(name)) damaged("it does not say what was in its layer '" + name + "'");
            const auto rows = whole_number<std::uint64_t>(layers.at(name).at("rows"));
            if (rows != held.rows)
                damaged(fmt::format("layer '{}' has {} {}, and had {} when it was saved", name, said_whole(held.rows),
                                    held.rows == 1 ? "row" : "rows", said_whole(rows)));
            if (layers.at(name).at("digest").get<std::string>() != held.digest)
                damaged(fmt::format("layer '{}' is not what was saved: something else has changed it", name));
        }
        for (const auto& [name, held] : layers.items())
            if (!read.contains(name)) damaged("its settings say nothing of its layer '" + as_utf8(name) + "'");
    }

    json read_settings() {
        OGRLayer& layer = this->layer(kStudyTable);
        json settings = json::object();
        while (const auto row = next(layer)) {
            const auto key = text(*row, "key"), value = text(*row, "value");
            settings[key] = parse_setting(value);
            digests_[key] = digest_of_setting(value);
        }
        version_ = settings.contains("format") ? whole_number<int>(settings.at("format")) : 0;
        if (version_ > kStudyFormat)
            fail("the study was made by a later version of Otoro", "Open it with that version");
        if (version_ < kOldestStudyFormat) damaged("it does not say by which version it was made");
        for (const auto& [key, value] : settings.items())
            if (std::find(kKeys.begin(), kKeys.end(), key) == kKeys.end() && remarks_ != nullptr)
                remark_on(as_utf8(key).substr(0, 60));
        return settings;
    }

    void remark_on_unknown(const json& settings, const service::Study& study) const {
        if (remarks_ == nullptr) return;
        constexpr std::size_t kMost = 5;
        const auto unknown = unknown_in(settings, settings_of(study));
        for (std::size_t i = 0; i < std::min(unknown.size(), kMost); ++i) remark_on(unknown[i]);
        if (unknown.size() > kMost)
            remarks_->push_back(fmt::format("and {} more of the kind", said_whole(unknown.size() - kMost)));
    }
    void remark_on(const std::string& what) const {
        remarks_->push_back(fmt::format(
            "It holds '{}', which this version does not know: it is left alone, and not kept when the study is saved "
            "here",
            what));
    }

    void read_questions(const json& settings, service::Study& study) const {
        study.questions.clear();
        if (version_ < 2) study.questions.push_back(question_from(settings.at("question")));
        if (version_ >= 2)
            for (const auto& q : settings.at("questions")) study.questions.push_back(question_from(q));
        if (study.questions.empty()) damaged("it has no question");
        std::set<std::string> names;
        for (const auto& q : study.questions)
            if (!names.insert(q.name).second) damaged("two of its questions have one name");
        if (settings.contains("in_sight"))
            study.in_sight = static_cast<std::size_t>(whole_number(settings.at("in_sight"), 0, INT32_MAX));
        if (study.in_sight >= study.questions.size()) damaged("the question in sight is not there");
    }

    /// In version 1 a change of a site could leave its set open, and one that moves or closes a site that the plan adds
    /// named it by its id alone. Both meant what is put in here.
    static void name_sites_for_good(service::Study& study) {
        const auto& asked = study.question().sites;
        for (auto& plan : study.plans) {
            std::set<std::pair<std::string, std::string>> added;
            for (auto& c : plan.changes) {
                if (c.set.empty() && !asked.empty()) c.set = asked.front();
                const auto* in = study.find_sites(c.set);
                const bool in_file = in && std::any_of(in->set->sites.begin(), in->set->sites.end(),
                                                       [&](const places::Site& s) { return s.id == c.site; });
                if (c.change == service::Change::add && in_file) c.change = service::Change::move;
                if (c.change == service::Change::add) added.insert({c.set, c.site});
                c.added = c.change != service::Change::add && !in_file && added.contains({c.set, c.site});
            }
        }
    }

    /// Now and then says how far it is, and stops if told to.
    void step(const char* what, std::size_t done) const {
        if (done % 8192 == 0) task_.at(what, 0.5);
    }

    OGRLayer& layer(const std::string& name) {
        OGRLayer* l = dataset_->GetLayerByName(name.c_str());
        if (l == nullptr) damaged("layer '" + name + "' is missing");
        if (!database_->has_table(name)) damaged("layer '" + name + "' is no ordinary table");
        return *l;
    }

    using Row = std::unique_ptr<OGRFeature, void (*)(OGRFeature*)>;
    /// The next row. What the database complains of is damage, never an end.
    Row next(OGRLayer& layer) const {
        const Complaints complaints;
        Row row(layer.GetNextFeature(), [](OGRFeature* f) { OGRFeature::DestroyFeature(f); });
        task_.check();
        if (!row && !complaints.first().empty())
            damaged(fmt::format("layer '{}' cannot be read to its end ({})", layer.GetName(), complaints.first()));
        return row;
    }

    int column(OGRFeature& row, const char* name) const {
        const int i = row.GetFieldIndex(name);
        if (i < 0) damaged(fmt::format("column '{}' is missing", name));
        return i;
    }
    std::string text(OGRFeature& row, const char* name) const {
        const int i = column(row, name);
        return row.IsFieldSetAndNotNull(i) ? as_utf8(row.GetFieldAsString(i)) : std::string();
    }
    std::int64_t whole(OGRFeature& row, const char* name, std::int64_t most) const {
        const std::int64_t v = row.GetFieldAsInteger64(column(row, name));
        if (v < 0 || v > most) damaged(fmt::format("'{}' is out of range", name));
        return v;
    }
    std::optional<geo::LonLat> point(OGRFeature& row) const {
        const OGRGeometry* g = row.GetGeometryRef();
        if (g == nullptr || wkbFlatten(g->getGeometryType()) != wkbPoint || g->IsEmpty()) return std::nullopt;
        const geo::LonLat p{g->toPoint()->getX(), g->toPoint()->getY()};
        if (!geo::on_the_globe(p)) damaged("a point is not on the globe");
        return p;
    }

    std::shared_ptr<const roads::Lines> read_roads(const json& about) {
        OGRLayer& layer = this->layer("roads");
        const auto count = layer.GetFeatureCount();
        roads::Lines lines;
        std::vector<geo::LonLat> shape;
        std::vector<float> heights;
        std::int64_t done = 0;
        while (const auto row = next(layer)) {
            if (done++ % 8192 == 0)
                task_.at("opening roads", count > 0 ? static_cast<double>(done) / static_cast<double>(count) : 0.0);
            const OGRGeometry* g = row->GetGeometryRef();
            if (g == nullptr || wkbFlatten(g->getGeometryType()) != wkbLineString ||
                g->toLineString()->getNumPoints() < 2)
                damaged("a road has no line");
            shape.clear();
            heights.clear();
            for (const auto& p : *g->toLineString()) {
                shape.push_back({p.getX(), p.getY()});
                if (g->Is3D()) heights.push_back(static_cast<float>(p.getZ()));
                if (!geo::on_the_globe_counted_on(shape.back())) damaged("a road is not on the globe");
                if (std::abs(shape.back().lat) > kFarthestNorth) damaged(fmt::format("of a road, {}", kNearPole));
            }
            if (too_long_for_a_road(shape))
                damaged(fmt::format("a road is over {} long", describe(roads::kLongestLine)));
            const auto a = attributes(*row, lines);
            if (heights.empty())
                lines.add(shape, a);
            else
                lines.add(shape, a, heights);
            if (const int c = column(*row, "against_ms"); row->IsFieldSetAndNotNull(c))
                lines.against_ms.push_back(static_cast<std::uint32_t>(whole(*row, "against_ms", 4'000'000'000)));
            if (row->IsFieldSetAndNotNull(column(*row, "from_node")))
                lines.named_ends.push_back({static_cast<std::uint32_t>(whole(*row, "from_node", 0xfffffff0)),
                                            static_cast<std::uint32_t>(whole(*row, "to_node", 0xfffffff0))});
        }
        if (!lines.named_ends.empty() && lines.named_ends.size() != lines.attributes.size())
            damaged("some roads do not say what they join");
        if (!lines.against_ms.empty() && lines.against_ms.size() != lines.attributes.size())
            damaged("some roads have no time back");
        if (lines.count() == 0) damaged("it has no roads");
        for (const auto& b : about.at("bans")) {
            const roads::TurnBan ban{{whole_number<std::uint32_t>(b.at(0))}, {whole_number<std::uint32_t>(b.at(1))}};
            if (std::max(ban.from.line(), ban.to.line()) >= lines.count())
                damaged("a forbidden turn names a road that is not there");
            lines.bans.push_back(ban);
        }
        std::sort(lines.bans.begin(), lines.bans.end());
        // Since the version that knows them.
        for (const auto& path : about.value("banned_paths", json::array())) {
            roads::BannedPath ways;
            for (const auto& way : path) {
                ways.push_back({whole_number<std::uint32_t>(way)});
                if (ways.back().line() >= lines.count()) damaged("a forbidden path names a road that is not there");
            }
            if (ways.size() < 3) damaged("a forbidden path has fewer than three roads");
            lines.banned_paths.push_back(std::move(ways));
        }
        std::sort(lines.banned_paths.begin(), lines.banned_paths.end());
        const int times_of = about.contains("times_of") ? whole_number<int>(about.at("times_of")) : 0;
        if (times_of < 0 || times_of > static_cast<int>(roads::TimesOf::cyclists))
            damaged("its stated minutes are of nobody that is known");
        lines.times_of = static_cast<roads::TimesOf>(times_of);
        for (const auto& p : about.at("signals")) {
            lines.traffic_signals.push_back({p.at(0).get<double>(), p.at(1).get<double>()});
            if (!geo::on_the_globe_counted_on(lines.traffic_signals.back()))
                damaged("a crossing with signals is not on the globe");
        }
        return std::make_shared<const roads::Lines>(std::move(lines));
    }

    std::shared_ptr<const std::vector<geo::Area>> read_water() {
        OGRLayer& layer = this->layer("water");
        auto areas = std::make_shared<std::vector<geo::Area>>();
        while (const auto row = next(layer)) {
            step("opening water", areas->size());
            areas->push_back(area(*row, "a stretch of water"));
        }
        return areas;
    }

    geo::Area area(OGRFeature& row, const char* what) const {
        const OGRGeometry* g = row.GetGeometryRef();
        if (g == nullptr || wkbFlatten(g->getGeometryType()) != wkbPolygon)
            damaged(fmt::format("{} has no shape", what));
        geo::Area area;
        for (const auto* ring : *g->toPolygon()) {
            std::vector<geo::LonLat> out;
            for (const auto& p : *ring) out.push_back({p.getX(), p.getY()});
            if (!std::all_of(out.begin(), out.end(), geo::on_the_globe) || out.size() < 3)
                damaged(fmt::format("{} is not on the globe", what));
            area.add(std::move(out));
        }
        return area;
    }

    roads::Attributes attributes(OGRFeature& row, roads::Lines& lines) const {
        roads::Attributes a;
        const auto parsed = roads::parse_class(text(row, "class"));
        if (!parsed) damaged("a road's class is not known");
        a.road_class = parsed->road_class;
        a.flags = static_cast<std::uint8_t>(whole(row, "flags", 255));
        a.barred = static_cast<std::uint8_t>(whole(row, "barred", 7));
        // Two rules and a level in one byte: see `Attributes::one_way`.
        a.one_way = static_cast<std::uint8_t>(whole(row, "one_way", 255));
        if (std::max(static_cast<int>(a.drive_one_way()), static_cast<int>(a.cycle_one_way())) >
            static_cast<int>(roads::OneWay::against))
            damaged("a road's one-way rule is not known");
        a.drive_speed = Speed(static_cast<std::uint32_t>(whole(row, "speed_mm_per_hour", 400'000'000)));
        a.fixed_ms = static_cast<std::uint32_t>(whole(row, "fixed_ms", 4'000'000'000));
        a.name = lines.names.add(text(row, "name"));
        return a;
    }

    service::DemandIn read_demand(const json& about, std::size_t index) {
        auto set = std::make_shared<places::DemandSet>();
        set->name = about.at("name").get<std::string>();
        set->weight_name = about.at("weight_name").get<std::string>();
        set->group = places::TextColumn(about.value("group_name", std::string()));
        set->recorded = places::TextColumn(about.value("recorded_name", std::string()));
        set->priority = places::TextColumn(about.value("priority_name", std::string()));
        OGRLayer& layer = this->layer(part_name("demand", index));
        while (const auto row = next(layer)) {
            step("opening demand", set->places.size());
            set->places.push_back(
                {text(*row, "id"), point(*row), Weight(whole(*row, "weight_millionths", kMostWeight))});
            if (!set->group.name().empty()) set->group.push_back(text(*row, "group"));
            if (!set->recorded.name().empty()) set->recorded.push_back(text(*row, "recorded_site"));
            if (!set->priority.name().empty()) set->priority.push_back(text(*row, "priority"));
        }
        set->attaching = checked_attaching(about.at("attaching"), set->places.size());
        return {set, origin_from(about.at("origin"))};
    }

    /// What is attached by hand or by a road's name must be there.
    places::Attaching checked_attaching(const json& about, std::size_t count) const {
        auto a = attaching_from(about);
        if (!a.by_hand.empty() && a.by_hand.rbegin()->first >= count) damaged("a place attached by hand is not there");
        if (!a.road_names.empty() && a.road_names.size() != count) damaged("not every place says which road it is on");
        return a;
    }

    service::ZonesIn read_zones(const json& about, std::size_t index) {
        auto set = std::make_shared<places::ZoneSet>();
        set->name = about.at("name").get<std::string>();
        OGRLayer& layer = this->layer(part_name("zones", index));
        while (const auto row = next(layer)) {
            step("opening zones", set->zones.size());
            set->zones.push_back({text(*row, "id"), text(*row, "name"), area(*row, "a zone")});
        }
        return {set, origin_from(about.at("origin"))};
    }

    service::PairsIn read_pairs(const json& about) {
        auto pairs = std::make_shared<places::PairValues>();
        pairs->name = about.at("value_name").get<std::string>();
        pairs->demand = places::TextColumn(about.at("demand_name").get<std::string>());
        pairs->sites = places::TextColumn(about.at("site_name").get<std::string>());
        OGRLayer& layer = this->layer("pairs");
        while (const auto row = next(layer)) {
            step("opening pairs", pairs->values.size());
            pairs->demand.push_back(text(*row, "demand_id"));
            pairs->sites.push_back(text(*row, "site_id"));
            pairs->values.emplace_back(whole(*row, "value_millionths", kMostWeight));
        }
        return {pairs, origin_from(about.at("origin"))};
    }

    /// Studies of before have no such columns.
    void read_added_later(OGRFeature& row, places::Site& site) {
        const auto given = [&](const char* field) {
            const int at = row.GetFieldIndex(field);
            return at >= 0 && row.IsFieldSetAndNotNull(at);
        };
        constexpr std::int64_t kMost = 1'000'000'000'000;
        if (given("limit_ms")) site.limit = Millis(whole(row, "limit_ms", kMost));
        if (given("limit_mm")) site.limit = Millimetres(whole(row, "limit_mm", kMost));
        if (given("least_millionths")) site.least = Weight(whole(row, "least_millionths", kMostWeight));
        if (given("turnout_ms")) site.turnout = Millis(whole(row, "turnout_ms", kMost));
    }

    service::SitesIn read_sites(const json& about, std::size_t index) {
        auto set = std::make_shared<places::SiteSet>();
        set->name = about.at("name").get<std::string>();
        OGRLayer& layer = this->layer(part_name("sites", index));
        while (const auto row = next(layer)) {
            step("opening sites", set->sites.size());
            places::Site s{text(*row, "id"), text(*row, "name"), point(*row), places::SiteState::open, std::nullopt};
            const auto state = places::parse_site_state(text(*row, "state"));
            if (!state) damaged("a site's state is not known");
            s.state = *state;
            if (row->IsFieldSetAndNotNull(column(*row, "capacity_millionths")))
                s.capacity = Weight(whole(*row, "capacity_millionths", kMostWeight));
            if (version_ >= 2) {
                s.zone = text(*row, "zone");
                if (row->IsFieldSetAndNotNull(column(*row, "cost_millionths")))
                    s.cost = Weight(whole(*row, "cost_millionths", kMostWeight));
                read_added_later(*row, s);
            }
            set->sites.push_back(std::move(s));
        }
        set->attaching = checked_attaching(about.at("attaching"), set->sites.size());
        return {set, origin_from(about.at("origin"))};
    }

    static constexpr std::array<std::string_view, 17> kKeys{
        "accepted", "format",           "name",   "question", "questions", "in_sight", "plans", "roads", "water",
        "profiles", "gap_tolerance_mm", "demand", "sites",    "zones",     "pairs",    "route", kContent};

    std::string path_;
    const Task& task_;
    std::vector<std::string>* remarks_;
    int version_ = 0;
    std::map<std::string, std::string> digests_;  ///< of the settings
    std::optional<DatabaseFile> database_;
    std::optional<ByRightName> name_;
    std::unique_ptr<GDALDataset> dataset_;
};

}  // namespace

service::Study open_study(const std::string& path, const Task& task, std::vector<std::string>* remarks) {
    try {
        return Reader(path, task, remarks).read();
    } catch (const json::exception& e) {
        throw InputError(
            {path, std::nullopt, fmt::format("the study is damaged ({})", e.what()), "Use an earlier copy of it"});
    } catch (const InputError& e) {
        if (!e.parts().file.empty()) throw;
        auto parts = e.parts();
        parts.file = path;
        throw InputError(parts);
    }
}

bool is_study(const std::string& path) {
    try {
        return holds_a_study(path);
    } catch (const std::exception&) {
        return false;
    }
}

}  // namespace otoro::files
