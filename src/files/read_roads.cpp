#include "files/read_roads.h"

#include <fmt/format.h>
#include <malloc.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <unordered_map>

#include "files/arrow_records.h"
#include "geo/amounts.h"
#include "geo/ellipsoid.h"
#include "geo/error.h"
#include "roads/network.h"

namespace otoro::files {
namespace {

/// What the fields of a record are wanted for, in this order.
enum Column : std::size_t { kClass, kName, kSpeed, kOneWay, kMinutes, kMinutesBack, kLength, kLevel, kColumns };

/// The formula that stands where a field's name might, or nothing.
std::optional<Expression> formula(const std::string& field) {
    const auto at = field.find_first_not_of(' ');
    if (at == std::string::npos || field[at] != '=') return std::nullopt;
    return Expression::parse(std::string_view(field).substr(at + 1));
}

/// The fields of the file that are needed, in the order of `Column`; behind them those that only formulas name.
std::vector<std::string> columns(const RoadFields& f) {
    std::vector<std::string> out;
    std::vector<std::string> more;
    for (const auto& c : f.columns()) {
        const auto parsed = formula(c);
        out.push_back(parsed ? std::string() : c);
        if (parsed) more.insert(more.end(), parsed->fields().begin(), parsed->fields().end());
    }
    for (const auto& m : more)
        if (std::find(out.begin(), out.end(), m) == out.end()) out.push_back(m);
    return out;
}

/// One record after another through GDAL's features: every format can.
class FeatureRecords {
public:
    FeatureRecords(Source& source, const RoadFields& fields) : source_(source), record_(nullptr, nullptr) {
        for (const auto& name : columns(fields)) fields_.push_back(name.empty() ? -1 : source.field(name));
    }
    bool next() {
        record_ = source_.next();
        return record_ != nullptr;
    }
    std::string_view text(std::size_t column) {
        const int field = fields_[column];
        if (field < 0 || !record_->IsFieldSetAndNotNull(field)) return {};
        return record_->GetFieldAsString(field);
    }
    const OGRGeometry* geometry() { return record_->GetGeometryRef(); }

private:
    Source& source_;
    std::vector<int> fields_;
    std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> record_;
};

/// How the fields of a record become attributes, each distinct word parsed once.
class AttributeReader {
public:
    AttributeReader(const Source& source, const RoadFields& fields, RoadsRead& out)
        : source_(source), out_(out), fields_(fields), names_(columns(fields)), speed_in_mph_(fields.speed.find("mph") != std::string::npos || fields.speed.find("MPH") != std::string::npos) {
        constexpr std::array<const char*, kColumns> kWhat{"the class", "the name", "the speed", "one-way", "the minutes", "the minutes back", "the length", "the level"};
        for (std::size_t i = 0; i < names_.size(); ++i)
            if (!names_[i].empty()) (void)source.required_field(names_[i], i < kColumns ? kWhat[i] : "a formula");
        const auto given = fields.columns();
        for (std::size_t i = 0; i < kColumns; ++i) formulas_.push_back(formula(given[i]));
        for (const auto& [word, meaning] : fields.words)
            if (!roads::parse_class(meaning) && !roads::parse_one_way(meaning))
                throw InputError({"", std::nullopt, fmt::format("'{}' is no class and no one-way word, so '{}' cannot mean it", meaning, word), "Use a word of docs/semantics.md, such as secondary or reverse"});
    }

