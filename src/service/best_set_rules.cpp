#include "service/best_set_rules.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "geo/ellipsoid.h"
#include "geo/error.h"
#include "optimise/most_cover.h"

namespace otoro::service {
namespace {

/// Every contradiction is named.
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
        closings();
        numbers();
    }
    [[nodiscard]] SetRules result() && {
        auto begin = start();
        return {std::move(rules_), std::move(costs_), std::move(parts_), std::move(begin), std::move(none_)};
    }

private:
    /// What is open now, and what is required; nothing where none that is open may be chosen.
    [[nodiscard]] optimise::Columns start() const {
        optimise::Columns out = rules_.required;
        for (std::uint32_t c = 0; c < rules_.columns; ++c)
            if (!asked_.keep_open && open_[site_of_[c].value()] && !is(asked_.forbidden, site_of_[c])) out.push_back(c);
        if (out.size() == rules_.required.size()) return {};  // what is required is begun with anyhow
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
        return out;
    }
    [[nodiscard]] const std::string& id(SiteIndex s) const { return sites_[s.value()].planned.site.id; }
    [[nodiscard]] bool is(const std::vector<SiteIndex>& list, SiteIndex s) const {
        return std::find(list.begin(), list.end(), s) != list.end();
    }
    [[nodiscard]] bool is_kept(SiteIndex s) const { return asked_.keep_open && open_[s.value()]; }
    static std::vector<SiteIndex> without_repeats(std::vector<SiteIndex> sites) {
        std::sort(sites.begin(), sites.end());
        sites.erase(std::unique(sites.begin(), sites.end()), sites.end());
        return sites;
    }
    /// The column of a site that must be in question. \param what it is named as
    std::uint32_t column(SiteIndex s, const char* what) const {
        const std::uint32_t c = column_of_[s.value()];
        if (c != kNoColumn) return c;
        const SiteOutcome& site = sites_[s.value()];
        if (!site.planned.in_use)
            refuse("", fmt::format("site {} is {} and is neither open nor a candidate", id(s), what),
                   "Make it a candidate, or leave it out");
        refuse("", fmt::format("site {} is {} and no road that this traveller may use is near it", id(s), what),
               "Move it to a road, or leave it out");
    }
    void named() {
        for (const SiteIndex s : without_repeats(asked_.required)) {
            if (is(asked_.forbidden, s))
                contradict(fmt::format("site {} is required and forbidden", id(s)), "Leave out one of the two");
            add({fmt::format("{} is required", id(s)), {column(s, "required")}});
        }
        for (const SiteIndex s : asked_.forbidden) {
            if (is_kept(s))
                contradict(fmt::format("site {} is forbidden and open, and open sites are kept", id(s)),
                           "Close it in the plan, or do not keep open sites");
            if (column_of_[s.value()] != kNoColumn) rules_.never.push_back(column_of_[s.value()]);
        }
        for (const auto& [a, b] : asked_.conflicts) {
            if (a == b) refuse("", fmt::format("site {} is said to conflict with itself", id(a)), "Name two sites");
            if ((is(asked_.required, a) || is_kept(a)) && (is(asked_.required, b) || is_kept(b)))
                contradict(fmt::format("sites {} and {} conflict, and both are {}", id(a), id(b),
                                       is_kept(a) && is_kept(b) ? "kept" : "required"),
                           "Leave out one of the two");
            if (column_of_[a.value()] == kNoColumn || column_of_[b.value()] == kNoColumn) continue;
            add({fmt::format("{} and {} are not both open", id(a), id(b)),
                 {},
                 {{column_of_[a.value()], column_of_[b.value()]}}});
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
                contradict(fmt::format("one of {} is to be open, and none of them can be", fmt::join(ids, ", ")),
                           "Name a candidate that is not forbidden");
            add({fmt::format("one of {} is open", fmt::join(ids, ", ")), {}, {}, {{std::move(columns), 1}}});
        }
    }
    void distances() {
        if (!asked_.apart) return;
        RulePart part{fmt::format("no two are nearer than {}", describe(*asked_.apart))};
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
                    contradict(fmt::format("sites {} and {} are to be open and nearer to one another than {}",
                                           id(first), id(second), describe(*asked_.apart)),
                               "Leave out one of the two, or allow a shorter distance");
                part.apart.emplace_back(a, b);
            }
        if (!part.apart.empty()) add(std::move(part));
    }
    void closings() {
        if (asked_.keep_open || !asked_.close_at_most) return;
        optimise::Group stay;
        std::vector<std::string> never;
        for (std::uint32_t c = 0; c < rules_.columns; ++c) {
            if (!open_[site_of_[c].value()]) continue;
            stay.columns.push_back(c);
            if (is(asked_.forbidden, site_of_[c])) never.push_back(id(site_of_[c]));
        }
        const auto open = static_cast<std::uint32_t>(stay.columns.size());
        if (never.size() > *asked_.close_at_most)
            contradict(fmt::format("open sites are forbidden ({}), and no more than {} may be closed",
                                   fmt::join(never, ", "), *asked_.close_at_most),
                       "Let more be closed, or forbid fewer");
        stay.least = open - std::min(open, *asked_.close_at_most);
        const bool counted = asked_.goal != Goal::fewest && !asked_.budget;
        if (counted && stay.least > asked_.choose)
            contradict(fmt::format("{} are to be chosen, and at least {} of the {} open ones stay", asked_.choose,
                                   stay.least, open),
                       fmt::format("Choose {} at least, or let more be closed", stay.least));
        const auto others =
            static_cast<std::uint32_t>(std::count_if(rules_.required.begin(), rules_.required.end(),
                                                     [&](std::uint32_t c) { return !open_[site_of_[c].value()]; }));
        if (counted && stay.least + others > asked_.choose)
            contradict(
                fmt::format("{} are to be chosen, at least {} of the {} open ones stay, and {} others are required",
                            asked_.choose, stay.least, open, others),
                "Choose more, require fewer, or let more be closed");
        if (stay.least == 0) return;
        add({fmt::format("no more than {} of the {} open ones {} closed", *asked_.close_at_most, open,
                         *asked_.close_at_most == 1 ? "is" : "are"),
             {},
             {},
             {std::move(stay)}});
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
                contradict(
                    fmt::format("site {} is required and may not stand beside one that is kept", id(site_of_[c])),
                    "Leave out one of the two");
            required += kept ? 0 : 1;
        }
        if (asked_.goal == Goal::fewest) {
            rules_.choose = rules_.columns;
        } else if (asked_.budget) {
            costs(out);
        } else {
            if (asked_.choose == 0) refuse("", "none is to be chosen", "Choose one at least");
            if (asked_.choose > free)
                contradict(free == 0 ? std::string("there is no candidate to choose from")
                                     : fmt::format("{} are to be chosen, and there are {} to choose from",
                                                   asked_.choose, free),
                           asked_.keep_open && free == 0 ? "Mark sites as candidates, or let open ones be chosen too"
                                                         : "Choose fewer, or add candidates");
            if (required > asked_.choose)
                contradict(fmt::format("{} are to be chosen, and {} are required", asked_.choose, required),
                           "Choose more, or require fewer");
            rules_.choose = asked_.choose;
            parts_.push_back(
                {fmt::format("no more than {} {} chosen", asked_.choose, asked_.choose == 1 ? "is" : "are"),
                 {},
                 {},
                 {},
                 true});
        }
    }
    void costs(const std::vector<bool>& out) {
        Wide required = 0;
        for (std::uint32_t c = 0; c < rules_.columns; ++c) {
            const auto& site = sites_[site_of_[c].value()].planned.site;
            if (!out[c] && !site.cost)
                refuse("", fmt::format("site {} may be chosen and has no cost", site.id),
                       "Give every candidate a cost, or choose by number");
            costs_.push_back(out[c] ? 0 : site.cost->count());
        }
        for (const std::uint32_t c : rules_.required) required += costs_[c];
        if (required > asked_.budget->count())
            contradict(fmt::format("those required cost {}, more than the budget of {}",
                                   describe(Weight(static_cast<std::int64_t>(required))), describe(*asked_.budget)),
                       "Raise the budget, or require fewer");
        rules_.costs = costs_;  // which moves along
        rules_.budget = asked_.budget->count();
        parts_.push_back({fmt::format("they cost no more than {}", describe(*asked_.budget)), {}, {}, {}, true});
    }
    /// No set keeps to the rules: the first reason is the one that is said.
    void contradict(std::string wrong, std::string remedy) {
        if (!none_) none_ = {"", std::nullopt, std::move(wrong), std::move(remedy)};
    }
    void add(RulePart part) {
        rules_.required.insert(rules_.required.end(), part.required.begin(), part.required.end());
        rules_.apart.insert(rules_.apart.end(), part.apart.begin(), part.apart.end());
        rules_.groups.insert(rules_.groups.end(), part.groups.begin(), part.groups.end());
        parts_.push_back(std::move(part));
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
    std::vector<RulePart> parts_;
    std::optional<InputError::Parts> none_;
};

