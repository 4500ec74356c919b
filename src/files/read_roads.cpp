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

#include "files/arrow_records.h"
#include "files/length_column.h"
#include "files/road_attributes.h"
#include "geo/amounts.h"
#include "geo/ellipsoid.h"
#include "geo/error.h"
#include "roads/network.h"
#include "travel/stated_time.h"

namespace otoro::files {
namespace {

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
        line.getPoints(xs_.data(), sizeof(double), ys_.data(), sizeof(double), zs_.empty() ? nullptr : zs_.data(),
                       sizeof(double));
        add_points(a, record);
        zs_.clear();
    }

    /// The points in `xs_` and `ys_`.
    void add_points(const roads::Attributes& a, std::int64_t record) {
        const std::size_t count = xs_.size();
        if (count < 2) return set_aside(record, "its line has fewer than two points");
        if (!source_.to_lon_lat(count, xs_.data(), ys_.data()))
            return set_aside(record, "its line has a point that is not on the globe or not a number");
        shape_.clear();
        heights_.clear();
        for (std::size_t i = 0; i < count; ++i) {
            const geo::LonLat p{xs_[i], ys_[i]};
            if (!shape_.empty() && shape_.back() == p) continue;
            shape_.push_back(p);
            if (!zs_.empty()) heights_.push_back(static_cast<float>(zs_[i]));
        }
        if (shape_.size() < 2) return set_aside(record, "its line has no length");
        if (std::any_of(shape_.begin(), shape_.end(), [](geo::LonLat p) { return std::abs(p.lat) > kFarthestNorth; }))
            return set_aside(record, kNearPole);
        if (too_long_for_a_road(shape_))
            return set_aside(record, fmt::format("its line is over {} long", describe(roads::kLongestLine)));
        if (out_.lines.vertices.size() + shape_.size() > 0xfffffff0U || out_.lines.count() >= 0x7ffffff0U)
            source_.fail(record, "it has more roads than can be numbered", "Add a part of it");
        if (heights_.empty())
            out_.lines.add(shape_, a);
        else
            out_.lines.add(shape_, a, heights_);
    }

    void set_aside(std::int64_t record, std::string wrong) {
        out_.flaws.push_back({source_.path(), record, "", std::move(wrong), true, FlawKind::shape, std::nullopt});
    }

    Source& source_;
    RoadsRead& out_;
    std::vector<double> xs_, ys_, zs_;
    std::vector<geo::LonLat> shape_;
    std::vector<float> heights_;
};

}  // namespace

namespace {

/// Says which of the lines from `first` on, all of one record, has a time that is hard to believe.
void tell_doubtful_time(RoadsRead& out, std::uint32_t first, const std::string& path, std::int64_t number) {
    for (std::uint32_t line = first; line < out.lines.count(); ++line)
        if (const auto doubt = travel::doubt_of(out.lines, line)) {
            out.flaws.push_back(
                {path, number, "", "its " + describe(*doubt) + "; they count", false, FlawKind::doubtful_time, line});
            return;
        }
}

/// One layer, added to what was read before it.
void read_layer(const LayerChoice& choice, const std::optional<RoadFields>& fields, RoadsRead& out, const Task& task) {
    Source source(choice, Shape::line, task);
    out.fields = fields ? *fields : guess_road_fields(source.fields());
    AttributeReader attributes(source, out.fields, out);
    if (choice.filter.empty() && !source.is_table()) ignore_other_fields(source, out.fields);
    ShapeReader shapes(source, out);
    if (source.expected_records() > 0) {
        const auto count = static_cast<std::size_t>(std::min<std::int64_t>(source.expected_records(), 0x7fffffff));
        out.lines.attributes.reserve(out.lines.count() + std::min(count, most_vertices(choice.path)));
        out.lines.first.reserve(out.lines.count() + std::min(count + 1, most_vertices(choice.path)));
    }
    out.lines.vertices.reserve(out.lines.vertices.size() + most_vertices(choice.path));

    LengthColumn lengths(out.fields.length);
    const std::uint32_t lines_before = out.lines.count();
    std::int64_t read = 0;
    const auto read_all = [&](auto& records, auto&& shape_of, auto&& number_of) {
        while (records.next()) {
            if (read % 4096 == 0)
                task.at("reading roads",
                        source.expected_records() > 0
                            ? static_cast<double>(read) / static_cast<double>(source.expected_records())
                            : 0.0);
            const std::int64_t number = number_of(read);
            auto a = attributes.read(records, number);
            a.name = attributes.name(records);
            const std::uint32_t first = out.lines.count();
            shapes.add(shape_of(records), a, number);
            if (attributes.back_ms() != 0 || !out.lines.against_ms.empty()) {
                out.lines.against_ms.resize(first, 0);
                out.lines.against_ms.resize(out.lines.count(), attributes.back_ms());
            }
            ++read;
            if (out.lines.count() == first) continue;
            attributes.tell_times(number, first);
            share_times(out.lines, first, a.fixed_ms, attributes.back_ms());
            tell_doubtful_time(out, first, source.path(), number);
            const auto drawn = [&] {
                double metres = 0;
                for (std::uint32_t l = first; l < out.lines.count(); ++l)
                    metres += geo::line_length(out.lines.shape(l)).metres();
                return metres;
            };
            attributes.count_unknown(drawn);
            if (const auto stated = attributes.stated_length(records))
                lengths.add(number, stated->number, stated->metres_each, drawn(),
                            std::span(out.lines.vertices).subspan(out.lines.first[first]));
        }
    };
    const auto in_columns =
        choice.filter.empty() && !source.is_table() ? ArrowRecords::open(source, columns(out.fields)) : nullptr;
    if (in_columns) {
        read_all(
            *in_columns, [](const ArrowRecords& r) { return r.wkb(); }, [](std::int64_t n) { return n; });
    } else {
        FeatureRecords one_by_one(source, out.fields);
        read_all(
            one_by_one, [](FeatureRecords& r) { return r.geometry(); }, [&](std::int64_t) { return source.record(); });
    }
    source.check_units();
    lengths.tell(source.path(), out.flaws);
    for (const auto& said : {source.remarks(), attributes.remarks()})
        out.remarks.insert(out.remarks.end(), said.begin(), said.end());
    out.records += read + source.left_out();
    out.left_out += source.left_out();
    if (out.crs.empty()) out.crs = source.crs();
    if (out.lines.count() == lines_before) {
        if (out.flaws.empty()) source.fail(std::nullopt, "it has no records", "Export it again with its records");
        source.fail(out.flaws.back().record,
                    fmt::format("none of its {} lines can be used; the last: {}", read, out.flaws.back().wrong),
                    "Check that it is a file of road lines and that its coordinate system is right");
    }
}

/// Heights that are all zero or missing say nothing.
void drop_empty_heights(roads::Lines& lines) {
    if (!lines.heights.empty() &&
        std::none_of(lines.heights.begin(), lines.heights.end(), [](float h) { return std::isfinite(h) && h != 0; }))
        lines.heights = {};
}

}  // namespace

