#include "files/read_roads.h"

#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <unordered_map>

#include "geo/amounts.h"
#include "geo/ellipsoid.h"
#include "geo/error.h"
#include "roads/network.h"

namespace otoro::files {
namespace {

/// How one field's values become attributes, each distinct word parsed once.
class AttributeReader {
public:
    AttributeReader(Source& source, const RoadFields& fields, RoadsRead& out)
        : source_(source),
          out_(out),
          class_(field(fields.road_class, "the class")),
          name_(field(fields.name, "the name")),
          speed_(field(fields.speed, "the speed")),
          one_way_(field(fields.one_way, "one-way")),
          speed_in_mph_(fields.speed.find("mph") != std::string::npos || fields.speed.find("MPH") != std::string::npos) {}

    roads::Attributes read(OGRFeature& record, std::int64_t number) {
        roads::Attributes a;
        if (class_ >= 0) {
            const auto c = road_class(Source::text(record, class_));
            a.road_class = c.road_class;
            a.flags = c.ramp ? static_cast<std::uint8_t>(roads::kRamp) : std::uint8_t{0};
        }
        if (one_way_ >= 0) {
            const auto way = one_way(Source::text(record, one_way_));
            a.set_one_way(way, way);
        }
        if (speed_ >= 0 && record.IsFieldSetAndNotNull(speed_)) a.drive_speed = speed(record, number);
        if (name_ >= 0) a.name = out_.lines.names.add(Source::text(record, name_));
        return a;
    }

private:
    int field(const std::string& name, const char* what) const { return name.empty() ? -1 : source_.required_field(name, what); }

    roads::ParsedClass road_class(const std::string& word) {
        const auto [at, added] = classes_.try_emplace(word);
        if (added) {
            const auto parsed = roads::parse_class(word);
            if (parsed) at->second = *parsed;
            else if (!word.empty()) out_.unknown_words.try_emplace(word, 0);
        }
        if (const auto unknown = out_.unknown_words.find(word); unknown != out_.unknown_words.end()) ++unknown->second;
        return at->second;
    }

    roads::OneWay one_way(const std::string& word) {
        const auto [at, added] = one_ways_.try_emplace(word, roads::OneWay::both);
        if (added) {
            const auto parsed = roads::parse_one_way(word);
            if (parsed) at->second = *parsed;
            else out_.unknown_words.try_emplace(word, 0);
        }
        if (const auto unknown = out_.unknown_words.find(word); unknown != out_.unknown_words.end()) ++unknown->second;
        return at->second;
    }

    Speed speed(OGRFeature& record, std::int64_t number) {
        std::string text = Source::text(record, speed_);
        bool mph = speed_in_mph_;
        if (const auto unit = text.find("mph"); unit != std::string::npos) {
            mph = true;
            text.resize(unit);
        } else if (const auto kmh = text.find("km/h"); kmh != std::string::npos) {
            text.resize(kmh);
        }
        double v = 0;
        if (text.empty()) return {};
        if (!parse_number(text, v)) {
            flaw(number, fmt::format("its speed '{}' is not a number; the speed of its class is used", text.substr(0, 40)));
            return {};
        }
        if (v == 0) return {};
        const double kmh = mph ? v * 1.609344 : v;
        if (kmh < kSlowestKmh || kmh > kFastestKmh) {
            flaw(number, fmt::format("its speed {} is not believable; the speed of its class is used", text.substr(0, 40)));
            return {};
        }
        return mph ? Speed::miles_per_hour(v) : Speed::km_per_hour(v);
    }

    void flaw(std::int64_t number, std::string wrong) { out_.flaws.push_back({source_.path(), number, "", std::move(wrong), false}); }

    Source& source_;
    RoadsRead& out_;
    int class_, name_, speed_, one_way_;
    bool speed_in_mph_;
    std::unordered_map<std::string, roads::ParsedClass> classes_;
    std::unordered_map<std::string, roads::OneWay> one_ways_;
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
        if (count < 2) return set_aside(record, "its line has fewer than two points");
        xs_.resize(count);
        ys_.resize(count);
        line.getPoints(xs_.data(), sizeof(double), ys_.data(), sizeof(double));
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

RoadsRead read_roads(const RoadChoice& choice, const Task& task) {
    if (is_osm(choice.layer.path)) return read_osm_roads(choice.layer.path, task);
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

    while (auto record = source.next()) {
        if (out.records % 4096 == 0)
            task.at("reading roads", source.expected_records() > 0 ? static_cast<double>(out.records) / static_cast<double>(source.expected_records()) : 0.0);
        const auto a = attributes.read(*record, out.records);
        shapes.add(record->GetGeometryRef(), a, out.records);
        ++out.records;
    }
    source.check_units();
    if (out.lines.count() == 0) {
        if (out.flaws.empty()) source.fail(std::nullopt, "it has no records", "Export it again with its records");
        source.fail(out.flaws.front().record, fmt::format("none of its {} lines can be used; the first: {}", out.records, out.flaws.front().wrong),
                    "Check that it is a file of road lines and that its coordinate system is right");
    }
    return out;
}

}  // namespace otoro::files