/// Whether some set keeps to some of the parts; also where that is not decided soon.
bool any_set(const SetRules& from, const std::vector<RulePart>& parts, const Task& task) {
    constexpr std::uint64_t kMostNodes = 20'000;
    optimise::ChoiceRules rules = from.rules;
    rules.required.clear();
    rules.apart.clear();
    rules.groups.clear();
    rules.costs = {};
    rules.choose = rules.columns;
    for (const RulePart& part : parts) {
        rules.required.insert(rules.required.end(), part.required.begin(), part.required.end());
        rules.apart.insert(rules.apart.end(), part.apart.begin(), part.apart.end());
        rules.groups.insert(rules.groups.end(), part.groups.begin(), part.groups.end());
        if (!part.limits) continue;
        rules.choose = from.rules.choose;
        rules.costs = from.rules.costs;
    }
    optimise::ChoiceLimits limits;
    limits.most_nodes = kMostNodes;
    const optimise::Chosen found = optimise::most_cover({{}, {}}, rules, limits, task);
    return found.any || found.left_off;
}

}  // namespace

InputError::Parts no_set(const BestSetAsked& asked, const SetRules& from, const std::vector<SiteOutcome>& sites,
                         const std::vector<SiteIndex>& site_of, const Task& asking) {
    const Task task = asking.to_the_end();
    // What can be left out without a set becoming possible has no part in it.
    std::vector<RulePart> left = from.parts;
    for (std::size_t k = left.size(); k-- > 0;) {
        auto without = left;
        without.erase(without.begin() + static_cast<std::ptrdiff_t>(k));
        if (!any_set(from, without, task)) left = std::move(without);
    }
    std::vector<std::string> words, kept;
    for (const RulePart& part : left) words.push_back(part.words);
    // Those kept that may not stand beside others are a part of it.
    for (const std::uint32_t c : from.rules.kept)
        if (std::any_of(left.begin(), left.end(), [&](const RulePart& part) {
                return std::any_of(part.apart.begin(), part.apart.end(),
                                   [&](const auto& pair) { return pair.first == c || pair.second == c; });
            }))
            kept.push_back(sites[site_of[c].value()].planned.site.id);
    if (!kept.empty())
        words.push_back(fmt::format("open sites are kept ({})", kept.size() > 5
                                                                    ? fmt::format("{} of them", kept.size())
                                                                    : fmt::format("{}", fmt::join(kept, ", "))));
    return {"", std::nullopt,
            words.empty() ? std::string("no set keeps to everything that is asked")
                          : fmt::format("no set keeps to everything that is asked: {}", fmt::join(words, "; ")),
            asked.keep_open && !kept.empty() ? "Leave one of these out, or do not keep open sites"
                                             : "Leave one of these out, or allow more"};
}

SetRules rules_of(const BestSetAsked& asked, const std::vector<SiteOutcome>& sites, const std::vector<bool>& open,
                  const std::vector<std::uint32_t>& column_of, const std::vector<SiteIndex>& site_of) {
    return RulesFrom(asked, sites, open, column_of, site_of).result();
}

}  // namespace otoro::service