namespace {

/// What an OpenStreetMap file does not have is refused when it is named: nobody should believe that it counted.
void check_osm_choice(const RoadChoice& choice) {
    const auto refuse = [&](const std::string& wrong, const char* remedy) {
        throw InputError({choice.layer.path, std::nullopt, wrong, remedy});
    };
    if (!choice.more.empty())
        refuse("OpenStreetMap roads join by node and cannot be merged with other layers", "Add it alone");
    if (!choice.layer.filter.empty())
        refuse("an OpenStreetMap file cannot be filtered",
               "Leave the filter out; travel profiles say which classes are used");
    if (!choice.layer.crs.empty())
        refuse(fmt::format("an OpenStreetMap file is in degrees, and in no other coordinate system such as {}",
                           choice.layer.crs),
               "Leave the coordinate system out");
    if (!choice.layer.layer.empty() && choice.layer.layer != "roads")
        refuse(fmt::format("an OpenStreetMap file has no layer '{}': its roads are one", choice.layer.layer),
               "Leave the layer out");
    if (!choice.fields) return;
    for (const auto& c : choice.fields->columns())
        if (!c.empty())
            refuse(fmt::format("an OpenStreetMap file has tags, and no field '{}' to choose", c),
                   "Leave the fields out; what tags mean is in docs/semantics.md");
    if (!choice.fields->words.empty())
        refuse("the words of OpenStreetMap's tags have their meaning, and take no other", "Leave the words out");
}

}  // namespace

bool too_long_for_a_road(std::span<const geo::LonLat> line) {
    // A degree is nowhere longer than this, so that few need to be measured.
    constexpr double kMetresOfDegree = 111'700;
    double degrees = 0;
    for (std::size_t i = 1; i < line.size(); ++i)
        degrees += std::abs(line[i].lon - line[i - 1].lon) + std::abs(line[i].lat - line[i - 1].lat);
    return degrees * kMetresOfDegree > roads::kLongestLine.metres() && geo::line_length(line) > roads::kLongestLine;
}

RoadsRead read_roads(const RoadChoice& choice, const Task& task) {
    RoadsRead out;
    if (is_osm(choice.layer.path)) {
        check_osm_choice(choice);
        out = read_osm_roads(choice.layer.path, task);
    } else {
        read_layer(choice.layer, choice.fields, out, task);
        for (const auto& more : choice.more) read_layer(more, choice.fields, out, task);
        drop_empty_heights(out.lines);
    }
    count_on_longitudes(out.lines);
    // What the format's driver used is free now, but the allocator would keep tens of megabytes of it from being used
    // for large arrays.
    ::malloc_trim(0);
    return out;
}

}  // namespace otoro::files
