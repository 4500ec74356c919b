#pragma once
/// \file
/// How far the straight line misleads: the way of each place against the straight line to the site that serves it.
///
/// \par Cost
/// Linear in the places; some 20 ns each.
#include <array>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// Where one step of detours ends and the next begins, in times as far as the straight line.
inline constexpr std::array<double, 4> kDetourSteps{1.3, 1.6, 2, 3};

/// The number of the step of a detour.
inline std::size_t detour_step(double times) {
    std::size_t step = 0;
    while (step < kDetourSteps.size() && times >= kDetourSteps[step]) ++step;
    return step;
}

/// The way of one place.
struct Detour {
    DemandIndex place;
    SiteIndex site;
    Millimetres road, straight;
    [[nodiscard]] double times() const {
        return static_cast<double>(road.count()) / static_cast<double>(straight.count());
    }
    [[nodiscard]] Millimetres more() const { return road - straight; }
};

struct Detours {
    std::array<Tally, kDetourSteps.size() + 1>
        steps{};  ///< of what is served, a split place with its largest part; who stands at the site in none
    Wide road = 0, straight = 0;  ///< weight times length, in millionths times mm, of those
    std::vector<Detour> worst;    ///< with most length more than the straight line first; ties in file order
    /// How many times as far all go together, by weight; 0 if none does.
    [[nodiscard]] double times() const {
        return straight == 0 ? 0 : static_cast<double>(road) / static_cast<double>(straight);
    }
};

/// \param most how many of the worst are listed
Detours detours_of(const Ready& ready, const Outcome& outcome, std::size_t most);

}  // namespace otoro::service
