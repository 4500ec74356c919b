#include "files/source.h"

#include <cpl_conv.h>
#include <cpl_string.h>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <limits>

#include "files/arrow_records.h"
#include "files/complaints.h"
#include "files/content.h"
#include "files/coordinate.h"
#include "files/dbf_text.h"
#include "files/epsg.h"
#include "files/inside.h"
#include "files/layer_names.h"
#include "files/open_file.h"
#include "files/source_opened.h"
#include "files/table_text.h"
#include "geo/amounts.h"
#include "geo/error.h"
#include "geo/text.h"
#include "geo/wording.h"

namespace otoro::files {
namespace {

constexpr std::size_t kRawSample = 64;
constexpr const char* kBroken = "It may be damaged or broken off; ask for it again, or export it again";

const char* noun(Shape s) {
    switch (s) {
        case Shape::point:
            return "points";
        case Shape::line:
            return "lines";
        case Shape::polygon:
            return "polygons";
        case Shape::mixed:
            return "mixed shapes";
        case Shape::none:
            return "no shapes";
    }
    return "";
}

}  // namespace

std::pair<std::string, std::string> guess_coordinates(const std::vector<std::string>& fields, bool in_metres) {
    const auto pairs = pairs_of(fields);
    if (pairs.empty()) return {};
    const Pair& best = best_of(pairs, in_metres);
    return {best.x, best.y};
}

Source::Source(const LayerChoice& choice, Shape wanted, const Task& task)
    : choice_(choice),
      shown_(as_utf8(without_password(choice.path))),
      transform_(nullptr, [](OGRCoordinateTransformation* t) { OGRCoordinateTransformation::DestroyCT(t); }) {
    opened_ = std::make_unique<Opened>(open_file(choice.path), task);
    dataset_ = opened_->file.dataset.get();
    choose_layer(wanted);
    auto names = names_of(*layer_, *dataset_);
    names_ = std::move(names.all);
    key_ = names.key;
    headings_ = names.headings;
    table_ = files::is_table(*layer_, *dataset_);
    if (!names.shapes.empty()) wkt_index_ = names.shapes.front();
    count_records_said();
    if (std::string_view(dataset_->GetDriverName()) == "ESRI Shapefile") {
        const auto* def = layer_->GetLayerDefn();
        for (int i = 0; i < def->GetFieldCount() && !opened_->digits; ++i)
            if (def->GetFieldDefn(i)->GetType() == OFTReal && def->GetFieldDefn(i)->GetPrecision() == 0)
                opened_->digits = DbfText::beside(choice.path);
    }
    if (!table_ && (!choice_.x_field.empty() || !choice_.y_field.empty()))
        fail(std::nullopt,
             fmt::format("it has places of its own, and takes none from a field such as '{}'",
                         choice_.x_field.empty() ? choice_.y_field : choice_.x_field),
             "Leave the fields of x and y out");
    find_crs();
    if (table_) {
        find_columns(wanted);
        look_at_table();
    }
    find_filter();
}

bool Source::fits(OGRLayer& layer, Shape wanted) const {
    if (wanted == Shape::none) return true;
    if (!files::is_table(layer, *dataset_)) {
        const Shape shape = shape_of(layer.GetGeomType());
        return shape == wanted || shape == Shape::mixed || (wanted == Shape::point && shape == Shape::polygon);
    }
    const Names names = names_of(layer, *dataset_);
    if (!names.shapes.empty()) {
        for (const auto& row : first_rows(layer))
            if (const auto g = shape_from(row[static_cast<std::size_t>(names.shapes[0])])) {
                const Shape shape = shape_of(g->getGeometryType());
                if (shape == wanted || (wanted == Shape::point && shape == Shape::polygon)) return true;
                break;
            }
    }
    return wanted == Shape::point &&
           (!choice_.x_field.empty() || !choice_.y_field.empty() || !pairs_of(names.all).empty());
}

void Source::choose_layer(Shape wanted) {
    std::vector<std::string> seen, aside;
    for (auto* layer : dataset_->GetLayers()) {
        const std::string name = as_utf8(layer->GetName());
        const char* what = files::is_table(*layer, *dataset_) ? "a table" : noun(shape_of(layer->GetGeomType()));
        seen.push_back(fmt::format("'{}' ({})", name, what));
        if (!choice_.layer.empty()) {
            if (layer_ != nullptr || choice_.layer != name) continue;
            layer_ = layer;
            if (!files::is_table(*layer, *dataset_) && !fits(*layer, wanted))
                fail(std::nullopt, fmt::format("layer '{}' has {} where {} are needed", name, what, noun(wanted)),
                     fmt::format("Choose a layer of {}", noun(wanted)));
            continue;
        }
        if (!fits(*layer, wanted)) continue;
        // Formats with fixed layers, such as GPX, have empty ones too.
        const auto records =
            dataset_->GetLayerCount() > 1 ? count_of(*layer, opened_->patience, opened_->task).value_or(-1) : -1;
        if (records == 0) continue;
        if (layer_ == nullptr)
            layer_ = layer;
        else
            aside.push_back(records > 0 ? fmt::format("'{}' ({} records)", name, records) : fmt::format("'{}'", name));
    }
    if (layer_ != nullptr) {
        if (!aside.empty())
            remarks_.push_back(fmt::format("of its layers the first that fits, '{}'; left aside: {}",
                                           as_utf8(layer_->GetName()), fmt::join(aside, ", ")));
        return;
    }
    if (!choice_.layer.empty())
        fail(std::nullopt, fmt::format("there is no layer '{}'", choice_.layer),
             fmt::format("It has {}", fmt::join(seen, ", ")));
    // The one table of a file that is one is taken, so that what it lacks can be said.
    if (dataset_->GetLayerCount() == 1 && files::is_table(*dataset_->GetLayer(0), *dataset_) &&
        wanted == Shape::point) {
        layer_ = dataset_->GetLayer(0);
        return;
    }
    fail(std::nullopt,
         fmt::format("it has no {}; it has {}", noun(wanted),
                     seen.empty() ? "no layers" : fmt::format("{}", fmt::join(seen, ", "))),
         fmt::format("Add a file of {}", noun(wanted)));
}

void Source::count_records_said() {
    if (is_table_format(*dataset_)) return;
    const Complaints quiet;
    const auto counted = count_of(*layer_, opened_->patience, opened_->task);
    if (!counted)
        fail(std::nullopt,
             fmt::format(
                 "the records of layer '{}' could not be counted in {} s: it is a view that takes long or never ends",
                 layer_->GetName(), counting_limit.count() / 1000),
             "Export what it shows as a table of its own");
    expected_ = *counted;
    // A service may not know how many there are, and GDAL says so as an error.
    if (reach_of(choice_.path) == Reach::service && !quiet.first().empty())
        expected_ = -1;
    else if (!quiet.first().empty())
        fail(std::nullopt, fmt::format("it cannot be read ({})", quiet.first()), kBroken);
    if (expected_ != 0) return;
    // What a layer says of itself may be out of date.
    layer_->ResetReading();
    const bool none = next_of(*layer_) == nullptr;
    layer_->ResetReading();
    if (none)
        fail(std::nullopt, fmt::format("layer '{}' is empty", as_utf8(layer_->GetName())),
             "Export it again with its records");
    expected_ = -1;
}

void Source::find_filter() {
    if (choice_.filter.empty()) return;
    filter_ = Expression::parse(choice_.filter);
    for (const auto& name : filter_->fields()) filter_fields_.push_back(required_field(name, "the filter"));
    look_at(filter_fields_);
}

bool Source::wanted(OGRFeature& record) const {
    return !filter_ || filter_->holds([&](std::size_t i) -> std::optional<FieldValue> {
        const int field = filter_fields_[i];
        std::string text = this->text(record, field);
        // A table cannot tell an empty cell from a missing value.
        if (text.empty() && (is_table() || !record.IsFieldSetAndNotNull(field))) return std::nullopt;
        return FieldValue{std::move(text), number(record, field)};
    });
}

Source::~Source() = default;
Source::Source(Source&&) noexcept = default;

void Source::check_stop() const { opened_->task.check(); }

void Source::fail(std::optional<std::int64_t> record, std::string wrong, std::string remedy) const {
    throw InputError({shown_, record, std::move(wrong), std::move(remedy)});
}

int Source::field(const std::string& name) const {
    for (std::size_t i = 0; i < names_.size(); ++i)
        if (names_[i] == name) return static_cast<int>(i);
    for (std::size_t i = 0; i < names_.size(); ++i)
        if (lower(names_[i]) == lower(name)) return static_cast<int>(i);
    return -1;
}

int Source::required_field(const std::string& name, const char* option) const {
    const int at = field(name);
    if (at < 0)
        fail(std::nullopt, fmt::format("there is no field '{}' for {}", name, option),
             fmt::format("It has {}", fmt::join(names_, ", ")));
    return at;
}

void Source::find_columns(Shape wanted) {
    if (wanted == Shape::none) {
        wkt_index_ = -1;
        return;
    }
    if (!choice_.x_field.empty() && !choice_.y_field.empty()) {
        x_index_ = required_field(choice_.x_field, "x");
        y_index_ = required_field(choice_.y_field, "y");
        wkt_index_ = -1;
        return;
    }
    auto pairs = pairs_of(names_);
    if (!choice_.x_field.empty())
        std::erase_if(pairs, [&](const Pair& p) { return lower(p.x) != lower(choice_.x_field); });
    if (!choice_.y_field.empty())
        std::erase_if(pairs, [&](const Pair& p) { return lower(p.y) != lower(choice_.y_field); });
    if (wkt_index_ >= 0 && (wanted != Shape::point || pairs.empty())) {
        remarks_.push_back(fmt::format("shapes from the texts in '{}'", names_[static_cast<std::size_t>(wkt_index_)]));
        return;
    }
    wkt_index_ = -1;
    if (wanted != Shape::point)
        fail(std::nullopt, fmt::format("no column of it has {} as well-known text", noun(wanted)),
             fmt::format("It has {}", fmt::join(names_, ", ")));
    if (pairs.empty())
        fail(std::nullopt, "no columns for longitude and latitude, or x and y, were found by name",
             fmt::format("Name them; it has {}", fmt::join(names_, ", ")));
    const Pair& best = best_of(pairs, projected_);
    x_index_ = required_field(best.x, "x");
    y_index_ = required_field(best.y, "y");
    for (const auto& p : pairs)
        if (p.x != best.x)
            remarks_.push_back(
                fmt::format("places from '{}' and '{}', not from '{}' and '{}'", best.x, best.y, p.x, p.y));
}

template <class Use>
void Source::each_raw(Use&& use) {
    layer_->ResetReading();
    std::int64_t row = 0;
    while (const auto record = next_of(*layer_)) {
        if (row % 4096 == 0) opened_->task.check();
        if (row++ >= headings_) use(*record);
    }
    layer_->ResetReading();
}

void Source::understand_numbers(int field, const ColumnLook& rest) {
    // Behind a coordinate stands a direction, and no unit.
    const bool is_coordinate = field == x_index_ || field == y_index_;
    understood_[field] = understand(looks_[field], rest, !is_coordinate);
}

void Source::look_at_table() {
    opened_->task.at("looking at the columns", 0.0);
    const int count = layer_->GetLayerDefn()->GetFieldCount();
    std::vector<ColumnLook> looks(static_cast<std::size_t>(count));
    each_raw([&](OGRFeature& record) {
        for (int i = 0; i < count; ++i)
            if (record.IsFieldSetAndNotNull(i)) looks[static_cast<std::size_t>(i)].add(record.GetFieldAsString(i));
    });
    // A longitude or latitude is no thousands.
    const auto in_degrees = [&](int field) { return field == x_index_ || field == y_index_ ? !projected_ : false; };
    for (int i = 0; i < count; ++i)
        if (in_degrees(i)) looks[static_cast<std::size_t>(i)].rule_out_thousands(360);
    for (int i = 0; i < count; ++i) looks_[i] = looks[static_cast<std::size_t>(i)];
    for (int i = 0; i < count; ++i) {
        ColumnLook rest;
        for (int k = 0; k < count; ++k)
            if (k != i) rest.add_witnesses_of(looks_[k]);
        understand_numbers(i, rest);
    }
    for (const int i : {x_index_, y_index_})
        if (const auto said = i >= 0 ? remark(i) : std::string(); !said.empty())
            remarks_.push_back(fmt::format("'{}' {}", names_[static_cast<std::size_t>(i)], said));
}

void Source::look_at(std::span<const int> fields) {
    std::vector<int> texts;
    for (const int f : fields)
        if (f >= 0 && f != key_ && !looks_.contains(f) &&
            layer_->GetLayerDefn()->GetFieldDefn(f)->GetType() == OFTString &&
            std::find(texts.begin(), texts.end(), f) == texts.end())
            texts.push_back(f);
    if (texts.empty()) return;
    opened_->task.at("looking at the columns", 0.0);
    std::vector<ColumnLook> looks(texts.size());
    if (!look_in_columns(texts, looks)) {
        const Complaints quiet;  // what breaks off here breaks off again, and is said then
        each_raw([&](OGRFeature& record) {
            for (std::size_t i = 0; i < texts.size(); ++i)
                if (record.IsFieldSetAndNotNull(texts[i])) looks[i].add(record.GetFieldAsString(texts[i]));
        });
    }
    for (std::size_t i = 0; i < texts.size(); ++i) looks_[texts[i]] = looks[i];
    for (const int f : texts) {
        ColumnLook rest;
        for (const auto& [other, look] : looks_)
            if (other != f) rest.add_witnesses_of(look);
        understand_numbers(f, rest);
    }
}

bool Source::look_in_columns(const std::vector<int>& fields, std::vector<ColumnLook>& looks) {
    if (table_ || !layer_->TestCapability(OLCIgnoreFields)) return false;
    std::vector<std::string> names;
    for (const int f : fields) names.push_back(names_[static_cast<std::size_t>(f)]);
    std::vector<const char*> others;
    for (int i = 0; i < layer_->GetLayerDefn()->GetFieldCount(); ++i)
        if (std::find(fields.begin(), fields.end(), i) == fields.end())
            others.push_back(layer_->GetLayerDefn()->GetFieldDefn(i)->GetNameRef());
    others.push_back("OGR_GEOMETRY");
    others.push_back(nullptr);
    layer_->ResetReading();
    layer_->SetIgnoredFields(others.data());
    bool done = false;
    {
        auto records = ArrowRecords::open(*this, names, false);
        for (std::int64_t row = 0; records && records->next(); ++row) {
            if (row % 4096 == 0) opened_->task.check();
            for (std::size_t i = 0; i < fields.size(); ++i) looks[i].add(records->text(i));
        }
        done = records != nullptr;
    }
    layer_->SetIgnoredFields(nullptr);
    layer_->ResetReading();
    return done;
}

const ColumnLook* Source::column(int field) const {
    const auto at = looks_.find(field);
    return at == looks_.end() ? nullptr : &at->second;
}

const NumberFormat& Source::format(int field) const {
    static const NumberFormat kPlain;
    const auto at = understood_.find(field);
    return at == understood_.end() ? kPlain : at->second.format;
}

std::string Source::remark(int field) const {
    const auto at = understood_.find(field);
    return at == understood_.end() ? std::string() : at->second.remark;
}

std::vector<std::string> Source::remarks() const {
    auto out = remarks_;
    if (opened_->file.text && opened_->file.text->lines_above > 0)
        out.push_back(fmt::format("its first {} line{} passed over", opened_->file.text->lines_above,
                                  opened_->file.text->lines_above == 1 ? "" : "s"));
    if (!directions_.empty())
        out.push_back(fmt::format("coordinates with letters of direction, such as '{}': west and south are below 0",
                                  directions_.substr(0, 40)));
    if (headings_ > 1) out.push_back(fmt::format("headings in row {}", headings_));
    if (empty_rows_ > 0) out.push_back(fmt::format("{} row{} empty", empty_rows_, empty_rows_ == 1 ? "" : "s"));
    return out;
}

void Source::find_crs() {
    OGRSpatialReference from;
    from.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    const OGRSpatialReference* own = layer_->GetSpatialRef();
    if (!choice_.crs.empty()) {
        crs_name_ = choice_.crs;
        from.importFromEPSG(parse_epsg(choice_.crs));
    } else if (own != nullptr) {
        from = *own;
        crs_name_ = own->GetName() != nullptr ? as_utf8(own->GetName()) : "";
        from.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    } else {
        assumed_degrees_ = true;
        return;
    }
    projected_ = from.IsProjected() != 0;
    OGRSpatialReference wgs84;
    wgs84.SetWellKnownGeogCS("WGS84");
    wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    if (from.IsSame(&wgs84)) return;
    Complaints complaints;
    transform_.reset(OGRCreateCoordinateTransformation(&from, &wgs84));
    if (!transform_)
        fail(std::nullopt,
             fmt::format("its coordinate system cannot be turned into longitude and latitude ({})", complaints.first()),
             "Give its EPSG code");
}

bool Source::is_empty_row(OGRFeature& record) const {
    for (int i = 0; i < record.GetFieldCount(); ++i)
        if (record.IsFieldSetAndNotNull(i) && !trimmed_text(record.GetFieldAsString(i)).empty()) return false;
    return true;
}

bool Source::count_is_exact() const { return std::string_view(dataset_->GetDriverName()) == "FlatGeobuf"; }

std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> Source::next() {
    while (true) {
        const Complaints complaints;
        auto record = next_of(*layer_);
        opened_->task.check();
        if (!record) {
            if (!complaints.first().empty())
                fail(read_, fmt::format("it cannot be read further ({})", complaints.first()), kBroken);
            if (count_is_exact() && expected_ >= 0 && read_ < expected_)
                fail(read_, fmt::format("it says it has {} records but ends here", said_whole(expected_)), kBroken);
            if (left_out_ > 0 && left_out_ + empty_rows_ == read_)
                fail(std::nullopt, fmt::format("the filter leaves none of its {} records", said_whole(left_out_)),
                     "Change the filter");
            return record;
        }
        if (!complaints.first().empty() && record->GetGeometryRef() == nullptr && !is_table())
            fail(read_, fmt::format("it cannot be read ({})", complaints.first()), kBroken);
        if (rows_++ < headings_) continue;
        ++read_;
        if (table_ && is_empty_row(*record)) {
            ++empty_rows_;
            continue;
        }
        if (wanted(*record)) return record;
        ++left_out_;
    }
}

bool Source::to_lon_lat(std::size_t count, double* x, double* y) {
    for (std::size_t i = 0; i < count; ++i)
        if (!std::isfinite(x[i]) || !std::isfinite(y[i])) return false;
    if (count > 0 && raw_sample_.size() < kRawSample) raw_sample_.push_back({x[0], y[0]});
    if (transform_) {
        Complaints quiet;
        if (!transform_->Transform(static_cast<int>(count), x, y)) return false;
    }
    for (std::size_t i = 0; i < count; ++i) {
        if (geo::on_the_globe({x[i], y[i]})) continue;
        if (off_globe_++ == 0) first_off_globe_ = {x[i], y[i]};
        return false;
    }
    ++on_globe_;
    return true;
}

void Source::check_units() const {
    if (!assumed_degrees_ || off_globe_ <= on_globe_) return;
    fail(std::nullopt,
         fmt::format("its coordinates, such as {:.1f}, {:.1f}, are not degrees and it names no coordinate system",
                     first_off_globe_.lon, first_off_globe_.lat),
         "Give its EPSG code, such as EPSG:27700");
}

const OGRGeometry* Source::shape(OGRFeature& record) {
    if (!table_) return record.GetGeometryRef();
    if (wkt_index_ < 0) return nullptr;
    from_text_ = shape_from(text(record, wkt_index_));
    return from_text_.get();
}

std::optional<geo::LonLat> Source::point(OGRFeature& record, std::string& wrong) {
    double x = 0;
    double y = 0;
    if (x_index_ >= 0) {
        const std::string tx = text(record, x_index_);
        const std::string ty = text(record, y_index_);
        if (tx.empty() || ty.empty()) {
            wrong = "its coordinates are empty";
            return std::nullopt;
        }
        const auto along = coordinate_in(tx, format(x_index_).decimals, Axis::east, !projected_);
        const auto up = coordinate_in(ty, format(y_index_).decimals, Axis::north, !projected_);
        if (!along.value || !up.value) {
            const auto plain = [](const Coordinate& c) { return c.value || c.wrong.ends_with("is not a number"); };
            if (plain(along) && plain(up))
                wrong = fmt::format("its coordinates '{}', '{}' are not numbers", tx.substr(0, 40), ty.substr(0, 40));
            else
                wrong = fmt::format("its coordinate {}", !along.value && !plain(along) ? along.wrong : up.wrong);
            return std::nullopt;
        }
        x = *along.value;
        y = *up.value;
        if (directions_.empty())
            for (const auto* t : {&tx, &ty})
                if (t->find_first_of("nNsSeEwWoO") != std::string::npos && !number_in(*t, {Decimals::either, {}}))
                    directions_ = *t;
    } else {
        const OGRGeometry* g = shape(record);
        if (g == nullptr && wkt_index_ >= 0 && !text(record, wkt_index_).empty()) {
            wrong = fmt::format("its shape '{}' is not well-known text", text(record, wkt_index_).substr(0, 40));
            return std::nullopt;
        }
        if (g == nullptr || g->IsEmpty()) {
            wrong = "it has no point";
            return std::nullopt;
        }
        const auto p = point_for(*g);
        if (!p) {
            const Shape s = shape_of(g->getGeometryType());
            wrong = s == Shape::polygon
                        ? "its polygon has no area"
                        : fmt::format("its shape is a {}, not a point or a polygon", g->getGeometryName());
            return std::nullopt;
        }
        x = p->lon;
        y = p->lat;
    }
    const double given_x = x;
    const double given_y = y;
    if (!to_lon_lat(1, &x, &y)) {
        wrong = fmt::format("its coordinates ({}, {}) are not on the globe", given_x, given_y);
        return std::nullopt;
    }
    return geo::LonLat{x, y};
}

}  // namespace otoro::files
