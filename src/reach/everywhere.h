#pragma once
/// \file
/// All roads, those too that are not reached.
#include "reach/along_roads.h"
#include "roads/network.h"

namespace otoro::reach {

/// A value beyond every limit.
inline constexpr double kBeyond = 1e15;

/// Other values, with what they do not reach at `kBeyond`, and nobody's but number 0's.
class Everywhere final : public AlongRoads {
public:
    /// \pre both outlive this
    Everywhere(const AlongRoads& values, const roads::Network& network) : values_(values), network_(network) {}

    void stretches(LinkId link, std::vector<Stretch>& out) const override {
        thread_local std::vector<Stretch> known;
        values_.stretches(link, known);
        out.clear();
        double from = 0;
        const auto gap_to = [&](double to) {
            if (to > from) out.push_back({from, to, kBeyond, kBeyond, 0});
        };
        for (Stretch s : known) {
            gap_to(s.from);
            s.owner = 0;
            out.push_back(s);
            from = s.to;
        }
        gap_to(static_cast<double>(network_.length(link).count()));
    }
    [[nodiscard]] std::optional<PointValue> at(LinkId link, Millimetres offset) const override {
        const auto value = values_.at(link, offset);
        return PointValue{value ? value->value : kBeyond, 0};
    }

private:
    const AlongRoads& values_;
    const roads::Network& network_;
};

}  // namespace otoro::reach
