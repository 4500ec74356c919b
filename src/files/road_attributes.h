#pragma once
/// \file
/// The fields of a record of roads as attributes. Used by read_roads.cpp alone.
#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "files/read_roads.h"
#include "geo/amounts.h"
#include "geo/error.h"
#include "roads/network.h"

namespace otoro::files {

/// What the fields of a record are wanted for, in this order.
enum Column : std::size_t {
    kClass,
    kName,
    kSpeed,
    kOneWay,
    kMinutes,
    kMinutesBack,
    kLength,
    kLevel,
    kBridge,
    kTunnel,
    kColumns
};
static_assert(kColumns == RoadFields::kColumns);

/// The formula that stands where a field's name might, or nothing.
std::optional<Expression> formula(const std::string& field);

/// The fields of the file that are needed, in the order of `Column`; behind them those that only formulas name.
std::vector<std::string> columns(const RoadFields& f);

/// One record after another through GDAL's features: every format can.
class FeatureRecords {
public:
    FeatureRecords(Source& source, const RoadFields& fields) : source_(source), record_(nullptr, nullptr) {
        for (const auto& name : columns(fields)) fields_.push_back(name.empty() ? -1 : source.field(name));
        texts_.resize(fields_.size());
    }
    bool next() {
        record_ = source_.next();
        return record_ != nullptr;
    }
    std::string_view text(std::size_t column) {
        const int field = fields_[column];
        if (field < 0) return {};
        if (field < record_->GetFieldCount()) {
            if (!record_->IsFieldSetAndNotNull(field)) return {};
            const auto type = record_->GetFieldDefnRef(field)->GetType();
            if (!source_.is_table() && (type == OFTString || type == OFTInteger || type == OFTInteger64))
                return record_->GetFieldAsString(field);
        }
        texts_[column] = source_.text(*record_, field);
        return texts_[column];
    }
    const OGRGeometry* geometry() { return source_.shape(*record_); }

private:
    Source& source_;
    std::vector<int> fields_;
    std::vector<std::string> texts_;
    std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> record_;
};

/// How the fields of a record become attributes, each distinct word parsed once.
class AttributeReader {
public:
    /// Looks at the columns that hold texts.
    AttributeReader(Source& source, const RoadFields& fields, RoadsRead& out);

    template <class Records>
    roads::Attributes read(Records& record, std::int64_t number) {
        roads::Attributes a;
        const std::string_view class_text = record.text(kClass);
        const Word& kind = word(classes_, class_text, [](Word& w, const std::string& text) {
            const auto parsed = parse_class_word(text);
            w.unknown = !parsed;
            if (parsed) w.road_class = *parsed;
        });
        a.road_class = kind.road_class.road_class;
        a.flags = kind.road_class.ramp ? static_cast<std::uint8_t>(roads::kRamp) : std::uint8_t{0};
        unknown_class_ = kind.unknown && class_counts_ ? &kind.text : nullptr;
        const Word& way = word(one_ways_, record.text(kOneWay), [this](Word& w, const std::string& text) {
            const auto parsed = one_way_words_.parse(text);
            w.unknown = !parsed;
            if (parsed) w.one_way = *parsed;
        });
        a.set_one_way(way.one_way, way.one_way);
        unknown_one_way_ = way.unknown ? &way.text : nullptr;
        if (formulas_[kSpeed]) {
            if (const auto v = worked_out(record, kSpeed))
                a.drive_speed = believable_speed(*v, 1, plain_number(*v), number);
        } else if (const auto text = record.text(kSpeed); !text.empty()) {
            a.drive_speed = speed(text, number);
        }
        no_times_.clear();
        a.fixed_ms = minutes(record, kMinutes);
        back_ms_ = minutes(record, kMinutesBack);
        if (a.fixed_ms == 0) a.fixed_ms = back_ms_;
        a.set_level(level(record));
        return a;
    }
    /// The time against the drawn direction of the record read last; 0 if none is stated.
    [[nodiscard]] std::uint32_t back_ms() const { return back_ms_; }
    /// Says which times of the record read last are none. \param line its first
    void tell_times(std::int64_t number, std::uint32_t line) {
        const char* const instead = out_.lines.attributes[line].fixed_ms != 0
                                        ? "; the time of the other direction counts for both"
                                        : "; its speed is used";
        for (const auto& wrong : no_times_)
            out_.flaws.push_back({source_.path(), number, "", wrong + instead, false, FlawKind::no_time, line});
    }
    /// Counts the words of the record read last that mean nothing here. \param metres of its roads
    void count_unknown(const std::function<double()>& metres);
    /// Whether the record read last has such a word.
    [[nodiscard]] bool any_unknown() const { return unknown_class_ != nullptr || unknown_one_way_ != nullptr; }

