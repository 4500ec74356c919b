#pragma once
/// \file
/// Which columns of a file of roads say what, and what their words mean.
///
/// \par Problem
/// The same word means different things to different providers: `F` is *as drawn* to those who cut shapefiles from
/// OpenStreetMap (with `T` against and `B` both), and *false* to others. The words of a column are understood from all
/// of them together, and what was understood is told.
#include <array>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "files/column.h"
#include "roads/lines.h"
#include "roads/road_class.h"

namespace otoro::files {

/// Which field says what. An empty name means that there is none. Where a number is meant, a formula may stand instead
/// (expression.h), after an equals sign:
/// `= length_m / 1000 / kmh * 60`. A formula gives km/h, minutes or metres whatever its fields are called.
struct RoadFields {
    std::string road_class = {};
    std::string name = {};
    std::string speed = {};  ///< km/h, or mph if the field's name says so; a value that names its unit is in that unit.
                             ///< The speed as travelled
    std::string one_way = {};
    std::string minutes = {};       ///< time from end to end as drawn, and back too if `minutes_back` is not named
    std::string minutes_back = {};  ///< against the drawn direction
    std::string length = {};  ///< metres, or what the field's name says (km, mi, ft); only compared with the drawn line
    std::string level = {};   ///< a whole number; or a field called bridge or tunnel
    std::string bridge = {};  ///< whether it is a bridge: where `level` says nothing, over what it crosses
    std::string tunnel = {};  ///< whether it is a tunnel: under it
    std::map<std::string, std::string> words =
        {};  ///< what class and one-way words of the file mean here: `B Road` is `secondary`
    bool operator==(const RoadFields&) const = default;
    static constexpr std::size_t kColumns = 10;
    [[nodiscard]] std::array<std::string, kColumns> columns() const {
        return {road_class, name, speed, one_way, minutes, minutes_back, length, level, bridge, tunnel};
    }
};

RoadFields guess_road_fields(const std::vector<std::string>& fields);

/// What the one-way words of a column mean.
class OneWayWords {
public:
    /// \param column what its texts show; null for one that holds numbers
    explicit OneWayWords(const ColumnLook* column);
    [[nodiscard]] std::optional<roads::OneWay> parse(std::string_view word) const;
    /// How words that could mean two things were taken: `'B' both ways, 'F' as drawn, 'T' against`; empty if there are
    /// none.
    [[nodiscard]] const std::string& remark() const { return remark_; }

private:
    bool directions_ = false;  ///< F and T are ways along the line, not false and true
    std::string remark_;
};

/// A class as columns cut from OpenStreetMap write it too: `track_grade3` is a track. Nothing for a word that is not
/// known.
std::optional<roads::ParsedClass> parse_class_word(std::string_view word);

/// Whether a word says yes: `T`, `yes`, `1`, or anything that names a kind (`viaduct`). `no`, `F`, `0`, `-1` and
/// nothing say no.
bool says_yes(std::string_view word);

/// What a field of speeds, lengths or minutes is in, by its heading: `Speed_Mph`, `speedMph`, `MPH`.
bool heading_says_mph(std::string_view heading);
double metres_by_heading(std::string_view heading);
double minutes_by_heading(std::string_view heading);
/// Whose a column's minutes are: `walk_minutes` and `foot_min` are walkers', `bike_minutes` and `cycle_min` cyclists',
/// all others vehicles'.
roads::TimesOf times_by_heading(std::string_view heading);

/// A unit of speed, in km/h; of length, in metres; of time, in minutes; nothing for another word.
std::optional<double> kmh_of(std::string_view unit);
std::optional<double> metres_of(std::string_view unit);
std::optional<double> minutes_of(std::string_view unit);

}  // namespace otoro::files
