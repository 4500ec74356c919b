#include "service/best_set.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <numeric>

#include "geo/wording.h"
#include "optimise/fewest.h"
#include "optimise/least_worst.h"
#include "optimise/most_cover.h"
#include "optimise/room_rows.h"
#include "service/access_legs.h"
#include "service/best_set_parts.h"
#include "service/sentence.h"

namespace otoro::service {
namespace {

/// As many pairs of a place and a site are held, where what each costs counts.
constexpr std::size_t kMostCosts = 400'000'000;
/// And where only who is within a limit does: a bit each.
constexpr std::size_t kMostBits = 16'000'000'000;
/// Of a search for fewer that are as good.
constexpr std::uint64_t kMostNodes = 2'000;

}  // namespace

double BestSet::gap() const {
    optimise::Chosen c;
    c.value = value;
    c.bound = bound;
    return c.gap();
}

bool least_is_best(Goal goal) { return goal == Goal::travel || goal == Goal::worst || goal == Goal::fewest; }

Weight lost(const BestSet& set) { return has_limit(set.goal) ? Weight() : set.not_reached + set.unreachable.weight; }

bool is_better(const BestSet& a, const BestSet& b) {
    if (lost(a) != lost(b)) return lost(a) < lost(b);
    return least_is_best(a.goal) ? a.value < b.value : a.value > b.value;
}

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
    if (pairs && std::holds_alternative<Millis>(limit) == (ready->question.measure() == routing::Measure::time)) {
        const std::int64_t most = std::holds_alternative<Millis>(limit) ? std::get<Millis>(limit).count()
                                                                        : std::get<Millimetres>(limit).count();
        covers = {};
        optimise::Columns list;
        for (std::uint32_t i = 0; i < places.size(); ++i) {
            list.clear();
            for (const optimise::Pair& p : pairs->of(i))
                if (p.cost <= most) list.push_back(p.column);
            covers.add_row(list);
        }
        limit_of_covers = limit;
        return;
    }
    constexpr std::size_t kBits = 64;
    const std::size_t words = (columns() + kBits - 1) / kBits;
    if (words * kBits > kMostBits / std::max<std::size_t>(1, places.size()))
        refuse("",
               fmt::format("{} sites in question for {} places are more than can be held", columns(), places.size()),
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
        refuse("",
               fmt::format("{} sites in question for {} places are more than the {} million pairs that can be held", n,
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

BestSet SetChooser::best(const BestSetAsked& asked, const BestSetLimits& limits, const Task& task) {
    BestSet set = find(asked, limits, task);
    if (!set.any) throw NoSet(*set.none);
    return set;
}

BestSet SetChooser::find(const BestSetAsked& asked, const BestSetLimits& limits, const Task& task) {
    BestSet set = search(asked, limits, task);
    return limits.as_few_as_help ? without_passengers(asked, std::move(set), task) : set;
}

BestSet SetChooser::search(const BestSetAsked& asked, const BestSetLimits& limits, const Task& task,
                           const Instead* instead) {
    State& s = *state_;
    if (has_limit(asked.goal) && !asked.within)
        refuse("", "it is not said within what", "Say a limit, such as 8min or 2km");
    if (asked.heed_room && asked.goal != Goal::cover)
        refuse("", "room is heeded by most cover alone", "Ask for most cover, or let sites take all");
    if (asked.goal == Goal::expected && (asked.busy.ppm() < 0 || asked.busy >= Share::percent(100)))
        refuse("", "sites that are always busy serve nobody", "Say a busy share under 100 %");
    SetRules from = rules_of(asked, s.sites, s.open, s.column_of, s.site_of);
    const BestSet* const as_good_as = instead != nullptr ? instead->as_good_as : nullptr;
    if (instead != nullptr) {
        from.rules.choose = instead->choose;
        from.start.clear();
    }
    const optimise::ChoiceRules& rules = from.rules;
    const optimise::Columns& start = from.start;

    BestSet out;
    out.goal = asked.goal;
    out.measure = s.ready->question.measure();
    for (std::uint32_t i = 0; i < s.sites.size(); ++i)
        if (asked.keep_open && s.open[i]) out.kept.emplace_back(i);
    for (const std::int64_t a : s.amounts) out.all += Weight(a);
    out.none = from.none;
    if (out.none) return out;
    const auto with = [&](const optimise::Columns& columns, Wide value, Wide bound, bool any) {
        BestSet set = out;
        for (const std::uint32_t c : columns) set.chosen.push_back(s.site_of[c]);
        set.value = value;
        set.bound = bound;
        set.any = any;
        return set;
    };
    const auto told = [&](const BestSet& set) {
        if (limits.told) limits.told(set);
        return task.leave_off();
    };
    // Whether it is decided that a set is as good as another, or that none is.
    const auto decided = [&](const optimise::Chosen& c) {
        if (as_good_as == nullptr || !c.any) return false;
        return least_is_best(asked.goal) ? c.bound > as_good_as->value
                                         : c.value >= as_good_as->value || c.bound < as_good_as->value;
    };
    optimise::ChoiceLimits choice{
        limits.gap,
        {},
        [&](const optimise::Chosen& c) { return told(with(c.columns, c.value, c.bound, c.any)) || decided(c); },
        {},
        limits.check_proof};
    if (as_good_as != nullptr) choice.most_nodes = kMostNodes;
    if (as_good_as != nullptr && !least_is_best(asked.goal)) choice.wanted = as_good_as->value;
    if (has_limit(asked.goal)) {
        s.find_covers(*asked.within, task);
    } else {
        s.find_pairs(task);
    }
    // Who is reached by forbidden sites alone, or by those that may not stand beside a kept one, is reached by none
    // that may be open.
    std::vector<std::uint8_t> never(rules.columns, 0);
    for (const std::uint32_t c : optimise::with_what_follows(rules).never) never[c] = 1;
    const auto any_of_row = [&](std::uint32_t row, const auto& is) {
        if (!has_limit(asked.goal)) {
            const auto list = s.pairs->of(row);
            return std::any_of(list.begin(), list.end(), [&](const optimise::Pair& p) { return is(p.column); });
        }
        const auto list = s.covers.of(row);
        return std::any_of(list.begin(), list.end(), is);
    };
    for (std::uint32_t i = 0; i < s.amounts.size(); ++i) {
        if (any_of_row(i, [&](std::uint32_t c) { return never[c] == 0; })) continue;
        Tally& into = has_limit(asked.goal) && s.reached[i] ? out.beyond_all : out.unreachable;
        ++into.places;
        into.weight += Weight(s.amounts[i]);
    }
    const Weight can_be = out.all - out.unreachable.weight - out.beyond_all.weight;

    const auto finish = [&](const optimise::Chosen& c) {
        BestSet set = with(c.columns, c.value, c.bound, c.any);
        set.left_off = c.left_off;
        if (instead != nullptr && !c.any) return set;  // nobody asks why
        if (!c.any && c.left_off)
            set.none = {"", std::nullopt, "no set was found before the search was left off",
                        "Allow it more time, or ask for fewer rules"};
        else if (!c.any)
            set.none = no_set(asked, from, s.sites, s.site_of, task);
        if (!c.any) return set;
        std::vector<std::uint8_t> in(rules.columns, 0);
        for (const std::uint32_t k : rules.kept) in[k] = 1;
        for (const std::uint32_t k : c.columns) in[k] = 1;
        for (std::uint32_t i = 0; i < s.amounts.size(); ++i)
            if (any_of_row(i, [&](std::uint32_t k) { return in[k] != 0; })) set.reached += Weight(s.amounts[i]);
        if (asked.heed_room) set.reached = Weight(static_cast<std::int64_t>(c.value));
        set.not_reached = can_be - set.reached;
        return set;
    };
    switch (asked.goal) {
        case Goal::cover: {
            if (!asked.heed_room) return finish(most_cover({s.amounts, s.covers, {1}, start}, rules, choice, task));
            std::vector<std::int64_t> room;
            for (const SiteIndex site : s.site_of) {
                const auto& capacity = s.sites[site.value()].planned.site.capacity;
                room.push_back(capacity ? capacity->count() : out.all.count());
            }
            return finish(most_cover_with_room(s.amounts, s.covers, room, rules, start, choice, task));
        }
        case Goal::backup:
            return finish(most_cover({s.amounts, s.covers, {1, 1}, start}, rules, choice, task));
        case Goal::expected:
            return finish(
                most_cover({s.amounts, s.covers, optimise::expected_levels(asked.busy), start}, rules, choice, task));
        case Goal::travel: {
            const auto found = least_total({s.amounts, *s.pairs, start}, rules, choice, task);
            out.least_not_reached = Weight(static_cast<std::int64_t>(found.least_not_reached));
            return finish(found.chosen);
        }
        case Goal::worst: {
            const auto found = least_worst({s.amounts, *s.pairs, start}, rules, choice, task);
            out.least_not_reached = Weight(static_cast<std::int64_t>(found.least_not_reached));
            return finish(found.chosen);
        }
        case Goal::fewest:
            break;
    }
    const auto kept = static_cast<Wide>(rules.kept.size());  // a bound may be the most that 64 bits hold
    const optimise::FewestLimits fewest{
        limits.gap,
        {},
        [&](const optimise::Fewest& f) { return told(with(f.columns, f.value + kept, f.bound + kept, f.any)); },
        as_good_as != nullptr ? std::optional(kMostNodes) : std::nullopt,
        limits.check_proof};
    // How much can be brought within the limit, where that is known.
    const auto too_much = [&](std::optional<Weight> most) {
        const std::string wanted = asked.share ? describe(*asked.share) : describe(can_be) + " of " + describe(out.all);
        const std::string why = !most ? "and keeps to the rules"
                                      : fmt::format("{} {}",
                                                    most == can_be ? "all sites in question together bring"
                                                                   : "the rules allow no more than",
                                                    asked.share ? describe(share_of(*most, out.all)) : describe(*most));
        BestSet set = out;
        set.none = {
            "", std::nullopt,
            fmt::format("no set brings {} within {}{} {}", wanted, describe(*asked.within), most ? ":" : "", why),
            asked.share ? "Ask for a smaller share or a wider limit, or add candidates"
                        : "Ask for a share of them, for a wider limit, or for fewer rules"};
        return set;
    };
    // Nobody is where no weight is.
    optimise::Covers covers;
    std::vector<std::int64_t> amounts;
    covers.reserve(s.covers.rows(), s.covers.count());
    for (std::uint32_t i = 0; i < s.amounts.size(); ++i) {
        if (s.amounts[i] == 0) continue;
        covers.add_row(s.covers.of(i));
        amounts.push_back(s.amounts[i]);
    }
    optimise::Fewest found;
    if (asked.share) {
        // As much as the share asks, rounded up, so that a miss is never a met.
        const Wide part = static_cast<Wide>(out.all.count()) * asked.share->ppm();
        const auto wanted = static_cast<std::int64_t>((part + 999'999) / 1'000'000);
        if (wanted > can_be.count()) return too_much(can_be);
        found = fewest_for_part(amounts, covers, wanted, rules, fewest, task);
    } else {
        found = fewest_for_all(covers, rules, fewest, task);
    }
    optimise::Chosen c;
    c.any = found.any;
    c.columns = found.columns;
    c.value = found.value + kept;
    c.bound = found.bound + kept;
    c.left_off = found.left_off;
    if (!c.any && !c.left_off && instead == nullptr) {
        const optimise::Chosen most = most_cover({amounts, covers}, rules, {}, task);
        if (most.any && most.proven()) return too_much(Weight(static_cast<std::int64_t>(most.value)));
        if (most.any || most.left_off) return too_much(std::nullopt);
    }
    return finish(c);
}

namespace {

bool is_open(const SiteOutcome& site) { return site.planned.site.state == places::SiteState::open; }

}  // namespace

std::vector<SiteIndex> closed_by(const std::vector<SiteOutcome>& sites, const BestSet& set) {
    std::vector<bool> in(sites.size(), false);
    for (const SiteIndex s : set.kept) in[s.value()] = true;
    for (const SiteIndex s : set.chosen) in[s.value()] = true;
    std::vector<SiteIndex> out;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (!in[i] && is_open(sites[i]) && sites[i].attachment) out.emplace_back(i);
    return out;
}

std::vector<SiteIndex> opened_by(const std::vector<SiteOutcome>& sites, const BestSet& set) {
    std::vector<SiteIndex> out;
    for (const SiteIndex s : set.chosen)
        if (!is_open(sites[s.value()])) out.push_back(s);
    return out;
}

Plan plan_with(const Plan& base, const std::vector<SiteOutcome>& sites, const BestSet& set, std::string name) {
    Plan plan = base;
    plan.name = std::move(name);
    std::vector<std::pair<SiteIndex, Change>> changes;
    for (const SiteIndex s : opened_by(sites, set)) changes.emplace_back(s, Change::open);
    for (const SiteIndex s : closed_by(sites, set)) changes.emplace_back(s, Change::close);
    std::sort(changes.begin(), changes.end());
    for (const auto& [site, change] : changes) plan.changes.push_back(change_of(sites[site.value()].planned, change));
    return plan;
}

}  // namespace otoro::service