    /// The length that the record states, as it stands, and what its own unit is in metres (0 if it names none);
    /// nothing if it states none.
    struct StatedLength {
        double number = 0, metres_each = 0;
    };
    template <class Records>
    std::optional<StatedLength> stated_length(Records& record) {
        if (formulas_[kLength]) {
            const auto v = worked_out(record, kLength);
            return v && *v > 0 ? std::optional(StatedLength{*v, 1}) : std::nullopt;
        }
        if (names_[kLength].empty()) return std::nullopt;
        const auto written = written_in(record, kLength);
        if (!written || written->value <= 0) return std::nullopt;
        return StatedLength{written->value, written->unit.empty() ? 0 : metres_of(written->unit).value_or(0)};
    }
    template <class Records>
    std::uint32_t name(Records& record) {
        const auto text = record.text(kName);
        const bool plain =
            std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
        return plain ? out_.lines.names.add(text) : out_.lines.names.add(as_utf8(text));
    }
    /// What is to be said of how the columns were understood.
    [[nodiscard]] std::vector<std::string> remarks() const;

private:
    struct Word {
        std::string text;  ///< as it stands
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
        if (at != known.end()) return at->second;
        at = known.emplace(std::string(text), Word{}).first;
        at->second.text = as_utf8(text);
        const auto meaning = fields_.words.find(at->second.text);
        parse(at->second, meaning == fields_.words.end() ? at->second.text : meaning->second);
        return at->second;
    }

    /// The number that a formula gives.
    template <class Records>
    std::optional<double> worked_out(Records& record, std::size_t column) {
        const auto& wanted = formulas_[column]->fields();
        return formulas_[column]->number([&](std::size_t i) -> std::optional<FieldValue> {
            const auto at =
                static_cast<std::size_t>(std::find(names_.begin(), names_.end(), wanted[i]) - names_.begin());
            const auto text = record.text(at);
            if (text.empty()) return std::nullopt;
            return FieldValue{std::string(text), number_in(text, formats_[at])};
        });
    }
    /// A number with its unit, as its column writes them.
    template <class Records>
    std::optional<WrittenNumber> written_in(Records& record, std::size_t column) {
        return written(record.text(column), column);
    }
    [[nodiscard]] std::optional<WrittenNumber> written(std::string_view text, std::size_t column) const;

    template <class Records>
    std::uint32_t minutes(Records& record, std::size_t column) {
        if (formulas_[column]) {
            const auto v = worked_out(record, column);
            return v ? possible_minutes(*v, plain_number(*v)) : 0;
        }
        if (names_[column].empty()) return 0;
        const std::string_view text = record.text(column);
        return text.empty() ? 0 : minutes_in(text, column);
    }
    std::uint32_t minutes_in(std::string_view text, std::size_t column);
    /// In milliseconds; 0, and noted, where it is no time. \param text as it stands
    std::uint32_t possible_minutes(double v, const std::string& text);
    std::vector<std::string> no_times_;  ///< what is wrong with the times of the record read last

    /// A stated level that is not 0 counts; else a bridge is over, a tunnel under what it crosses.
    template <class Records>
    int level(Records& record) {
        int stated = 0;
        if (formulas_[kLevel])
            stated = static_cast<int>(std::lround(std::clamp(worked_out(record, kLevel).value_or(0), -8.0, 7.0)));
        else if (!names_[kLevel].empty())
            if (const auto text = record.text(kLevel); !text.empty()) stated = level_in(text);
        if (stated != 0) return stated;
        if (!names_[kBridge].empty() && says_yes(record.text(kBridge))) return 1;
        if (!names_[kTunnel].empty() && says_yes(record.text(kTunnel))) return -1;
        return 0;
    }
    /// A number, or a word of bridges and tunnels; whatever else it says is noted, and on the ground.
    [[nodiscard]] int level_in(std::string_view text);
    std::string no_level_;  ///< the first that says no level

    Speed speed(std::string_view text, std::int64_t number);
    /// \param kmh_each what one of the unit is in km/h
    Speed believable_speed(double v, double kmh_each, const std::string& text, std::int64_t number);
    void flaw(std::int64_t number, std::string wrong) {
        out_.flaws.push_back({source_.path(), number, "", std::move(wrong), false, FlawKind::speed, std::nullopt});
    }

    Source& source_;
    RoadsRead& out_;
    RoadFields fields_;
    std::vector<std::string> names_;
    std::vector<std::optional<Expression>> formulas_;
    std::vector<NumberFormat> formats_;  ///< one a column
    OneWayWords one_way_words_;
    std::uint32_t back_ms_ = 0;
    bool class_counts_ =
        false;  ///< whether a road without a class is worth a word: not where speeds or minutes say all there is
    double kmh_by_heading_ = 1, minutes_by_heading_ = 1;
    const std::string* unknown_class_ = nullptr;
    const std::string* unknown_one_way_ = nullptr;
    Words classes_, one_ways_;
};

}  // namespace otoro::files