    template <class Records>
    roads::Attributes read(Records& record, std::int64_t number) {
        roads::Attributes a;
        const Word& kind = word(classes_, record.text(kClass), [](Word& w, const std::string& text) {
            const auto parsed = roads::parse_class(text);
            w.unknown = !parsed && !text.empty();
            if (parsed) w.road_class = *parsed;
        });
        a.road_class = kind.road_class.road_class;
        a.flags = kind.road_class.ramp ? static_cast<std::uint8_t>(roads::kRamp) : std::uint8_t{0};
        const Word& way = word(one_ways_, record.text(kOneWay), [](Word& w, const std::string& text) {
            const auto parsed = roads::parse_one_way(text);
            w.unknown = !parsed;
            if (parsed) w.one_way = *parsed;
        });
        a.set_one_way(way.one_way, way.one_way);
        if (formulas_[kSpeed]) {
            if (const auto v = worked_out(record, kSpeed)) a.drive_speed = believable_speed(*v, fmt::format("{:g}", *v), number, speed_in_mph_);
        } else if (const auto text = record.text(kSpeed); !text.empty()) {
            a.drive_speed = speed(text, number);
        }
        a.fixed_ms = minutes(record, kMinutes, number);
        back_ms_ = minutes(record, kMinutesBack, number);
        if (a.fixed_ms == 0) a.fixed_ms = back_ms_;
        if (names_[kLevel].empty() && !formulas_[kLevel]) return a;
        if (const auto v = worked_out(record, kLevel)) a.set_level(static_cast<int>(std::clamp(*v, -8.0, 7.0)));
        else if (const auto text = record.text(kLevel); !text.empty()) a.set_level(level(text));
        return a;
    }
    /// The time against the drawn direction of the record read last; 0 if none is stated.
    [[nodiscard]] std::uint32_t back_ms() const { return back_ms_; }
    /// The length that the record states, in metres; nothing if it states none.
    template <class Records>
    std::optional<double> stated_metres(Records& record) {
        if (names_[kLength].empty() && !formulas_[kLength]) return std::nullopt;
        const auto v = worked_out(record, kLength);
        return v && *v > 0 ? std::optional(*v * metres_per_unit(fields_.length)) : std::nullopt;
    }
    template <class Records>
    std::uint32_t name(Records& record) {
        const auto text = record.text(kName);
        const bool plain = std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
        return plain ? out_.lines.names.add(text) : out_.lines.names.add(as_utf8(text));
    }

private:
    struct Word {
        roads::ParsedClass road_class;
        roads::OneWay one_way = roads::OneWay::both;
        bool unknown = false;
    };
    struct Hash {
        using is_transparent = void;
        std::size_t operator()(std::string_view s) const { return std::hash<std::string_view>()(s); }
    };
    using Words = std::unordered_map<std::string, Word, Hash, std::equal_to<>>;

    template <class Parse>
    const Word& word(Words& known, std::string_view text, Parse&& parse) {
        auto at = known.find(text);
        if (at == known.end()) {
            at = known.emplace(std::string(text), Word{}).first;
            const auto meaning = fields_.words.find(as_utf8(text));
            parse(at->second, meaning == fields_.words.end() ? as_utf8(text) : meaning->second);
        }
        if (at->second.unknown) ++out_.unknown_words[as_utf8(text)];
        return at->second;
    }

    /// The number of a column or of its formula.
    template <class Records>
    std::optional<double> worked_out(Records& record, std::size_t column) {
        if (formulas_[column]) {
            const auto& wanted = formulas_[column]->fields();
            return formulas_[column]->number([&](std::size_t i) -> std::optional<std::string> {
                const auto at = static_cast<std::size_t>(std::find(names_.begin(), names_.end(), wanted[i]) - names_.begin());
                const auto text = record.text(at);
                return text.empty() ? std::nullopt : std::optional<std::string>(text);
            });
        }
        double v = 0;
        return parse_number(record.text(column), v) ? std::optional(v) : std::nullopt;
    }

