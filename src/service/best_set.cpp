#include "service/best_set.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <map>
#include <numeric>

#include "geo/ellipsoid.h"
#include "geo/wording.h"
#include "optimise/fewest.h"
#include "optimise/least_worst.h"
#include "optimise/most_cover.h"
#include "optimise/room_rows.h"
#include "service/access_legs.h"
#include "service/searching.h"
#include "service/sentence.h"
#include "service/site_blocks.h"
#include "service/travel_table.h"

namespace otoro::service {
namespace {

constexpr std::array<std::pair<Goal, std::string_view>, 6> kGoals{{{Goal::cover, "cover"},
                                                                   {Goal::backup, "backup"},
                                                                   {Goal::expected, "expected"},
                                                                   {Goal::travel, "travel"},
                                                                   {Goal::worst, "worst"},
                                                                   {Goal::fewest, "fewest"}}};

constexpr std::uint32_t kNoColumn = 0xFFFF'FFFFU;
/// As many pairs of a place and a site are held, where what each costs counts.
constexpr std::size_t kMostCosts = 400'000'000;
/// And where only who is within a limit does: a bit each.
constexpr std::size_t kMostBits = 16'000'000'000;

[[noreturn]] void refuse(std::string wrong, std::string todo) {
    throw InputError({"", std::nullopt, std::move(wrong), std::move(todo)});
}

}  // namespace

std::string_view name(Goal goal) {
    for (const auto& [g, word] : kGoals)
        if (g == goal) return word;
    return "";
}
std::optional<Goal> parse_goal(std::string_view word) {
    for (const auto& [g, w] : kGoals)
        if (w == word) return g;
    return std::nullopt;
}

double BestSet::gap() const {
    optimise::Chosen c;
    c.value = value;
    c.bound = bound;
    return c.gap();
}

double shown_value(const BestSet& set, Wide value) {
    const auto v = static_cast<double>(value);
    const double unit = set.measure == routing::Measure::time ? 60'000.0 : 1'000.0;  // ms a minute, mm a metre
    switch (set.goal) {
        case Goal::cover:
        case Goal::backup:
            return v / 1e6;
        case Goal::expected:
            return v / 1e6 / static_cast<double>(optimise::kWholeLevel);
        case Goal::travel:
            return v / 1e6 / unit;
        case Goal::worst:
            return v / unit;
        case Goal::fewest:
            return v;
    }
    return v;
}

std::string value_words(const BestSet& set, Wide value, const std::string& counted) {
    const double v = shown_value(set, value);
    const bool by_time = set.measure == routing::Measure::time;
    switch (set.goal) {
        case Goal::cover:
        case Goal::backup:
        case Goal::expected:
            return fmt::format("{} {}", describe(Weight(std::llround(v * 10) * 100'000)), counted);
        case Goal::travel:
            return by_time
                       ? fmt::format("{} min for {} in all", said_shortly(v, 1), counted)
                       : fmt::format("{} {} for {} in all", said_shortly(in_long_units(Millimetres::metres(1)) * v, 1),
                                     long_unit(), counted);
        case Goal::worst:
            return by_time ? describe(Millis(static_cast<std::int64_t>(value)))
                           : describe(Millimetres(static_cast<std::int64_t>(value)));
        case Goal::fewest:
            return fmt::format("{} site{}", static_cast<std::int64_t>(value), value == 1 ? "" : "s");
    }
    return "";
}

/// Columns are the sites in question that a road is near, in file order.
struct SetChooser::State {
    std::shared_ptr<const Ready> ready;
    Plan plan;
    std::vector<SiteOutcome> sites;
    std::vector<bool> open;  ///< by site
    std::shared_ptr<const CostedNetwork> costed;
    std::optional<SiteBlocks> blocks;
    std::vector<std::uint32_t> column_of;  ///< by site
    std::vector<SiteIndex> site_of;        ///< by column
    std::vector<std::int64_t> amounts;     ///< by place
    std::vector<std::uint32_t> places;     ///< all, as they lie together in memory
    std::vector<bool> reached;             ///< by place: by some site in question
    bool reach_known = false;
    // The last table of who is within a limit, and that of costs.
    std::optional<Amount> limit_of_covers;
    optimise::Covers covers;
    std::optional<optimise::Pairs> pairs;

    [[nodiscard]] std::uint32_t columns() const { return static_cast<std::uint32_t>(site_of.size()); }
    [[nodiscard]] bool counts(const ReachableSite& r) const {
        const Question& q = ready->question;
        return !(q.limit || q.own_limits) || outcome_of(q, sites, r).served();
    }
    [[nodiscard]] bool within(const ReachableSite& r, const Amount& limit) const {
        const bool by_time = ready->question.measure() == routing::Measure::time;
        return !is_beyond(Millis(by_time ? r.cost : r.other), Millimetres(by_time ? r.other : r.cost), limit);
    }
    void find_covers(const Amount& limit, const Task& task);
    void find_pairs(const Task& task);
};

SetChooser::~SetChooser() = default;
const std::vector<SiteOutcome>& SetChooser::sites() const { return state_->sites; }
bool SetChooser::is_open(SiteIndex site) const { return state_->open[site.value()]; }
bool SetChooser::in_question(SiteIndex site) const { return state_->column_of[site.value()] != kNoColumn; }

SetChooser::SetChooser(std::shared_ptr<const Ready> ready, Plan plan, const Task& task)
    : state_(std::make_unique<State>()) {
    State& s = *state_;
    auto with_candidates = std::make_shared<Ready>(*ready);
    with_candidates->question.use = SiteUse::open_and_candidate;
    s.ready = with_candidates;
    s.plan = std::move(plan);
    s.sites = attach_sites(*s.ready, s.plan);
    const auto open = sites_under(s.ready->inputs.sites, s.plan, SiteUse::open);
    for (std::uint32_t i = 0; i < s.sites.size(); ++i) {
        s.open.push_back(open[i].in_use);
        const bool in_question = s.sites[i].planned.in_use && s.sites[i].attachment;
        s.column_of.push_back(in_question ? s.columns() : kNoColumn);
        if (in_question) s.site_of.emplace_back(i);
    }
    const auto& demand = s.ready->inputs.demand;
    for (const auto& set : demand.sets())
        for (const auto& p : set->places)
            s.amounts.push_back((s.ready->question.by_weight ? p.weight : Weight::one()).count());
    s.reached.assign(s.amounts.size(), false);
    s.costed = costed_under(*s.ready, s.plan, task);
    s.blocks.emplace(*s.ready, s.costed, s.sites, task);
    std::vector<std::uint32_t> all(s.amounts.size());
    std::iota(all.begin(), all.end(), 0U);
    s.places = s.blocks->put_together(all);
}

void SetChooser::State::find_covers(const Amount& limit, const Task& task) {
    if (limit_of_covers == limit) return;
    constexpr std::size_t kBits = 64;
    const std::size_t words = (columns() + kBits - 1) / kBits;
    if (words * kBits > kMostBits / std::max<std::size_t>(1, places.size()))
        refuse(fmt::format("{} sites in question for {} places are more than can be held", columns(), places.size()),
               "Ask for fewer candidates");
    std::vector<std::uint64_t, HugePages<std::uint64_t>> bits(words * places.size());
    std::fill(bits.begin(), bits.end(), 0);
    std::vector<std::uint8_t> found_any(places.size(), 0);
    blocks->each(
        places, {},
        [&](std::size_t at, std::span<const ReachableSite> found) {
            for (const ReachableSite& r : found) {
                if (!counts(r)) continue;
                found_any[at] = 1;
                const std::uint32_t c = column_of[r.site];
                if (within(r, limit)) bits[at * words + c / kBits] |= std::uint64_t{1} << (c % kBits);
            }
        },
        [](std::span<const std::uint32_t>) {}, task);
    std::vector<std::uint32_t> at_of(places.size());
    for (std::uint32_t at = 0; at < places.size(); ++at) at_of[places[at]] = at;
    covers = {};
    std::vector<std::uint32_t> list;
    for (std::uint32_t i = 0; i < places.size(); ++i) {
        list.clear();
        for (std::size_t w = 0; w < words; ++w)
            for (std::uint64_t left = bits[at_of[i] * words + w]; left != 0; left &= left - 1)
                list.push_back(static_cast<std::uint32_t>(w * kBits) +
                               static_cast<std::uint32_t>(std::countr_zero(left)));
        covers.add_row(list);
        reached[i] = found_any[at_of[i]] != 0;
    }
    limit_of_covers = limit;
}

void SetChooser::State::find_pairs(const Task& task) {
    if (pairs) return;
    const std::size_t n = columns();
    if (n > kMostCosts / std::max<std::size_t>(1, places.size()))
        refuse(fmt::format("{} sites in question for {} places are more than the {} million pairs that can be held", n,
                           places.size(), kMostCosts / 1'000'000),
               "Ask for fewer candidates, or for most cover, which takes less");
    std::vector<std::uint32_t, HugePages<std::uint32_t>> costs(n * places.size());
    std::fill(costs.begin(), costs.end(), routing::kFar);
    blocks->each(
        places, {},
        [&](std::size_t at, std::span<const ReachableSite> found) {
            for (const ReachableSite& r : found)
                if (counts(r)) costs[at * n + column_of[r.site]] = r.cost;
        },
        [](std::span<const std::uint32_t>) {}, task);
    std::vector<std::uint32_t> at_of(places.size());
    for (std::uint32_t at = 0; at < places.size(); ++at) at_of[places[at]] = at;
    pairs.emplace();
    pairs->reserve(places.size(), static_cast<std::size_t>(std::count_if(costs.begin(), costs.end(),
                                                                         [](auto c) { return c != routing::kFar; })));
    std::vector<optimise::Pair> row;
    for (std::uint32_t i = 0; i < places.size(); ++i) {
        row.clear();
        for (std::uint32_t c = 0; c < n; ++c)
            if (const std::uint32_t cost = costs[at_of[i] * n + c]; cost != routing::kFar) row.push_back({c, cost});
        pairs->add_row(row);
        reached[i] = !row.empty();
    }
}

namespace {

/// A request turned into rules over columns, every contradiction named.
class RulesFrom {
public:
    RulesFrom(const BestSetAsked& asked, const std::vector<SiteOutcome>& sites, const std::vector<bool>& open,
              const std::vector<std::uint32_t>& column_of, const std::vector<SiteIndex>& site_of)
        : asked_(asked), sites_(sites), open_(open), column_of_(column_of), site_of_(site_of) {
        rules_.columns = static_cast<std::uint32_t>(site_of.size());
        for (std::uint32_t c = 0; c < rules_.columns; ++c)
            if (asked.keep_open && open[site_of[c].value()]) rules_.kept.push_back(c);
        named();
        distances();
        numbers();
    }
    [[nodiscard]] const optimise::ChoiceRules& rules() const { return rules_; }

private:
    [[nodiscard]] const std::string& id(SiteIndex s) const { return sites_[s.value()].planned.site.id; }
    [[nodiscard]] bool is(const std::vector<SiteIndex>& list, SiteIndex s) const {
        return std::find(list.begin(), list.end(), s) != list.end();
    }
    [[nodiscard]] bool is_kept(SiteIndex s) const { return asked_.keep_open && open_[s.value()]; }
    /// The column of a site that must be in question. \param what it is named as
    std::uint32_t column(SiteIndex s, const char* what) const {
        const std::uint32_t c = column_of_[s.value()];
        if (c != kNoColumn) return c;
        const SiteOutcome& site = sites_[s.value()];
        if (!site.planned.in_use)
            refuse(fmt::format("site {} is {} and is neither open nor a candidate", id(s), what),
                   "Make it a candidate, or leave it out");
        refuse(fmt::format("site {} is {} and no road that this traveller may use is near it", id(s), what),
               "Move it to a road, or leave it out");
    }
    void named() {
        for (const SiteIndex s : asked_.required) {
            if (is(asked_.forbidden, s))
                refuse(fmt::format("site {} is required and forbidden", id(s)), "Leave out one of the two");
            rules_.required.push_back(column(s, "required"));
        }
        for (const SiteIndex s : asked_.forbidden) {
            if (is_kept(s))
                refuse(fmt::format("site {} is forbidden and open, and open sites are kept", id(s)),
                       "Close it in the plan, or do not keep open sites");
            if (column_of_[s.value()] != kNoColumn) rules_.never.push_back(column_of_[s.value()]);
        }
        for (const auto& [a, b] : asked_.conflicts) {
            if (a == b) refuse(fmt::format("site {} is said to conflict with itself", id(a)), "Name two sites");
            if ((is(asked_.required, a) || is_kept(a)) && (is(asked_.required, b) || is_kept(b)))
                refuse(fmt::format("sites {} and {} conflict, and both are {}", id(a), id(b),
                                   is_kept(a) && is_kept(b) ? "kept" : "required"),
                       "Leave out one of the two");
            if (column_of_[a.value()] == kNoColumn || column_of_[b.value()] == kNoColumn) continue;
            rules_.apart.emplace_back(column_of_[a.value()], column_of_[b.value()]);
        }
        for (const auto& group : asked_.one_of) {
            optimise::Columns columns;
            std::vector<std::string> ids;
            for (const SiteIndex s : group) {
                ids.push_back(id(s));
                if (column_of_[s.value()] != kNoColumn && !is(asked_.forbidden, s))
                    columns.push_back(column_of_[s.value()]);
            }
            if (columns.empty())
                refuse(fmt::format("one of {} is to be open, and none of them can be", fmt::join(ids, ", ")),
                       "Name a candidate that is not forbidden");
            rules_.one_of.push_back(std::move(columns));
        }
    }
    void distances() {
        if (!asked_.apart) return;
        const auto position = [&](std::uint32_t c) { return *sites_[site_of_[c].value()].planned.site.position; };
        for (std::uint32_t a = 0; a < rules_.columns; ++a)
            for (std::uint32_t b = a + 1; b < rules_.columns; ++b) {
                const SiteIndex first = site_of_[a], second = site_of_[b];
                if (is_kept(first) && is_kept(second)) continue;
                if (std::abs(position(a).lat - position(b).lat) * kLeastMetresPerDegree > asked_.apart->metres())
                    continue;
                if (geo::distance(position(a), position(b)) >= *asked_.apart) continue;
                const auto must = [&](SiteIndex s) { return is(asked_.required, s) || is_kept(s); };
                if (must(first) && must(second))
                    refuse(fmt::format("sites {} and {} are to be open and nearer to one another than {}", id(first),
                                       id(second), describe(*asked_.apart)),
                           "Leave out one of the two, or allow a shorter distance");
                rules_.apart.emplace_back(a, b);
            }
    }
    void numbers() {
        const auto with = optimise::with_what_follows(rules_);
        std::vector<bool> out(rules_.columns, false);
        for (const std::uint32_t c : with.kept) out[c] = true;
        for (const std::uint32_t c : with.never) out[c] = true;
        const auto free = static_cast<std::uint32_t>(std::count(out.begin(), out.end(), false));
        std::uint32_t required = 0;
        for (const std::uint32_t c : rules_.required) {
            const bool kept = std::find(with.kept.begin(), with.kept.end(), c) != with.kept.end();
            if (!kept && out[c])
                refuse(fmt::format("site {} is required and may not stand beside one that is kept", id(site_of_[c])),
                       "Leave out one of the two");
            required += kept ? 0 : 1;
        }
        if (asked_.goal == Goal::fewest) {
            rules_.choose = rules_.columns;
        } else if (asked_.budget) {
            costs(out);
        } else {
            if (asked_.choose == 0) refuse("none is to be chosen", "Choose one at least");
            if (asked_.choose > free)
                refuse(free == 0
                           ? std::string("there is no candidate to choose from")
                           : fmt::format("{} are to be chosen, and there are {} to choose from", asked_.choose, free),
                       asked_.keep_open && free == 0 ? "Mark sites as candidates, or let open ones be chosen too"
                                                     : "Choose fewer, or add candidates");
            if (required > asked_.choose)
                refuse(fmt::format("{} are to be chosen, and {} are required", asked_.choose, required),
                       "Choose more, or require fewer");
            rules_.choose = asked_.choose;
        }
    }
    void costs(const std::vector<bool>& out) {
        Wide required = 0;
        for (std::uint32_t c = 0; c < rules_.columns; ++c) {
            const auto& site = sites_[site_of_[c].value()].planned.site;
            if (!out[c] && !site.cost)
                refuse(fmt::format("site {} may be chosen and has no cost", site.id),
                       "Give every candidate a cost, or choose by number");
            costs_.push_back(out[c] ? 0 : site.cost->count());
        }
        for (const std::uint32_t c : rules_.required) required += costs_[c];
        if (required > asked_.budget->count())
            refuse(fmt::format("those required cost {}, more than the budget of {}",
                               describe(Weight(static_cast<std::int64_t>(required))), describe(*asked_.budget)),
                   "Raise the budget, or require fewer");
        rules_.costs = costs_;
        rules_.budget = asked_.budget->count();
    }

    /// A degree of latitude is nowhere shorter.
    static constexpr double kLeastMetresPerDegree = 110'000;
    const BestSetAsked& asked_;
    const std::vector<SiteOutcome>& sites_;
    const std::vector<bool>& open_;
    const std::vector<std::uint32_t>& column_of_;
    const std::vector<SiteIndex>& site_of_;
    optimise::ChoiceRules rules_;
    std::vector<std::int64_t> costs_;
};

}  // namespace

BestSet SetChooser::best(const BestSetAsked& asked, const BestSetLimits& limits, const Task& task) {
    State& s = *state_;
    if (has_limit(asked.goal) && !asked.within)
        refuse("it is not said within what", "Say a limit, such as 8min or 2km");
    if (asked.heed_room && asked.goal != Goal::cover)
        refuse("room is heeded by most cover alone", "Ask for most cover, or let sites take all");
    if (asked.goal == Goal::expected && (asked.busy.ppm() < 0 || asked.busy >= Share::percent(100)))
        refuse("sites that are always busy serve nobody", "Say a busy share under 100 %");
    const RulesFrom from(asked, s.sites, s.open, s.column_of, s.site_of);
    const optimise::ChoiceRules& rules = from.rules();

    BestSet out;
    out.goal = asked.goal;
    out.measure = s.ready->question.measure();
    for (std::uint32_t i = 0; i < s.sites.size(); ++i)
        if (asked.keep_open && s.open[i]) out.kept.emplace_back(i);
    for (const std::int64_t a : s.amounts) out.all += Weight(a);
    const auto with = [&](const optimise::Columns& columns, Wide value, Wide bound, bool any) {
        BestSet set = out;
        for (const std::uint32_t c : columns) set.chosen.push_back(s.site_of[c]);
        set.value = value;
        set.bound = bound;
        set.any = any;
        return set;
    };
    bool left_off = false;
    const auto begun = std::chrono::steady_clock::now();
    const auto told = [&](const BestSet& set) {
        left_off = (limits.enough && limits.enough(set)) ||
                   (limits.most_time.count() > 0 && std::chrono::steady_clock::now() - begun >= limits.most_time);
        return left_off;
    };
    const optimise::ChoiceLimits choice{
        limits.gap, {}, [&](const optimise::Chosen& c) { return told(with(c.columns, c.value, c.bound, c.any)); }};
    if (has_limit(asked.goal)) {
        s.find_covers(*asked.within, task);
    } else {
        s.find_pairs(task);
    }
    // Who is reached by forbidden sites alone is reached by none that may be open.
    std::vector<bool> never(rules.columns, false);
    for (const std::uint32_t c : rules.never) never[c] = true;
    for (std::uint32_t i = 0; i < s.amounts.size(); ++i) {
        bool by_some = false;
        if (has_limit(asked.goal)) {
            const auto list = s.covers.of(i);
            by_some = std::any_of(list.begin(), list.end(), [&](std::uint32_t c) { return !never[c]; });
        } else {
            const auto list = s.pairs->of(i);
            by_some = std::any_of(list.begin(), list.end(), [&](const optimise::Pair& p) { return !never[p.column]; });
        }
        if (by_some) continue;
        Tally& into = has_limit(asked.goal) && s.reached[i] ? out.beyond_all : out.unreachable;
        ++into.places;
        into.weight += Weight(s.amounts[i]);
    }

    const auto finish = [&](const optimise::Chosen& c) {
        if (!c.any && c.columns.empty() && left_off)
            refuse("no set was found before the search was left off", "Allow it more time, or ask for fewer rules");
        if (!c.any && c.columns.empty())
            refuse("no set keeps to everything that is asked",
                   "Ask for less: fewer conflicts, a shorter distance apart, "
                   "or more sites");
        return with(c.columns, c.value, c.bound, c.any);
    };
    switch (asked.goal) {
        case Goal::cover: {
            if (!asked.heed_room) return finish(most_cover({s.amounts, s.covers, {1}}, rules, choice, task));
            std::vector<std::int64_t> room;
            for (const SiteIndex site : s.site_of) {
                const auto& capacity = s.sites[site.value()].planned.site.capacity;
                room.push_back(capacity ? capacity->count() : out.all.count());
            }
            return finish(most_cover_with_room(s.amounts, s.covers, room, rules, choice, task));
        }
        case Goal::backup:
            return finish(most_cover({s.amounts, s.covers, {1, 1}}, rules, choice, task));
        case Goal::expected:
            return finish(
                most_cover({s.amounts, s.covers, optimise::expected_levels(asked.busy)}, rules, choice, task));
        case Goal::travel: {
            const auto found = least_total({s.amounts, *s.pairs}, rules, choice, task);
            out.not_reached = Weight(static_cast<std::int64_t>(found.not_reached));
            out.least_not_reached = Weight(static_cast<std::int64_t>(found.least_not_reached));
            return finish(found.chosen);
        }
        case Goal::worst: {
            const auto found = least_worst({s.amounts, *s.pairs}, rules, choice, task);
            out.not_reached = Weight(static_cast<std::int64_t>(found.not_reached));
            out.least_not_reached = Weight(static_cast<std::int64_t>(found.least_not_reached));
            return finish(found.chosen);
        }
        case Goal::fewest:
            break;
    }
    const auto kept = static_cast<std::int64_t>(rules.kept.size());
    const optimise::FewestLimits fewest{limits.gap, {}, [&](const optimise::Fewest& f) {
                                            return told(with(f.columns, f.value + kept, f.bound + kept, f.any));
                                        }};
    const auto can_be = out.all - out.unreachable.weight - out.beyond_all.weight;
    optimise::Fewest found;
    if (asked.share) {
        // As much as the share asks, rounded up, so that a miss is never a met.
        const Wide part = static_cast<Wide>(out.all.count()) * asked.share->ppm();
        const auto wanted = static_cast<std::int64_t>((part + 999'999) / 1'000'000);
        if (wanted > can_be.count())
            refuse(fmt::format("no set brings {} within {}: all sites in question together bring {}",
                               describe(*asked.share), describe(*asked.within), describe(share_of(can_be, out.all))),
                   "Ask for a smaller share or a wider limit, or add candidates");
        found = fewest_for_part(s.amounts, s.covers, wanted, rules, fewest, task);
    } else {
        found = fewest_for_all(s.covers, rules, fewest, task);
    }
    optimise::Chosen c;
    if (found.any) {
        c.columns = found.columns;
        c.value = found.value + kept;
        c.bound = found.bound + kept;
        c.any = true;
    }
    return finish(c);
}

std::string sentence(const Inputs& inputs, const Question& question, const BestSetAsked& asked) {
    std::vector<std::string> names;
    for (const auto& set : inputs.sites.sets()) names.push_back(set->name);
    const std::string counted = service::counted(question, inputs.demand);
    const std::string of =
        fmt::format("of the {} {}", asked.keep_open ? "candidate" : "open and candidate", fmt::join(names, " and "));
    std::vector<std::string> rules;
    if (asked.keep_open) rules.emplace_back("keeping all open ones");
    const auto named = [&](const std::vector<SiteIndex>& sites) {
        std::vector<std::string> labels;
        for (const SiteIndex s : sites)
            labels.push_back(s.value() < inputs.sites.count() ? label(inputs.sites.at(s.value()))
                                                              : std::string("one that the plan adds"));
        return listed(labels);
    };
    if (!asked.required.empty()) rules.push_back("with " + named(asked.required));
    if (!asked.forbidden.empty()) rules.push_back("never " + named(asked.forbidden));
    for (const auto& [a, b] : asked.conflicts) rules.push_back("not both " + named({a, b}));
    for (const auto& group : asked.one_of) rules.push_back("with one of " + named(group) + " at least");
    if (asked.apart) rules.push_back(fmt::format("no two nearer than {}", describe(*asked.apart)));
    const std::string keeping = rules.empty() ? "" : fmt::format(", {},", fmt::join(rules, ", "));
    const std::string within = asked.within ? describe(*asked.within) : "";
    const std::string how_many =
        asked.budget ? fmt::format("for {} at most", describe(*asked.budget)) : fmt::format("{}", asked.choose);
    const auto choose = [&](const std::string& so_that) {
        return fmt::format("Choose {} {}{} so that {}.", how_many, of, keeping, so_that);
    };
    switch (asked.goal) {
        case Goal::cover:
            return choose(
                fmt::format("most {} are within {}{}", counted, within, asked.heed_room ? " and find room" : ""));
        case Goal::backup:
            return choose(fmt::format("most {} are within {} of one and of a second", counted, within));
        case Goal::expected:
            return choose(fmt::format("most {} are within {} of one that is not busy, each being busy {} of the time",
                                      counted, within, describe(asked.busy)));
        case Goal::travel:
            return choose(fmt::format("all {} together travel least", counted));
        case Goal::worst:
            return choose(fmt::format("the {} farthest away are as near as can be", counted));
        case Goal::fewest:
            break;
    }
    const std::string whom = asked.share ? fmt::format("{} of all {}", describe(*asked.share), counted)
                                         : fmt::format("all {} that can be", counted);
    return fmt::format("Choose the fewest {}{} so that {} are within {}.", of, keeping, whom, within);
}

Plan plan_with(const Plan& base, const std::vector<SiteOutcome>& sites, const BestSet& set, std::string name) {
    Plan plan = base;
    plan.name = std::move(name);
    std::vector<bool> in(sites.size(), false);
    for (const SiteIndex s : set.kept) in[s.value()] = true;
    for (const SiteIndex s : set.chosen) in[s.value()] = true;
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        const PlannedSite& site = sites[i].planned;
        const bool open = site.site.state == places::SiteState::open;
        if (in[i] && !open) plan.changes.push_back(change_of(site, Change::open));
        if (!in[i] && open && sites[i].attachment) plan.changes.push_back(change_of(site, Change::close));
    }
    return plan;
}

}  // namespace otoro::service
