#pragma once
/// \file
/// Road lines as they were read, before anything is joined: the drawn shape and what the file says of each.
#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "geo/position.h"
#include "geo/units.h"
#include "roads/road_class.h"

namespace otoro::roads {

/// Who is kept off a road whatever its class. Bits of `Attributes::barred`.
enum Barred : std::uint8_t { kBarredDrive = 1, kBarredWalk = 2, kBarredCycle = 4 };
/// Bits of `Attributes::flags`.
enum RoadFlag : std::uint8_t {
    kRamp = 1,          ///< a slip road of its class
    kCycleAllowed = 2,  ///< bicycles expressly allowed where the class alone would not
};

/// What is known of one stretch of road. 16 bytes; a county has a million.
struct Attributes {
    RoadClass road_class = RoadClass::other;
    std::uint8_t barred = 0;
    std::uint8_t flags = 0;
    std::uint8_t one_way = 0;  ///< two OneWay values: vehicles in the low two bits, bicycles in the next two; the
                               ///< level, -8 to 7, in the upper four
    Speed drive_speed;         ///< as driven; not stated if the file says nothing
    std::uint32_t fixed_ms =
        0;                   ///< stated time end to end: a ferry's crossing, or minutes that the file gives; 0 if none
    std::uint32_t name = 0;  ///< into the name list; 0 is the empty name

    [[nodiscard]] OneWay drive_one_way() const { return static_cast<OneWay>(one_way & 3U); }
    [[nodiscard]] OneWay cycle_one_way() const { return static_cast<OneWay>((one_way >> 2U) & 3U); }
    void set_one_way(OneWay drive, OneWay cycle) {
        one_way = static_cast<std::uint8_t>((one_way & 0xf0U) | static_cast<unsigned>(drive) |
                                            (static_cast<unsigned>(cycle) << 2U));
    }
    /// How high the road lies over others that it crosses: 0 on the ground, 1 on a bridge, -1 in a tunnel.
    [[nodiscard]] int level() const { return static_cast<std::int8_t>(one_way) >> 4; }
    void set_level(int level) {
        one_way = static_cast<std::uint8_t>((one_way & 0x0fU) | (static_cast<unsigned>(level < -8  ? -8
                                                                                       : level > 7 ? 7
                                                                                                   : level)
                                                                 << 4U));
    }
};
static_assert(sizeof(Attributes) == 16);

/// Road names, each kept once.
class Names {
public:
    Names() { all_.emplace_back(); }
    std::uint32_t add(std::string_view name);
    [[nodiscard]] const std::string& at(std::uint32_t i) const { return all_[i]; }
    [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(all_.size()); }

private:
    std::vector<std::string> all_;
    struct Hash {
        using is_transparent = void;
        std::size_t operator()(std::string_view s) const { return std::hash<std::string_view>()(s); }
    };
    std::unordered_map<std::string, std::uint32_t, Hash, std::equal_to<>> known_;
};

/// Whose the minutes are that a file states for its roads. A ferry's are everybody's.
enum class TimesOf : std::uint8_t { vehicles, walkers, cyclists };

/// Two ends of a line that the source itself names (node numbers), so that nothing is joined by nearness.
struct NamedEnds {
    std::uint32_t from = 0;
    std::uint32_t to = 0;
};

/// One line travelled one way: twice its number, plus one if against the drawn direction.
struct LineWay {
    std::uint32_t bits = 0;
    static LineWay along(std::uint32_t line) { return {line * 2}; }
    static LineWay against(std::uint32_t line) { return {line * 2 + 1}; }
    [[nodiscard]] std::uint32_t line() const { return bits / 2; }
    [[nodiscard]] bool is_against() const { return bits & 1U; }
    auto operator<=>(const LineWay&) const = default;
};

/// A move from one line onto another that is forbidden where they meet.
struct TurnBan {
    LineWay from;
    LineWay to;
    auto operator<=>(const TurnBan&) const = default;
};

/// At least three lines that may not be travelled one right after another as a whole, although each move on its own may
/// be made: a restriction over a way. Travelling a part of it is allowed.
using BannedPath = std::vector<LineWay>;

/// A column store of lines. Line `i` has vertices `[first[i], first[i+1])` and `attributes[i]`. Columns that most files
/// have nothing for are empty then.
struct Lines {
    std::vector<geo::LonLat> vertices;
    std::vector<std::uint32_t> first{0};
    std::vector<Attributes> attributes;
    std::vector<NamedEnds> named_ends;  ///< empty, or one a line: then lines join where these numbers are equal
    std::vector<std::uint32_t>
        against_ms;  ///< empty, or one a line: its time against the drawn direction; 0 where `fixed_ms` holds both ways
    std::vector<float> heights;                ///< empty, or one a vertex, in metres; NaN where not known
    std::vector<geo::LonLat> traffic_signals;  ///< crossings with traffic signals
    std::vector<TurnBan> bans;                 ///< ascending
    std::vector<BannedPath> banned_paths;      ///< ascending
    std::vector<std::uint32_t>
        cut_from;  ///< empty, or one a line: which line as read it is a part of; `kAdded` for one that was added
    TimesOf times_of = TimesOf::vehicles;  ///< of `fixed_ms` and `against_ms`
    Names names;

    static constexpr std::uint32_t kAdded = 0xffffffff;

    [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(attributes.size()); }
    [[nodiscard]] std::span<const geo::LonLat> shape(std::uint32_t line) const {
        return std::span(vertices).subspan(first[line], first[line + 1] - first[line]);
    }
    /// The heights of a line's vertices; empty if the file has none.
    [[nodiscard]] std::span<const float> heights_of(std::uint32_t line) const {
        return heights.empty() ? std::span<const float>()
                               : std::span(heights).subspan(first[line], first[line + 1] - first[line]);
    }
    /// Which line as read a line is a part of.
    [[nodiscard]] std::uint32_t as_read(std::uint32_t line) const { return cut_from.empty() ? line : cut_from[line]; }
    /// \pre at least two vertices, all `on_the_globe`, longitudes perhaps counted on
    void add(std::span<const geo::LonLat> shape, const Attributes& a);
    /// The same with a height a vertex.
    void add(std::span<const geo::LonLat> shape, const Attributes& a, std::span<const float> vertex_heights);
};

/// Where lines lie on both sides of the 180th meridian, those east of it get longitudes beyond 180, so that what is
/// near is near in numbers too; lines drawn across it in one go are put right as well. Nothing happens to others.
void count_on_longitudes(Lines& lines);

/// Lines from `first` on are the parts of one: they share its stated time, and that against the drawn direction, by
/// length; together they take it exactly, but for parts so short that they take 1 ms. \param along 0 if none is stated
/// \param against 0 if it is that along
void share_times(Lines& lines, std::uint32_t first, std::uint32_t along, std::uint32_t against);

}  // namespace otoro::roads
