#include "service/network_summary.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/join_report.h"
#include "service/sentence.h"

namespace otoro::service {
namespace {

std::string n(std::uint64_t v) { return describe(Weight(static_cast<std::int64_t>(v) * 1'000'000)); }

std::string seconds(Millis t) { return describe(t); }

/// Which stated minutes count for the question's traveller.
std::string stated_minutes(const Study& study) {
    const auto& lines = *study.roads->lines;
    const auto aside = static_cast<std::int64_t>(study.roads->preparation.by_speed.size());
    const auto timed = std::count_if(lines.attributes.begin(), lines.attributes.end(),
                                     [](const roads::Attributes& a) {
                                         return a.fixed_ms != 0 && a.road_class != roads::RoadClass::ferry;
                                     }) -
                       aside;
    std::string by_speed =
        aside == 0 ? std::string()
                   : fmt::format("  Minutes stated by the file left aside by hand for {} {}, where speeds count.\n",
                                 n(static_cast<std::uint64_t>(aside)), aside == 1 ? "road" : "roads");
    if (timed <= 0) return by_speed;
    const auto& profile = study.question().profile;
    const char* const whose = lines.times_of == roads::TimesOf::walkers    ? "walkers"
                              : lines.times_of == roads::TimesOf::cyclists ? "cyclists"
                                                                           : "vehicles";
    const char* const why = profile.one_speed             ? "one speed for all roads is used instead"
                            : !profile.heeds_stated_speed ? "this profile does not use what the file states"
                                                          : "they are not this traveller's, who goes by speeds";
    return by_speed + fmt::format("  Minutes stated by the file for {} roads, those of {}: {}.\n",
                                  n(static_cast<std::uint64_t>(timed)), whose,
                                  heeds_stated_times(profile, lines.times_of)
                                      ? "they count"
                                      : std::string("they do not count; ") + why);
}

std::string roads_part(const Study& study, const Checked& c) {
    const auto& in = *study.roads;
    std::string s = fmt::format("Roads\n  From {}{}: {}.\n", in.origin.file,
                                in.origin.layer.empty() ? "" : ", layer " + in.origin.layer, in.origin.description);
    if (!in.origin.filter.empty()) s += fmt::format("  Only records with {}.\n", in.origin.filter);
    s += in.network->joints_named()
             ? std::string("  The source names which ends meet; nothing is joined by nearness.\n")
             : fmt::format("  Lines join {} (within about a millimetre).\n", clause(in.preparation.rule));
    s += fmt::format("  Gaps closed by hand: {}.\n", in.preparation.closed.size());
    for (const auto& g : in.preparation.closed)
        s += fmt::format("    {:.6f}, {:.6f} to {:.6f}, {:.6f}\n", g.from.lon, g.from.lat, g.to.lon, g.to.lat);
    s += fmt::format("  {} links, {} nodes, {} usable by this traveller; {} links are not for them.\n",
                     n(c.roads.links), n(c.roads.nodes), said_long(c.roads.length, 1), n(c.roads.left_out));
    s += fmt::format("  {} one-way links ({}). {} {}. {} dead ends.\n", n(c.roads.one_way_links),
                     said_long(c.roads.one_way_length, 1), n(c.roads.pieces.size()),
                     c.roads.pieces.size() == 1 ? "piece" : "pieces", n(c.dead_ends));
    for (std::size_t i = 0; i < std::min<std::size_t>(c.roads.pieces.size(), 10); ++i)
        s += fmt::format("    piece {}: {} {}, {}\n", i + 1, n(c.roads.pieces[i].links),
                         c.roads.pieces[i].links == 1 ? "link" : "links", said_long(c.roads.pieces[i].length, 2));
    s += fmt::format("  Gaps under {} still open: {}.\n", describe(study.gap_tolerance), c.gaps.size());
    s += fmt::format("  Heights: {}. Traffic signals: {}. Forbidden turns: {}, and {} over several roads.\n",
                     in.lines->heights.empty() ? "not known" : "known at every vertex",
                     n(in.lines->traffic_signals.size()), n(in.lines->bans.size()), n(in.lines->banned_paths.size()));
    s += stated_minutes(study);
    return s;
}

std::string attaching_part(const places::Attaching& a, Millimetres limit) {
    std::string s = fmt::format("attached to the nearest road within {}", describe(a.rule.limit.value_or(limit)));
    std::vector<std::string> never;
    for (std::size_t i = 0; i < roads::kRoadClasses; ++i)
        if (const auto c = static_cast<roads::RoadClass>(i); !a.rule.allows(c))
            never.emplace_back(name(c));
        else if (!a.rule.allows(c, true))
            never.push_back(fmt::format("{}_link", name(c)));
    if (!never.empty()) s += fmt::format(", never to {}", fmt::join(never, ", "));
    if (a.rule.least_piece.count() > 0)
        s += fmt::format(", only to pieces of {} or more", describe(a.rule.least_piece));
    if (!a.by_hand.empty()) s += fmt::format(", {} set by hand", a.by_hand.size());
    if (!a.road_names.empty()) s += ", to the road they name where it is within the limit";
    return s;
}

template <class In>
std::string set_part(const char* kind, const In& in, const CheckedSet* checked, Millimetres limit, std::size_t count) {
    std::string s =
        fmt::format("{}: {} ({} {}, from {}; {})\n  {}", kind, in.set->name, n(count), count == 1 ? "place" : "places",
                    in.origin.file, in.origin.description, attaching_part(in.set->attaching, limit));
    if (checked) {
        std::uint32_t attached = 0;
        Millimetres longest;
        for (const auto& a : checked->attached)
            if (a) {
                ++attached;
                longest = std::max(longest, a->off_road);
            }
        s += fmt::format("; {} attached, {} not, the longest off-road leg {:.0f} m", n(attached), n(count - attached),
                         longest.metres());
    }
    return s + ".\n";
}

}  // namespace

std::string describe(const travel::Profile& p) {
    std::string s = fmt::format("{}", label(p));
    if (p.one_speed) s += fmt::format(", at {} on all roads", describe(*p.one_speed));
    s += ".\n";
    const auto table = table_of(p);
    std::vector<std::string> may, may_not;
    for (std::size_t i = 0; i < table.size(); ++i) {
        const std::string word(name(static_cast<roads::RoadClass>(i)));
        if (!table[i].allowed)
            may_not.push_back(word);
        else
            may.push_back(p.one_speed
                              ? word
                              : fmt::format("{} {:g}", word, std::round(table[i].speed.km_per_hour() * 100) / 100));
    }
    s += fmt::format("  May use{}: {}.\n", p.one_speed ? "" : " (km/h)", fmt::join(may, ", "));
    if (!may_not.empty()) s += fmt::format("  May not use: {}.\n", fmt::join(may_not, ", "));
    const bool drives = p.mode == travel::Mode::drive || p.mode == travel::Mode::respond;
    if (drives && !p.one_speed) {
        s += p.heeds_stated_speed ? "  A speed that the file states is used instead"
                                  : "  Speeds that the file states are not used";
        s += p.heeds_stated_speed && p.mode == travel::Mode::respond ? ", 1.15 times" : "";
        s += "; slip roads at 0.7 of their class.\n";
    }
    s += obeys_one_way(p) ? "  One-way rules are obeyed.\n" : "  One-way rules are not heeded.\n";
    if (p.slope)
        s += "  Climbing costs time (Tobler 1993), where heights are known.\n";
    else if (p.mode == travel::Mode::walk)
        s += "  Climbing costs nothing, known heights or not.\n";
    const auto t = turning_of(p);
    if (!t.is_free())
        s += fmt::format(
            "  Turning costs: left {}, straight on {}, right {}, back {}; signals {}. Drivers may turn round: {}.\n",
            seconds(t.left), seconds(t.straight), seconds(t.right), seconds(t.back), seconds(t.signal),
            t.where_back == travel::TurningBack::anywhere    ? "on any road"
            : t.where_back == travel::TurningBack::dead_ends ? "only where the road ends"
                                                             : "no");
    else
        s += "  Turning costs nothing.\n";
    s += t.obeys_bans ? "  Forbidden turns are obeyed where the roads name them.\n"
                      : "  Forbidden turns are not heeded.\n";
    return s;
}

namespace {

/// Every question with its traveller, and how far its places are attached.
std::string questions_part(const Study& study) {
    std::string s;
    for (std::size_t i = 0; i < study.questions.size(); ++i) {
        const Question& q = study.questions[i];
        s += fmt::format("Question {}{}: {}\n", q.name, i == study.in_sight ? " (in sight)" : "",
                         sentence(q, study.demand_of(q)));
        const auto same =
            std::find_if(study.questions.begin(), study.questions.begin() + static_cast<std::ptrdiff_t>(i),
                         [&](const Question& o) { return o.profile == q.profile; });
        s += same != study.questions.begin() + static_cast<std::ptrdiff_t>(i)
                 ? fmt::format("Traveller: as of {}.\n", same->name)
                 : "Traveller: " + describe(q.profile);
        s += fmt::format("  Places are attached within {}; off-road legs {}.\n\n", describe(q.attach_limit),
                         q.off_road_speed ? fmt::format("count, at {}", describe(*q.off_road_speed))
                                          : std::string("are reported and not counted"));
    }
    return s;
}

std::string describe(const SiteChange& c) {
    const char* const what = c.change == Change::open    ? "opens"
                             : c.change == Change::close ? "closes"
                             : c.change == Change::move  ? "moves"
                                                         : "adds";
    return fmt::format("{} {}{}", what, c.site, c.set.empty() ? "" : " of the " + c.set);
}

std::string describe(const roads::Closure& c) {
    const char* const shape = c.shape == roads::ClosureShape::point  ? "at a point"
                              : c.shape == roads::ClosureShape::line ? "across a line"
                                                                     : "in an area";
    const std::string effect = c.effect == roads::ClosureEffect::closed ? std::string("shut")
                               : c.effect == roads::ClosureEffect::slowed
                                   ? fmt::format("slowed, {:g} times as long", c.factor_per_mille / 1000.0)
                                   : fmt::format("delayed by {}", otoro::describe(c.delay));
    return fmt::format("'{}' {}: {}", c.name, shape, effect);
}

/// What each plan does to sites and roads.
std::string plans_part(const Study& study) {
    constexpr std::size_t kMost = 40;
    std::string s;
    for (const Plan& plan : study.plans) {
        if (plan.is_today()) continue;
        std::vector<std::string> parts;
        for (const auto& c : plan.changes) parts.push_back(describe(c));
        for (const auto& c : plan.closures) parts.push_back(describe(c));
        const std::size_t all = parts.size();
        parts.resize(std::min(all, kMost));
        s += fmt::format("Plan {}: {}{}.\n", plan.name, fmt::join(parts, "; "),
                         all > kMost ? fmt::format("; and {} more", all - kMost) : "");
    }
    return s.empty() ? s : s + "\n";
}

}  // namespace

std::string network_summary(const Study& study, const Checked& checked) {
    std::string s = fmt::format("{}: what the answers rest on\n\n", study.name);
    if (study.roads && checked.network) s += roads_part(study, checked) + "\n";
    s += questions_part(study);
    s += plans_part(study);
    const Millimetres limit = study.question().attach_limit;
    const auto find = [](const std::map<std::string, CheckedSet>& all, const std::string& set) {
        const auto at = all.find(set);
        return at == all.end() ? nullptr : &at->second;
    };
    for (const auto& d : study.demand)
        s += set_part("Demand", d, find(checked.demand, d.set->name), limit, d.set->count());
    for (const auto& x : study.sites)
        s += set_part("Sites", x, find(checked.sites, x.set->name), limit, x.set->count());
    for (const auto& z : study.zones)
        s += fmt::format("Zones: {} ({} {}, from {}; {}).\n", z.set->name, n(z.set->zones.size()),
                         z.set->zones.size() == 1 ? "zone" : "zones", z.origin.file, z.origin.description);
    if (study.pairs) s += fmt::format("Pairs: {} ({}).\n", study.pairs->origin.file, study.pairs->origin.description);
    s += "Lengths are geodesic on WGS84, whatever the file's coordinate system.\n\n";
    const auto findings = findings_of(study, checked);
    s += fmt::format("Findings: {} open, {} accepted\n", count_open(findings), findings.size() - count_open(findings));
    for (const auto& f : findings)
        s += fmt::format("  {}{}\n", f.sentence,
                         f.accepted ? fmt::format(" (accepted{})", f.accepted->empty() ? "" : ": " + *f.accepted) : "");
    return s;
}

}  // namespace otoro::service