    template <class Records>
    std::uint32_t minutes(Records& record, std::size_t column, std::int64_t number) {
        if (names_[column].empty() && !formulas_[column]) return 0;
        const auto v = worked_out(record, column);
        const auto text = formulas_[column] ? std::string_view() : record.text(column);
        if (!v) {
            if (!text.empty()) flaw(number, fmt::format("its minutes '{}' are not a number; its speed is used", as_utf8(text.substr(0, 40))));
            return 0;
        }
        constexpr double kMostMinutes = 60'000;
        if (*v < 0 || *v > kMostMinutes) {
            flaw(number, fmt::format("its minutes {:g} are not believable; its speed is used", *v));
            return 0;
        }
        return static_cast<std::uint32_t>(std::llround(*v * 60'000));
    }

    /// A level in words: a bridge is over, a tunnel under.
    [[nodiscard]] int level(std::string_view text) const {
        std::string s;
        for (const char c : text) s += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        if (s == "no" || s == "false") return 0;
        const bool tunnel = s.find("tunnel") != std::string::npos || fields_.level.find("tunnel") != std::string::npos || fields_.level.find("TUNNEL") != std::string::npos;
        return tunnel ? -1 : 1;
    }

    static double metres_per_unit(const std::string& field) {
        std::string s;
        for (const char c : field) s += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        const auto has = [&](const char* word) { return s.find(word) != std::string::npos; };
        if (has("km") || has("kilomet")) return 1000;
        if (has("mile") || s.ends_with("_mi")) return 1609.344;
        if (has("feet") || s.ends_with("_ft")) return 0.3048;
        return 1;
    }

    Speed believable_speed(double v, const std::string& text, std::int64_t number, bool mph) {
        if (v == 0) return {};
        const double kmh = mph ? v * 1.609344 : v;
        if (kmh < kSlowestKmh || kmh > kFastestKmh) {
            flaw(number, fmt::format("its speed {} is not believable; the speed of its class is used", text));
            return {};
        }
        return mph ? Speed::miles_per_hour(v) : Speed::km_per_hour(v);
    }

    Speed speed(std::string_view text, std::int64_t number) {
        bool mph = speed_in_mph_;
        std::string_view digits = text;
        if (const auto unit = text.find("mph"); unit != std::string_view::npos) {
            mph = true;
            digits = text.substr(0, unit);
        } else if (const auto kmh = text.find("km/h"); kmh != std::string_view::npos) {
            digits = text.substr(0, kmh);
        }
        double v = 0;
        if (!parse_number(digits, v)) {
            flaw(number, fmt::format("its speed '{}' is not a number; the speed of its class is used", as_utf8(text.substr(0, 40))));
            return {};
        }
        return believable_speed(v, as_utf8(text.substr(0, 40)), number, mph);
    }

    void flaw(std::int64_t number, std::string wrong) { out_.flaws.push_back({source_.path(), number, "", std::move(wrong), false, FlawKind::speed, std::nullopt}); }

    const Source& source_;
    RoadsRead& out_;
    RoadFields fields_;
    std::vector<std::string> names_;
    std::vector<std::optional<Expression>> formulas_;
    std::uint32_t back_ms_ = 0;
    bool speed_in_mph_;
    Words classes_, one_ways_;
};

/// Lets GDAL skip the fields that nobody asked for.
void ignore_other_fields(Source& source, const RoadFields& used) {
    std::vector<std::string> others;
    const auto wanted = columns(used);
    for (const auto& f : source.fields())
        if (std::find(wanted.begin(), wanted.end(), f) == wanted.end()) others.push_back(f);
    std::vector<const char*> list;
    for (const auto& f : others) list.push_back(f.c_str());
    list.push_back(nullptr);
    if (source.layer().TestCapability(OLCIgnoreFields)) source.layer().SetIgnoredFields(list.data());
}

/// Room for every vertex the file can hold (16 bytes each in the binary formats). Pages never touched cost no memory.
std::size_t most_vertices(const std::string& path) {
    std::error_code error;
    const auto bytes = std::filesystem::file_size(path, error);
    return error ? 0 : static_cast<std::size_t>(bytes / 16);
}

class ShapeReader {
public:
    ShapeReader(Source& source, RoadsRead& out) : source_(source), out_(out) {}

    /// Well-known binary: a plain line in this machine's byte order is read at once, anything else through GDAL.
    void add(std::span<const unsigned char> wkb, const roads::Attributes& a, std::int64_t record) {
        constexpr std::size_t kHead = 9;
        std::uint32_t type = 0;
        std::uint32_t count = 0;
        if (wkb.size() >= kHead && wkb[0] == 1) {
            std::memcpy(&type, wkb.data() + 1, sizeof type);
            std::memcpy(&count, wkb.data() + 5, sizeof count);
        }
        if (type == wkbLineString && wkb.size() == kHead + std::size_t{count} * 16) {
            xs_.resize(count);
            ys_.resize(count);
            for (std::size_t i = 0; i < count; ++i) {
                std::memcpy(&xs_[i], wkb.data() + kHead + 16 * i, sizeof(double));
                std::memcpy(&ys_[i], wkb.data() + kHead + 16 * i + 8, sizeof(double));
            }
            return add_points(a, record);
        }
        OGRGeometry* made = nullptr;
        if (!wkb.empty()) OGRGeometryFactory::createFromWkb(wkb.data(), nullptr, &made, wkb.size());
        const std::unique_ptr<OGRGeometry> owned(made);
        add(made, a, record);
    }

    void add(const OGRGeometry* g, const roads::Attributes& a, std::int64_t record) {
        if (g == nullptr || g->IsEmpty()) return set_aside(record, "it has no line");
        const auto type = wkbFlatten(g->getGeometryType());
        if (type == wkbLineString) return add_line(*g->toLineString(), a, record);
        if (type == wkbMultiLineString || type == wkbGeometryCollection) {
            for (const auto* part : *g->toGeometryCollection()) add(part, a, record);
            return;
        }
        if (OGR_GT_IsCurve(g->getGeometryType()) || type == wkbMultiCurve) {
            const std::unique_ptr<OGRGeometry> straight(g->getLinearGeometry());
            if (straight && straight->getGeometryType() != g->getGeometryType()) return add(straight.get(), a, record);
        }
        set_aside(record, fmt::format("its shape is a {}, not a line", g->getGeometryName()));
    }

private:
    void add_line(const OGRLineString& line, const roads::Attributes& a, std::int64_t record) {
        const auto count = static_cast<std::size_t>(line.getNumPoints());
        xs_.resize(count);
        ys_.resize(count);
        zs_.resize(line.Is3D() ? count : 0);
        line.getPoints(xs_.data(), sizeof(double), ys_.data(), sizeof(double), zs_.empty() ? nullptr : zs_.data(), sizeof(double));
        add_points(a, record);
        zs_.clear();
    }

    /// The points in `xs_` and `ys_`.
    void add_points(const roads::Attributes& a, std::int64_t record) {
        const std::size_t count = xs_.size();
        if (count < 2) return set_aside(record, "its line has fewer than two points");
        if (!source_.to_lon_lat(count, xs_.data(), ys_.data())) return set_aside(record, "its line has a point that is not on the globe or not a number");
        shape_.clear();
        heights_.clear();
        for (std::size_t i = 0; i < count; ++i) {
            const geo::LonLat p{xs_[i], ys_[i]};
            if (!shape_.empty() && shape_.back() == p) continue;
            shape_.push_back(p);
            if (!zs_.empty()) heights_.push_back(static_cast<float>(zs_[i]));
        }
        if (shape_.size() < 2) return set_aside(record, "its line has no length");
        if (too_long()) return set_aside(record, fmt::format("its line is over {} long", describe(roads::kLongestLine)));
        if (out_.lines.vertices.size() + shape_.size() > 0xfffffff0U || out_.lines.count() >= 0x7ffffff0U)
            source_.fail(record, "it has more roads than can be numbered", "Bring in a part of it");
        if (heights_.empty()) out_.lines.add(shape_, a);
        else out_.lines.add(shape_, a, heights_);
    }

    [[nodiscard]] bool too_long() const {
        geo::Box box;
        for (const auto& p : shape_) box.add(p);
        // Only a line that spans degrees or has very many vertices can be that long.
        if (box.east - box.west < 1 && box.north - box.south < 1 && shape_.size() < 100'000) return false;
        return geo::line_length(shape_) > roads::kLongestLine;
    }

    void set_aside(std::int64_t record, std::string wrong) { out_.flaws.push_back({source_.path(), record, "", std::move(wrong), true, FlawKind::shape, std::nullopt}); }

    Source& source_;
    RoadsRead& out_;
    std::vector<double> xs_, ys_, zs_;
    std::vector<geo::LonLat> shape_;
    std::vector<float> heights_;
};

}  // namespace

RoadFields guess_road_fields(const std::vector<std::string>& fields) {
    RoadFields f;
    f.road_class = guess_field(fields, {"class", "road_class", "roadclass", "highway", "category", "type", "kind"});
    f.name = guess_field(fields, {"name", "road_name", "street", "street_name", "ref"});
    f.speed = guess_field(fields, {"speed", "speed_kmh", "kmh", "speed_mph", "mph", "maxspeed", "max_speed", "speed_limit"});
    f.one_way = guess_field(fields, {"oneway", "one_way", "one-way", "direction"});
    f.minutes = guess_field(fields, {"minutes", "travel_minutes", "time_min"});
    f.minutes_back = guess_field(fields, {"minutes_back", "back_minutes"});
    f.length = guess_field(fields, {"length", "length_m", "length_km", "shape_length", "shape_leng"});
    f.level = guess_field(fields, {"level", "road_level", "bridge", "tunnel"});
    return f;
}

namespace {

/// A stated length that the drawn line does not bear out.
bool disagree(double stated, double drawn) { return std::abs(stated - drawn) > std::max(20.0, 0.05 * drawn); }

/// One layer, added to what was read before it.
void read_layer(const LayerChoice& choice, const std::optional<RoadFields>& fields, RoadsRead& out, const Task& task) {
    Source source(choice, Shape::line, task);
    out.fields = fields ? *fields : guess_road_fields(source.fields());
    AttributeReader attributes(source, out.fields, out);
    if (choice.filter.empty()) ignore_other_fields(source, out.fields);
    ShapeReader shapes(source, out);
    if (source.expected_records() > 0) {
        const auto count = static_cast<std::size_t>(std::min<std::int64_t>(source.expected_records(), 0x7fffffff));
        out.lines.attributes.reserve(out.lines.count() + std::min(count, most_vertices(choice.path)));
        out.lines.first.reserve(out.lines.count() + std::min(count + 1, most_vertices(choice.path)));
    }
    out.lines.vertices.reserve(out.lines.vertices.size() + most_vertices(choice.path));

    const std::uint32_t lines_before = out.lines.count();
    std::int64_t read = 0;
    const auto read_all = [&](auto& records, auto&& shape_of, auto&& number_of) {
        while (records.next()) {
            if (read % 4096 == 0) task.at("reading roads", source.expected_records() > 0 ? static_cast<double>(read) / static_cast<double>(source.expected_records()) : 0.0);
            const std::int64_t number = number_of(read);
            auto a = attributes.read(records, number);
            a.name = attributes.name(records);
            const std::uint32_t first = out.lines.count();
            shapes.add(shape_of(records), a, number);
            if (attributes.back_ms() != 0 || !out.lines.against_ms.empty()) {
                out.lines.against_ms.resize(first, 0);
                out.lines.against_ms.resize(out.lines.count(), attributes.back_ms());
            }
            if (const auto stated = attributes.stated_metres(records); stated && out.lines.count() > first) {
                double drawn = 0;
                for (std::uint32_t l = first; l < out.lines.count(); ++l) drawn += geo::line_length(out.lines.shape(l)).metres();
                if (disagree(*stated, drawn))
                    out.flaws.push_back({source.path(), number, "", fmt::format("its length is stated as {:.0f} m and drawn as {:.0f} m; the drawn one is used", *stated, drawn), false, FlawKind::length, std::nullopt});
            }
            ++read;
        }
    };
    const auto in_columns = choice.filter.empty() ? ArrowRecords::open(source, columns(out.fields)) : nullptr;
    if (in_columns) {
        read_all(*in_columns, [](const ArrowRecords& r) { return r.wkb(); }, [](std::int64_t n) { return n; });
    } else {
        FeatureRecords one_by_one(source, out.fields);
        read_all(one_by_one, [](FeatureRecords& r) { return r.geometry(); }, [&](std::int64_t) { return source.record(); });
    }
    source.check_units();
    out.records += read + source.left_out();
    out.left_out += source.left_out();
    if (out.crs.empty()) out.crs = source.crs();
    if (out.lines.count() == lines_before) {
        if (out.flaws.empty()) source.fail(std::nullopt, "it has no records", "Export it again with its records");
        source.fail(out.flaws.back().record, fmt::format("none of its {} lines can be used; the last: {}", read, out.flaws.back().wrong),
                    "Check that it is a file of road lines and that its coordinate system is right");
    }
}

/// Heights that are all zero or missing say nothing.
void drop_empty_heights(roads::Lines& lines) {
    if (!lines.heights.empty() && std::none_of(lines.heights.begin(), lines.heights.end(), [](float h) { return std::isfinite(h) && h != 0; })) lines.heights = {};
}

}  // namespace

RoadsRead read_roads(const RoadChoice& choice, const Task& task) {
    RoadsRead out;
    if (is_osm(choice.layer.path)) {
        if (!choice.more.empty()) throw InputError({choice.layer.path, std::nullopt, "OpenStreetMap roads join by node and cannot be merged with other layers", "Bring it in alone"});
        if (!choice.layer.filter.empty()) throw InputError({choice.layer.path, std::nullopt, "an OpenStreetMap file cannot be filtered", "Leave the filter out; travel profiles say which classes are used"});
        out = read_osm_roads(choice.layer.path, task);
    } else {
        read_layer(choice.layer, choice.fields, out, task);
        for (const auto& more : choice.more) read_layer(more, choice.fields, out, task);
        drop_empty_heights(out.lines);
    }
    // What the format's driver used is free now, but the allocator would keep tens of megabytes of it from being used for large arrays.
    ::malloc_trim(0);
    return out;
}

}  // namespace otoro::files
