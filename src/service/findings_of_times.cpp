#include <algorithm>
#include <map>

#include "geo/error.h"
#include "geo/wording.h"
#include "service/people_over.h"
#include "service/telling.h"
#include "travel/stated_time.h"

namespace otoro::service {
namespace {

/// One line as read.
struct Timed {
    std::uint32_t line;
    std::string text;
    std::optional<double> kmh;  ///< of a doubted time, which counts; nothing where it is none, and does not
    [[nodiscard]] bool doubted() const { return kmh.has_value(); }
};

/// Lines whose times are none, and those whose times are doubted, ascending.
std::vector<Timed> found_in(const RoadsIn& roads, const Task& task) {
    std::map<std::uint32_t, Timed> out;
    for (const Flaw& f : roads.origin.flaws)
        if (f.kind == FlawKind::no_time && f.place && *f.place < roads.lines->count())
            out.try_emplace(*f.place, Timed{*f.place, f.wrong, std::nullopt});
    const auto& left_aside = roads.preparation.by_speed;
    for (std::uint32_t line = 0; line < roads.lines->count(); ++line) {
        if (line % 65'536 == 0) task.check();
        if (std::binary_search(left_aside.begin(), left_aside.end(), line)) continue;
        if (const auto doubt = travel::doubt_of(*roads.lines, line))
            out.insert_or_assign(line, Timed{line, describe(*doubt), doubt->kmh});
    }
    std::vector<Timed> found;
    found.reserve(out.size());
    for (auto& entry : out) found.push_back(std::move(entry.second));
    return found;
}

/// Who comes over each of them today, as the question in sight travels; nobody while it cannot be asked, or where
/// stated times do not count for its traveller.
PeopleOver people_over_each(const Study& study, const Checked& c, const std::vector<Timed>& found, const Task& task) {
    RoadGroups groups;
    groups.count = static_cast<std::uint32_t>(found.size());
    PeopleOver nobody{std::vector<Tally>(found.size()), {}};
    const auto inputs = study.inputs();
    if (!inputs || !travel::heeds_stated_times(study.question().profile, study.roads->lines->times_of)) return nobody;
    for (std::uint32_t i = 0; i < c.network->link_count(); ++i) {
        const auto line = c.network->lines().as_read(i);
        const auto at = std::lower_bound(found.begin(), found.end(), line,
                                         [](const Timed& t, std::uint32_t l) { return t.line < l; });
        groups.of_link.push_back(at != found.end() && at->line == line ? static_cast<std::uint32_t>(at - found.begin())
                                                                       : RoadGroups::kNone);
    }
    try {
        const auto ready = prepare(*inputs, study.question(), nullptr, task.quietly());
        return people_over(*ready, answer(*ready, Plan{}, task.quietly()), {}, groups, task.quietly());
    } catch (const InputError&) {  // its own window says what the question lacks
        return nobody;
    }
}

}  // namespace

void tell_stated_times(std::vector<Finding>& out, const Study& study, const Checked& c, const Task& task) {
    const auto found = found_in(*study.roads, task);
    std::uint64_t unlisted = 0;
    for (const Flaw& flaw : study.roads->origin.flaws)
        if (flaw.kind == FlawKind::no_time) unlisted += static_cast<std::uint64_t>(flaw.more);
    if (found.empty() && unlisted == 0) return;
    const auto over = people_over_each(study, c, found, task);
    Finding f;
    f.kind = FindingKind::stated_times;
    f.about = "roads";
    UseSpeeds all;
    std::uint64_t none = unlisted;
    double slowest = 0, fastest = 0;
    std::vector<std::size_t> order(found.size());
    for (std::size_t i = 0; i < found.size(); ++i) {
        order[i] = i;
        none += found[i].doubted() ? 0 : 1;
        if (!found[i].doubted()) continue;
        slowest = all.lines.empty() ? *found[i].kmh : std::min(slowest, *found[i].kmh);
        fastest = std::max(fastest, *found[i].kmh);
        all.lines.push_back(found[i].line);
    }
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return over.of_group[a].weight > over.of_group[b].weight; });
    if (order.size() > Finding::kMostItems) order.resize(Finding::kMostItems);
    for (const std::size_t i : order) {
        const auto& name = study.roads->lines->names.at(study.roads->lines->attributes[found[i].line].name);
        const auto shape = study.roads->lines->shape(found[i].line);
        f.items.push_back({fmt::format("{}: {}", name.empty() ? "a road without a name" : name, found[i].text),
                           shape[shape.size() / 2], std::nullopt, over.of_group[i].weight,
                           found[i].doubted() ? std::optional<Fix>(UseSpeeds{{found[i].line}}) : std::nullopt});
    }
    f.count = static_cast<std::uint32_t>(found.size() + unlisted);
    f.weight = over.any.weight;
    f.places = over.any.places;
    const auto doubted = all.lines.size();
    const std::string least = travel::describe_speed(slowest), most = travel::describe_speed(fastest);
    if (doubted > 0)
        f.sentence = fmt::format("{} hard to believe, {}{}",
                                 doubted == 1 ? "1 road has a time" : said_whole(doubted) + " roads have times", least,
                                 least == most ? "" : " to " + most);
    if (none > 0)
        f.sentence += fmt::format("{}{} minutes that are no time", doubted > 0 ? "; " : "",
                                  plural(none, "road has", "roads have"));
    if (f.weight.count() > 0) {
        auto who = weight_name(study.demand_of(study.question()));
        if (who.empty() || !study.question().by_weight) who = "weight";
        f.sentence += fmt::format("; {} {} come over {}", describe(f.weight), who, f.count == 1 ? "it" : "them");
    }
    if (!all.lines.empty()) {
        f.fix_label = all.lines.size() == 1 ? "Use its speed instead" : "Use their speeds instead";
        f.fix = std::move(all);
    }
    out.push_back(std::move(f));
}

}  // namespace otoro::service
