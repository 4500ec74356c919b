#include "service/ranking.h"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <mutex>
#include <numeric>

#include "geo/error.h"
#include "geo/wording.h"
#include "service/candidate.h"

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, kCriteria> kCriterionNames{"newly_within", "mean", "worst", "load", "cost"};

/// What all candidates are held against.
class Ranking {
public:
    Ranking(const std::shared_ptr<const Outcome>& base, bool by_time) : o_(*base), by_time_(by_time) {
        const auto& standard = o_.question.standard;
        if (standard) verdict_ = judge(o_, *standard);
        for (std::uint32_t i = 0; i < o_.places.size(); ++i) {
            if (!o_.places[i].served()) continue;
            const std::int64_t cost = cost_of(o_.places[i]);
            travel_ += static_cast<Wide>(cost) * o_.weights[i].count();
            served_ += o_.weights[i];
            if (o_.weights[i].count() > 0) farthest_.emplace_back(cost, i);
        }
        // The farthest few are enough to find the worst of those that a candidate leaves as they are.
        std::sort(farthest_.begin(), farthest_.end(), std::greater<>());
    }

    [[nodiscard]] RankedCandidate judged(const Candidates& candidates, SiteIndex site,
                                         const Candidates::Effect& effect) const {
        RankedCandidate r = begun(site, effect.attachment.has_value());
        r.nearer = candidates.tally(effect);
        Wide travel = travel_;
        Weight served = served_;
        std::int64_t worst = 0;
        Tally newly_served;
        for (const Candidates::Changed& c : effect.changed) {
            const std::uint32_t i = c.place.value();
            const Weight weight = o_.weights[i];
            if (o_.places[i].served()) {
                travel -= static_cast<Wide>(cost_of(o_.places[i])) * weight.count();
                served = served - weight;
            }
            if (!c.outcome.served()) continue;
            travel += static_cast<Wide>(cost_of(c.outcome)) * weight.count();
            served += weight;
            if (weight.count() > 0) worst = std::max(worst, cost_of(c.outcome));
            ++r.served.places;
            r.served.weight += weight;
            if (o_.places[i].served()) continue;
            ++newly_served.places;
            newly_served.weight += weight;
        }
        if (served.count() > 0) r.mean = static_cast<double>(travel) / static_cast<double>(served.count());
        const auto changed = [&](std::uint32_t place) {
            const auto at = std::lower_bound(effect.changed.begin(), effect.changed.end(), place,
                                             [](const auto& c, std::uint32_t p) { return c.place.value() < p; });
            return at != effect.changed.end() && at->place.value() == place;
        };
        const auto still = std::find_if(farthest_.begin(), farthest_.end(),
                                        [&](const auto& f) { return f.first <= worst || !changed(f.second); });
        if (still != farthest_.end()) worst = std::max(worst, still->first);
        if (served.count() > 0) r.worst = worst;
        r.newly_within = newly_served;
        if (verdict_) judge_by(candidates.judge(effect, verdict_->standard), r);
        return r;
    }

    /// The same of an answer in which the site is open.
    [[nodiscard]] RankedCandidate judged(const Outcome& then, SiteIndex site) const {
        const SiteOutcome& its = then.sites[site.value()];
        RankedCandidate r = begun(site, its.attachment.has_value());
        r.served = r.nearer = {its.places, its.load};
        for (std::uint32_t i = 0; i < then.places.size(); ++i) {
            if (then.places[i].site != site || then.places[i].status != Status::beyond_limit) continue;
            ++r.nearer.places;
            r.nearer.weight += then.weights[i];
        }
        if (const auto& s = by_time_ ? then.time_statistics : then.distance_statistics) {
            r.mean = s->mean;
            r.worst = s->worst;
        }
        const Tally &before = o_.tally(Status::served), &after = then.tally(Status::served);
        r.newly_within = more(before, after);
        if (verdict_) judge_by(service::judge(then, verdict_->standard), r);
        return r;
    }

private:
    [[nodiscard]] RankedCandidate begun(SiteIndex site, bool attached) const {
        RankedCandidate r;
        r.site = site;
        r.attached = attached;
        r.cost = o_.sites[site.value()].planned.site.cost;
        return r;
    }
    static Tally more(const Tally& before, const Tally& after) {
        return {after.places > before.places ? after.places - before.places : 0, after.weight - before.weight};
    }
    void judge_by(Verdict verdict, RankedCandidate& r) const {
        r.newly_within = more(verdict_->inside, verdict.inside);
        r.verdict = std::move(verdict);
    }
    [[nodiscard]] std::int64_t cost_of(const PlaceOutcome& p) const {
        return by_time_ ? p.time.count() : p.distance.count();
    }
    const Outcome& o_;
    bool by_time_;
    std::optional<Verdict> verdict_;
    Wide travel_ = 0;
    Weight served_;
    std::vector<std::pair<std::int64_t, std::uint32_t>> farthest_;  ///< those served of any weight, the farthest first
};

/// Whether what a candidate changes is told from its own ground.
bool may_be_told_alone(const Question& q) {
    const auto asks_for_several = [](const auto& step) { return step.scope.needed > 1; };
    return places_choose_alone(q) &&
           !(q.standard && std::any_of(q.standard->further.begin(), q.standard->further.end(), asks_for_several));
}

}  // namespace

std::string_view name(Criterion c) { return kCriterionNames[static_cast<std::size_t>(c)]; }

