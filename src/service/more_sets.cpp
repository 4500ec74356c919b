#include "service/more_sets.h"

#include <fmt/format.h>

#include <algorithm>
#include <queue>

#include "geo/error.h"
#include "geo/wording.h"
#include "service/access_legs.h"
#include "service/pace.h"
#include "service/plan_changes.h"
#include "service/sentence.h"
#include "service/weakest.h"

namespace otoro::service {
namespace {}  // namespace

StepPrices price_of_steps(SetChooser& chooser, const BestSetAsked& asked, const BestSetLimits& limits,
                          const Task& task) {
    StepPrices out;
    BestSetAsked step = asked;
    BestSetLimits each = limits;
    each.as_few_as_help = false;  // the step before says it
    const auto least = static_cast<std::uint32_t>(std::max<std::size_t>(1, asked.required.size()));
    for (step.choose = least; step.choose <= asked.choose; ++step.choose) {
        task.at("the price of every step", static_cast<double>(step.choose - least) / (asked.choose - least + 1));
        if (task.leave_off()) {
            out.left_off_from = step.choose;
            break;
        }
        auto set = chooser.find(step, each, task.quietly());
        if (!set.any) continue;
        const bool brings_nothing = !out.sets.empty() && set.proven() && !is_better(set, out.sets.back());
        out.enough = brings_nothing ? static_cast<std::uint32_t>(out.sets.back().chosen.size()) : 0;
        if (!brings_nothing) out.sets.push_back(std::move(set));
    }
    if (out.left_off_from > 0) out.enough = 0;  // what was not looked at may bring something
    if (out.sets.empty()) out.sets.push_back(chooser.best(asked, limits, task.quietly()));  // says why there is none
    return out;
}

double worse_by(const BestSet& best, const BestSet& set) {
    const auto value = static_cast<double>(best.value);
    const auto more = static_cast<double>(least_is_best(best.goal) ? set.value - best.value : best.value - set.value);
    return more <= 0 ? 0 : value > 0 ? more / value : 1;
}

NearSets nearly_as_good(SetChooser& chooser, const BestSetAsked& asked, const BestSet& best, double part,
                        std::size_t most, const BestSetLimits& limits, const Task& task) {
    NearSets out;
    BestSetAsked as_many = asked;
    if (has_steps(asked)) as_many.choose = std::max(1U, asked.choose - std::min(asked.choose, best.spare));
    BestSetLimits each = limits;
    each.as_few_as_help = false;  // each that is listed loses what brings nothing to it
    struct Division {
        BestSetAsked asked;
        BestSet set;
        std::size_t found;  // of equals the one found first
    };
    std::size_t count = 0;
    const auto later = [&](const Division& a, const Division& b) {
        const Wide x = least_is_best(best.goal) ? a.set.value : -a.set.value,
                   y = least_is_best(best.goal) ? b.set.value : -b.set.value;
        return x != y ? x > y : a.found > b.found;
    };
    std::vector<Division> parts;
    const auto divide = [&](const BestSetAsked& whole, const BestSet& set) {
        BestSetAsked rest = whole;
        for (const SiteIndex site : set.chosen) {
            task.check();
            if (task.leave_off()) {
                out.complete = false;
                return;
            }
            if (std::find(whole.required.begin(), whole.required.end(), site) != whole.required.end()) continue;
            rest.forbidden.push_back(site);
            auto found = chooser.find(rest, each, task.quietly());
            out.complete = out.complete && (found.any ? found.proven() : !found.left_off);
            if (found.any && lost(found) == lost(best) && worse_by(best, found) <= part) {
                parts.push_back({rest, std::move(found), count++});
                std::push_heap(parts.begin(), parts.end(), later);
            }
            rest.forbidden.pop_back();
            rest.required.push_back(site);
        }
    };
    out.complete = best.proven();
    divide(as_many, best);
    while (!parts.empty() && out.sets.size() < most) {
        task.at("others nearly as good", static_cast<double>(out.sets.size()) / static_cast<double>(most));
        std::pop_heap(parts.begin(), parts.end(), later);
        const Division next = std::move(parts.back());
        parts.pop_back();
        BestSet listed = chooser.without_passengers(next.asked, next.set, task.quietly());
        const auto same = [&](const BestSet& s) { return s.chosen == listed.chosen; };
        if (listed.chosen != best.chosen && std::none_of(out.sets.begin(), out.sets.end(), same))
            out.sets.push_back(std::move(listed));
        divide(next.asked, next.set);
    }
    out.complete = out.complete && parts.empty();
    return out;
}

namespace {

/// The busiest road of each site that is chosen, of the first few, shut.
std::vector<roads::Closure> busiest_shut(const Ready& ready, const Plan& plan, const BestSetAsked& asked,
                                         const BestSet& best, const Task& task) {
    constexpr std::size_t kMost = 5;
    task.at("how sure: the busiest roads", 0);
    // Sets are chosen for the nearest of those that are open, whatever the question's own rule.
    auto nearest = std::make_shared<Ready>(ready);
    nearest->question.use = SiteUse::open;
    nearest->question.serving = Nearest{ready.question.measure()};
    nearest->question.standard.reset();
    const Outcome o = answer(*nearest, plan_with(plan, attach_sites(*nearest, plan), best, ""), task.quietly());
    std::vector<SiteIndex> sites = best.chosen;
    sites.resize(std::min(sites.size(), kMost));
    std::vector<roads::Closure> out;
    for (const BusiestRoad& road : busiest_roads(*nearest, o, sites, asked.within, task)) {
        const std::string& name = ready.inputs.network->name(road.link);
        roads::Closure closure;
        closure.name = name.empty() ? fmt::format("with the busiest road of {} shut",
                                                  label(o.sites[road.site.value()].planned.site))
                                    : fmt::format("with {} shut", name);
        closure.vertices = {road.middle};
        const auto same = [&](const roads::Closure& c) { return c.vertices == closure.vertices; };
        if (std::none_of(out.begin(), out.end(), same)) out.push_back(std::move(closure));
    }
    return out;
}

}  // namespace

HowSure how_sure(SetChooser& chooser, const std::shared_ptr<const Ready>& ready, const Plan& plan,
                 const BestSetAsked& asked, const BestSet& best, const std::vector<Share>& speeds,
                 const BestSetLimits& limits, const Task& task) {
    HowSure out;
    out.variants.push_back({"as asked", best, best});
    const auto equal = nearly_as_good(chooser, asked, best, 0, kMostAsGood, limits, task);
    out.as_good = equal.sets.size();
    out.as_good_complete = equal.complete;
    BestSetAsked the_same = asked;
    the_same.required = best.chosen;
    the_same.forbidden.clear();
    const auto shut = busiest_shut(*ready, plan, asked, best, task);
    const std::size_t all = speeds.size() + (ready->question.by_weight ? 1 : 0) + shut.size();
    const auto add = [&](std::string what, const std::shared_ptr<const Ready>& under, const Plan& with) {
        if (task.leave_off()) {
            ++out.left_off;
            return;
        }
        task.at("how sure", static_cast<double>(out.variants.size() - 1) / static_cast<double>(all));
        SetChooser then_chooser(under, with, task.quietly());
        out.times.resize(then_chooser.sites().size(), 0);
        BestSet then = then_chooser.find(asked, limits, task.quietly());
        // Of the fewest with what they need besides; else those alone, whatever more might be chosen then.
        BestSet same = asked.goal == Goal::fewest ? then_chooser.find(the_same, limits, task.quietly())
                                                  : then_chooser.of_just(asked, best.chosen, task.quietly());
        // Of searches that were left off the one may know more than the other.
        if (same.any && (!then.any || is_better(same, then))) then = same;
        out.variants.push_back({std::move(what), std::move(then), std::move(same)});
    };
    for (const Share speed : speeds)
        add(fmt::format("at {} of the speed", describe(speed)), at_pace(*ready, speed, task.quietly()), plan);
    if (ready->question.by_weight) {
        auto once = std::make_shared<Ready>(*ready);
        once->question.by_weight = false;
        add("each place counted once", once, plan);
    }
    for (const roads::Closure& closure : shut) {
        Plan with = plan;
        with.closures.push_back(closure);
        add(closure.name, ready, with);
    }
    for (const Variant& v : out.variants)
        for (const SiteIndex site : v.set.chosen) {
            out.times.resize(std::max<std::size_t>(out.times.size(), site.value() + 1), 0);
            ++out.times[site.value()];
        }
    return out;
}

}  // namespace otoro::service
