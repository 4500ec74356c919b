#pragma once
/// \file
/// Roads closed and turns that cost, for tests of small towns.
#include "support/asking.h"

namespace otoro::test {

/// A plan of closures alone.
inline service::Plan with(std::vector<roads::Closure> closures) { return {"p", {}, std::move(closures)}; }

/// Slowed it takes three times as long, delayed a minute.
inline roads::Closure drawn(roads::ClosureShape shape, std::initializer_list<At> at,
                            roads::ClosureEffect effect = roads::ClosureEffect::closed) {
    roads::Closure c{"c", shape, {}, effect, 3000, Millis(60'000)};
    for (const At p : at) c.vertices.push_back(place(p));
    return c;
}
inline roads::Closure closed_at(At p, roads::ClosureEffect effect = roads::ClosureEffect::closed) {
    return drawn(roads::ClosureShape::point, {p}, effect);
}

inline service::Question turning(Millis left, Millis right, Millis back = {}) {
    auto q = question_at_36();
    q.profile.turning = travel::Turning{left, {}, right, back, {}, travel::TurningBack::anywhere, true};
    return q;
}

}  // namespace otoro::test
