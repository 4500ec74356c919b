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
enum Column : std::size_t { kClass, kName, kSpeed, kOneWay };
std::vector<std::string> columns(const RoadFields& f) { return {f.road_class, f.name, f.speed, f.one_way}; }

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
        : source_(source), out_(out), speed_in_mph_(fields.speed.find("mph") != std::string::npos || fields.speed.find("MPH") != std::string::npos) {
        constexpr std::array<const char*, 4> kWhat{"the class", "the name", "the speed", "one-way"};
        const auto names = columns(fields);
        for (std::size_t i = 0; i < names.size(); ++i)
            if (!names[i].empty()) (void)source.required_field(names[i], kWhat[i]);
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
        if (const auto text = record.text(kSpeed); !text.empty()) a.drive_speed = speed(text, number);
        return a;
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
            parse(at->second, as_utf8(text));
        }
        if (at->second.unknown) ++out_.unknown_words[as_utf8(text)];
        return at->second;
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
        if (v == 0) return {};
        const double kmh = mph ? v * 1.609344 : v;
        if (kmh < kSlowestKmh || kmh > kFastestKmh) {
            flaw(number, fmt::format("its speed {} is not believable; the speed of its class is used", as_utf8(text.substr(0, 40))));
            return {};
        }
        return mph ? Speed::miles_per_hour(v) : Speed::km_per_hour(v);
    }

    void flaw(std::int64_t number, std::string wrong) { out_.flaws.push_back({source_.path(), number, "", std::move(wrong), false}); }

    const Source& source_;
    RoadsRead& out_;
    bool speed_in_mph_;
    Words classes_, one_ways_;
};

/// Lets GDAL skip the fields that nobody asked for.
void ignore_other_fields(Source& source, const RoadFields& used) {
    std::vector<std::string> others;
    for (const auto& f : source.fields())
        if (f != used.road_class && f != used.name && f != used.speed && f != used.one_way) others.push_back(f);
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
        line.getPoints(xs_.data(), sizeof(double), ys_.data(), sizeof(double));
        add_points(a, record);
    }

    /// The points in `xs_` and `ys_`.
    void add_points(const roads::Attributes& a, std::int64_t record) {
        const std::size_t count = xs_.size();
        if (count < 2) return set_aside(record, "its line has fewer than two points");
        if (!source_.to_lon_lat(count, xs_.data(), ys_.data())) return set_aside(record, "its line has a point that is not on the globe or not a number");
        shape_.clear();
        for (std::size_t i = 0; i < count; ++i)
            if (const geo::LonLat p{xs_[i], ys_[i]}; shape_.empty() || !(shape_.back() == p)) shape_.push_back(p);
        if (shape_.size() < 2) return set_aside(record, "its line has no length");
        if (too_long()) return set_aside(record, fmt::format("its line is over {} long", describe(roads::kLongestLine)));
        if (out_.lines.vertices.size() + shape_.size() > 0xfffffff0U || out_.lines.count() >= 0x7ffffff0U)
            source_.fail(record, "it has more roads than can be numbered", "Bring in a part of it");
        out_.lines.add(shape_, a);
    }

    [[nodiscard]] bool too_long() const {
        geo::Box box;
        for (const auto& p : shape_) box.add(p);
        // Only a line that spans degrees or has very many vertices can be that long.
        if (box.east - box.west < 1 && box.north - box.south < 1 && shape_.size() < 100'000) return false;
        return geo::line_length(shape_) > roads::kLongestLine;
    }

    void set_aside(std::int64_t record, std::string wrong) { out_.flaws.push_back({source_.path(), record, "", std::move(wrong), true}); }

    Source& source_;
    RoadsRead& out_;
    std::vector<double> xs_, ys_;
    std::vector<geo::LonLat> shape_;
};

}  // namespace

RoadFields guess_road_fields(const std::vector<std::string>& fields) {
    return {guess_field(fields, {"class", "road_class", "roadclass", "highway", "category", "type", "kind"}),
            guess_field(fields, {"name", "road_name", "street", "street_name", "ref"}),
            guess_field(fields, {"speed", "speed_kmh", "kmh", "speed_mph", "mph", "maxspeed", "max_speed", "speed_limit"}),
            guess_field(fields, {"oneway", "one_way", "one-way", "direction"})};
}

static RoadsRead read_lines(const RoadChoice& choice, const Task& task) {
    Source source(choice.layer, Shape::line);
    RoadsRead out;
    out.fields = choice.fields ? *choice.fields : guess_road_fields(source.fields());
    AttributeReader attributes(source, out.fields, out);
    ignore_other_fields(source, out.fields);
    ShapeReader shapes(source, out);
    if (source.expected_records() > 0) {
        const auto count = static_cast<std::size_t>(std::min<std::int64_t>(source.expected_records(), 0x7fffffff));
        out.lines.attributes.reserve(std::min(count, most_vertices(choice.layer.path)));
        out.lines.first.reserve(std::min(count + 1, most_vertices(choice.layer.path)));
    }
    out.lines.vertices.reserve(most_vertices(choice.layer.path));

    const auto read_all = [&](auto& records, auto&& shape_of) {
        while (records.next()) {
            if (out.records % 4096 == 0)
                task.at("reading roads", source.expected_records() > 0 ? static_cast<double>(out.records) / static_cast<double>(source.expected_records()) : 0.0);
            auto a = attributes.read(records, out.records);
            a.name = attributes.name(records);
            shapes.add(shape_of(records), a, out.records);
            ++out.records;
        }
    };
    if (const auto in_columns = ArrowRecords::open(source, columns(out.fields))) {
        read_all(*in_columns, [](const ArrowRecords& r) { return r.wkb(); });
    } else {
        FeatureRecords one_by_one(source, out.fields);
        read_all(one_by_one, [](FeatureRecords& r) { return r.geometry(); });
    }
    source.check_units();
    if (out.lines.count() == 0) {
        if (out.flaws.empty()) source.fail(std::nullopt, "it has no records", "Export it again with its records");
        source.fail(out.flaws.front().record, fmt::format("none of its {} lines can be used; the first: {}", out.records, out.flaws.front().wrong),
                    "Check that it is a file of road lines and that its coordinate system is right");
    }
    return out;
}

RoadsRead read_roads(const RoadChoice& choice, const Task& task) {
    auto out = is_osm(choice.layer.path) ? read_osm_roads(choice.layer.path, task) : read_lines(choice, task);
    // What the format's driver used is free now, but the allocator would keep tens of megabytes of it from being used for large arrays.
    ::malloc_trim(0);
    return out;
}

}  // namespace otoro::files
