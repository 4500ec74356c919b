#pragma once
/// \file
/// An area on the ground: rings of longitude and latitude, inside by the even-odd rule, edges taken as straight in
/// degrees.
#include <vector>

#include "geo/position.h"

namespace otoro::geo {

struct Area {
    std::vector<std::vector<LonLat>> rings;  ///< outer rings and holes alike, each closed or not
    Box box;

    void add(std::vector<LonLat> ring) {
        for (const LonLat p : ring) box.add(p);
        rings.push_back(std::move(ring));
    }
    /// Linear in vertices.
    [[nodiscard]] bool contains(LonLat p) const {
        if (!box.contains(p)) return false;
        bool in = false;
        for (const auto& ring : rings)
            for (std::size_t i = 0, j = ring.size() - 1; i < ring.size(); j = i++) {
                const LonLat a = ring[i], b = ring[j];
                if ((a.lat > p.lat) != (b.lat > p.lat) &&
                    p.lon < (b.lon - a.lon) * (p.lat - a.lat) / (b.lat - a.lat) + a.lon)
                    in = !in;
            }
        return in;
    }
    bool operator==(const Area& o) const { return rings == o.rings; }
};

}  // namespace otoro::geo