std::optional<Criterion> parse_criterion(std::string_view text) {
    const auto at = std::find(kCriterionNames.begin(), kCriterionNames.end(), text);
    if (at == kCriterionNames.end()) return std::nullopt;
    return static_cast<Criterion>(at - kCriterionNames.begin());
}

bool more_is_better(Criterion c) { return c == Criterion::newly_within || c == Criterion::load; }

CriterionWeights parse_weights(std::string_view text) {
    CriterionWeights out{};
    const auto refuse = [&](const std::string& why) -> void {
        throw InputError({"", std::nullopt, fmt::format("'{}' are no weights of criteria: {}", text, why),
                          "Write them like newly_within=3,cost=1; there are newly_within, mean, worst, load and cost"});
    };
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        const std::string_view part = text.substr(at, end - at);
        const auto equals = part.find('=');
        const auto criterion = parse_criterion(part.substr(0, std::min(equals, part.size())));
        if (!criterion) refuse(fmt::format("'{}' names no criterion", part));
        double weight = 1;
        if (equals != std::string_view::npos &&
            (!parse_number(part.substr(equals + 1), weight) || !(weight >= 0) || weight > 1e6))
            refuse(fmt::format("'{}' is no number from 0 on", part.substr(equals + 1)));
        out[static_cast<std::size_t>(*criterion)] = weight;
        at = end + 1;
    }
    if (std::all_of(out.begin(), out.end(), [](double w) { return w == 0; })) refuse("all are 0");
    return out;
}

std::optional<double> value_of(const RankedCandidate& r, Criterion criterion) {
    switch (criterion) {
        case Criterion::newly_within:
            return static_cast<double>(r.newly_within.weight.count());
        case Criterion::mean:
            return r.mean;
        case Criterion::worst:
            return r.worst ? std::optional(static_cast<double>(*r.worst)) : std::nullopt;
        case Criterion::load:
            return static_cast<double>(r.served.weight.count());
        case Criterion::cost:
            return r.cost ? std::optional(static_cast<double>(r.cost->count())) : std::nullopt;
    }
    return std::nullopt;
}

std::vector<Criterion> unknown_to_all(const std::vector<RankedCandidate>& candidates, const CriterionWeights& weights) {
    std::vector<Criterion> out;
    for (const Criterion c : kAllCriteria)
        if (weights[static_cast<std::size_t>(c)] > 0 &&
            std::none_of(candidates.begin(), candidates.end(),
                         [&](const RankedCandidate& r) { return value_of(r, c).has_value(); }))
            out.push_back(c);
    return out;
}

void rank_anew(std::vector<RankedCandidate>& candidates, const CriterionWeights& weights) {
    const double all = std::accumulate(weights.begin(), weights.end(), 0.0);
    for (RankedCandidate& r : candidates) r.score = 0;
    for (const Criterion criterion : kAllCriteria) {
        const double weight = weights[static_cast<std::size_t>(criterion)] / (all > 0 ? all : 1);
        if (weight == 0) continue;
        std::optional<double> least, most;
        for (const RankedCandidate& r : candidates) {
            const auto v = value_of(r, criterion);
            if (!v) continue;
            least = std::min(least.value_or(*v), *v);
            most = std::max(most.value_or(*v), *v);
        }
        for (RankedCandidate& r : candidates) {
            const auto v = value_of(r, criterion);
            if (!v) continue;
            // Where all are alike each is the best.
            const double part = *most > *least ? (*v - *least) / (*most - *least) : 1;
            r.score += weight * (more_is_better(criterion) || *most == *least ? part : 1 - part);
        }
    }
    std::stable_sort(candidates.begin(), candidates.end(), [](const RankedCandidate& a, const RankedCandidate& b) {
        return a.score != b.score ? a.score > b.score : a.site < b.site;
    });
}

std::vector<RankedCandidate> tell_candidates(const std::shared_ptr<const Ready>& ready,
                                             const std::shared_ptr<const Outcome>& base, const Task& task) {
    std::vector<SiteIndex> wanted;
    for (std::uint32_t i = 0; i < base->sites.size(); ++i)
        if (base->sites[i].planned.site.state == places::SiteState::candidate && !base->sites[i].planned.in_use)
            wanted.emplace_back(i);
    const Ranking ranking(base, ready->question.measure() == routing::Measure::time);
    std::vector<RankedCandidate> out(wanted.size());
    const auto say = [&](std::size_t done) {
        task.at("trying candidates", static_cast<double>(done) / static_cast<double>(wanted.size()));
    };
    if (!may_be_told_alone(base->question)) {
        const auto quiet = task.quietly();
        for (std::size_t k = 0; k < wanted.size(); ++k) {
            say(k);
            out[k] = ranking.judged(answer(*ready, plan_with(*base, wanted[k]), quiet), wanted[k]);
        }
        return out;
    }
    tbb::enumerable_thread_specific<Candidates> each([&] { return Candidates(ready, base); });
    std::mutex telling;
    std::size_t done = 0;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, wanted.size(), 4), [&](const auto& range) {
        for (std::size_t k = range.begin(); k != range.end(); ++k) {
            {
                const std::lock_guard lock(telling);
                say(done++);
            }
            Candidates& candidates = each.local();
            out[k] = ranking.judged(candidates, wanted[k], candidates.add(wanted[k]));
        }
    });
    return out;
}

std::vector<RankedCandidate> rank_candidates(const std::shared_ptr<const Ready>& ready,
                                             const std::shared_ptr<const Outcome>& base,
                                             const CriterionWeights& weights, const Task& task) {
    auto out = tell_candidates(ready, base, task);
    rank_anew(out, weights);
    return out;
}

}  // namespace otoro::service
