#include "files/route_table.h"

#include <fmt/format.h>

namespace otoro::files {

std::string driven_length(Millimetres length) {
    return length < Millimetres::metres(1000) ? fmt::format("{:.0f} m", length.metres())
                                              : fmt::format("{:.2f} km", length.kilometres());
}

std::string route_text(const service::Itinerary& way, const std::vector<service::Stop>& stops) {
    std::string out = fmt::format("{:.1f} min, {:.2f} km over stops", way.time.minutes(), way.distance.kilometres());
    for (const auto i : way.order) out += fmt::format(" {}", i + 1);
    out += "\n";
    const auto name = [&](std::size_t i) {
        return stops[i].name.empty() ? fmt::format("stop {}", i + 1) : fmt::format("stop {}, {}", i + 1, stops[i].name);
    };
    for (std::size_t leg = 0; leg < way.legs.size(); ++leg) {
        const auto& l = way.legs[leg];
        if (way.legs.size() > 1)
            out += fmt::format("{} to {}: {:.1f} min, {}\n", name(way.order[leg]), name(way.order[leg + 1]),
                               l.time.minutes(), driven_length(l.distance));
        for (std::size_t i = l.first_step; i < way.end_of_steps(leg); ++i) {
            const auto& s = way.steps[i];
            out +=
                fmt::format("  {} {}, {}, {:.1f} min\n", describe(s.turn), s.road.empty() ? "an unnamed road" : s.road,
                            driven_length(s.distance), s.time.minutes());
        }
    }
    return out;
}

ShapeTable route_table(const service::Itinerary& way) {
    using Kind = AnswerColumn::Kind;
    ShapeTable out;
    out.name = "route";
    out.kind = ShapeKind::line;
    out.columns = {{"minutes", "minutes", Kind::number}, {"metres", "metres", Kind::number}, {"stops", "stops"}};
    out.each_row = [&way](const std::function<void(const ShapeRow&)>& use) {
        ShapeRow row;
        std::string order;
        for (const auto i : way.order) order += fmt::format("{}{}", order.empty() ? "" : " ", i + 1);
        row.cells = {way.time.minutes(), way.distance.metres(), order};
        if (way.line.size() > 1) row.lines.push_back(way.line);
        use(row);
    };
    return out;
}

}  // namespace otoro::files
