#pragma once
/// \file
/// Invented land: where there is water, where people live, and how close the streets stand. All lengths in metres east
/// and north of an origin in the open ocean; nothing here is a real place.
#include <cmath>
#include <cstdint>
#include <random>
#include <string>
#include <vector>

#include "geo/position.h"

namespace demo {

struct Point {
    double x = 0;
    double y = 0;
};
inline Point operator+(Point a, Point b) { return {a.x + b.x, a.y + b.y}; }
inline Point operator-(Point a, Point b) { return {a.x - b.x, a.y - b.y}; }
inline Point operator*(Point a, double k) { return {a.x * k, a.y * k}; }
inline double length(Point a) { return std::sqrt(a.x * a.x + a.y * a.y); }
inline double dot(Point a, Point b) { return a.x * b.x + a.y * b.y; }

/// Repeatable random numbers, the same on every machine.
class Dice {
public:
    explicit Dice(std::uint64_t seed) : engine_(seed) {}
    double unit() { return static_cast<double>(engine_() >> 11U) * 0x1.0p-53; }
    double between(double a, double b) { return a + (b - a) * unit(); }
    std::size_t below(std::size_t n) { return static_cast<std::size_t>(unit() * static_cast<double>(n)); }
    bool chance(double p) { return unit() < p; }

private:
    std::mt19937_64 engine_;
};

enum class Kind { old_town, estate, village, country };

struct Town {
    Point centre;
    double radius = 0;
    double spacing = 0;  ///< between street corners
    Kind kind = Kind::estate;
    /// Distance from the centre, longer where the town has grown less.
    [[nodiscard]] double away(Point p) const;
};

/// A river that runs from east to west, wider towards its mouth.
struct River {
    double y = 0, swing = 0, wave = 1, phase = 0;
    double narrow = 45, mouth = 0, mouth_x = 0, reach = 1;
    [[nodiscard]] double centre(double x) const {
        return y + swing * std::sin(x / wave + phase) + 0.3 * swing * std::sin(2.4 * x / wave);
    }
    [[nodiscard]] double half_width(double x) const { return narrow + mouth * std::exp(-(x - mouth_x) / reach); }
};

struct Crossing {
    std::size_t river;
    double x;
    bool ferry;
};

struct Island {
    Point centre;
    double rx, ry;
    Point landfall;  ///< where its causeway meets the mainland
};

struct Terrain {
    std::string name;
    Point low, high;  ///< bounds
    double coast_x = -1e9;
    double country_spacing = 430;
    std::vector<Town> towns;
    std::vector<River> rivers;
    std::vector<Crossing> crossings;
    std::vector<Island> islands;

    [[nodiscard]] bool water(Point p) const;
    [[nodiscard]] double spacing(Point p) const;
    [[nodiscard]] Kind kind(Point p) const;
    [[nodiscard]] double coast(double y) const {
        return coast_x + 500 * std::sin(y / 2300) + 250 * std::sin(y / 900 + 1);
    }

    /// To be called once the towns are there, before `spacing` and `kind`: a county has a thousand of them, of which
    /// two or three matter anywhere.
    void index_towns();

private:
    [[nodiscard]] const std::vector<std::uint32_t>& towns_near(Point p) const;
    static constexpr double kCell = 1000;
    long wide_ = 0, high_ = 0;
    std::vector<std::vector<std::uint32_t>> towns_by_cell_;  ///< numbers of towns that may matter there, ascending
};

/// The demo district: about 6,000 links.
Terrain saltmere();
/// Many towns, about `links` links.
Terrain county(std::size_t links);

/// Metres to degrees, about 46.2 N 9.5 W.
otoro::geo::LonLat place(Point p);

}  // namespace demo
