#pragma once
/// \file
/// Lengths that a file states, compared with the lines that it draws.
///
/// \par Problem
/// A column of lengths may be in feet under a heading that says nothing, or in degrees or web metres because a program
/// worked it out in the coordinates of the file. Said road by road that is ten thousand flaws; it is one.
///
/// \par Method
/// The unit in which most lengths agree with the drawn ones is the column's. Where there is one, roads that still
/// disagree are listed; where there is none, the column is.
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "geo/flaw.h"
#include "geo/position.h"

namespace otoro::files {

class LengthColumn {
public:
    /// \param heading of the column; empty if there is none
    explicit LengthColumn(std::string heading) : heading_(std::move(heading)) {}
    /// \param metres_each what the unit that the value names is in metres; 0 if it names none \param vertices of the
    /// drawn line, one part after another
    void add(std::int64_t record, double number, double metres_each, double drawn_metres,
             std::span<const geo::LonLat> vertices);
    /// Lists what does not agree.
    void tell(const std::string& file, FlawList& flaws) const;

private:
    struct Road {
        std::int64_t record;
        double number, metres_each, drawn, degrees, web_metres;
    };
    std::string heading_;
    std::vector<Road> roads_;
};

}  // namespace otoro::files
