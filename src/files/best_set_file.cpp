#include "files/best_set_file.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "files/shape_table.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/sentence.h"

namespace otoro::files {
namespace {

using service::BestSet;
using service::Goal;
using service::SiteOutcome;

/// Those open in the end, by index, and whether each is kept.
std::vector<std::pair<SiteIndex, bool>> open_in_the_end(const BestSet& set) {
    std::vector<std::pair<SiteIndex, bool>> out;
    for (const SiteIndex s : set.kept) out.emplace_back(s, true);
    for (const SiteIndex s : set.chosen) out.emplace_back(s, false);
    std::sort(out.begin(), out.end());
    return out;
}

std::string names_of(const std::vector<SiteOutcome>& sites, const std::vector<SiteIndex>& some) {
    std::vector<std::string> names;
    for (const SiteIndex s : some) names.push_back(service::label(sites[s.value()].planned.site));
    return fmt::format("{}", fmt::join(names, ", "));
}

double gap_percent(const BestSet& set) { return set.gap() * 100; }

}  // namespace

nlohmann::json best_set_json(const service::Ready& ready, const std::vector<SiteOutcome>& sites,
                             const service::BestSetAsked& asked, const BestSet& set) {
    nlohmann::json j;
    j["goal"] = std::string(service::name(set.goal));
    j["question"] = sentence(ready.inputs, ready.question, asked);
    j["value"] = shown_value(set, set.value);
    j["bound"] = shown_value(set, set.bound);
    j["proven"] = set.proven();
    j["gap_percent"] = gap_percent(set);
    j["measure"] = set.measure == routing::Measure::time ? "time" : "distance";
    j["sites"] = nlohmann::json::array();
    for (const auto& [index, kept] : open_in_the_end(set)) {
        const auto& planned = sites[index.value()].planned;
        j["sites"].push_back({{"id", planned.site.id},
                              {"name", service::label(planned.site)},
                              {"set", planned.set},
                              {"kept", kept},
                              {"state", std::string(places::name(planned.site.state))}});
    }
    j["chosen"] = nlohmann::json::array();
    for (const SiteIndex s : set.chosen) j["chosen"].push_back(sites[s.value()].planned.site.id);
    j["closed"] = nlohmann::json::array();
    for (const SiteIndex s : closed_by(sites, set)) j["closed"].push_back(sites[s.value()].planned.site.id);
    j["unreachable"] = set.unreachable.places;
    j["unreachable_weight"] = set.unreachable.weight.value();
    j["reached_weight"] = set.reached.value();
    j["not_reached_weight"] = set.not_reached.value();
    if (has_limit(set.goal)) {
        j["beyond_all"] = set.beyond_all.places;
        j["beyond_all_weight"] = set.beyond_all.weight.value();
    } else {
        j["least_not_reached_weight"] = set.least_not_reached.value();
    }
    j["bring_nothing"] = set.spare;
    j["left_off"] = set.left_off;
    j["whole_weight"] = set.all.value();
    return j;
}

std::string best_set_csv(const std::vector<SiteOutcome>& sites, const BestSet& set) {
    std::string text = fmt::format("site_id,name,set,state,kept,cost,lon,lat{}", kCsvEnd);
    for (const auto& [index, kept] : open_in_the_end(set)) {
        const auto& planned = sites[index.value()].planned;
        const auto& site = planned.site;
        text += fmt::format("{},{},{},{},{},{},{},{}{}", csv_cell(site.id), csv_cell(service::label(site)),
                            csv_cell(planned.set), places::name(site.state), kept ? "yes" : "no",
                            site.cost ? plain_number(site.cost->value()) : "",
                            site.position ? plain_number(site.position->lon) : "",
                            site.position ? plain_number(site.position->lat) : "", kCsvEnd);
    }
    return text;
}

std::string best_set_curve_csv(const std::vector<SiteOutcome>& sites, const service::StepPrices& steps) {
    std::string text = fmt::format("choose,sites,value,bound,gap_percent,proven,chosen{}", kCsvEnd);
    for (const BestSet& set : steps.sets) {
        std::vector<std::string> ids;
        for (const SiteIndex s : set.chosen) ids.push_back(sites[s.value()].planned.site.id);
        text += fmt::format("{},{},{},{},{:.4f},{},{}{}", set.chosen.size(), set.chosen.size() + set.kept.size(),
                            plain_number(shown_value(set, set.value)), plain_number(shown_value(set, set.bound)),
                            gap_percent(set), set.proven() ? "yes" : "no",
                            csv_cell(fmt::format("{}", fmt::join(ids, " "))), kCsvEnd);
    }
    return text;
}

nlohmann::json near_sets_json(const std::vector<SiteOutcome>& sites, const BestSet& best,
                              const service::NearSets& near) {
    nlohmann::json out{{"complete", near.complete}, {"sets", nlohmann::json::array()}};
    for (const BestSet& set : near.sets) {
        nlohmann::json row{{"sites", nlohmann::json::array()},
                           {"value", shown_value(set, set.value)},
                           {"worse_percent", 100 * worse_by(best, set)}};
        for (const SiteIndex s : set.chosen) row["sites"].push_back(sites[s.value()].planned.site.id);
        out["sets"].push_back(std::move(row));
    }
    return out;
}

namespace {

/// The sites chosen in any variant, those chosen most often first.
std::vector<SiteIndex> by_times(const service::HowSure& sure) {
    std::vector<SiteIndex> out;
    for (std::uint32_t i = 0; i < sure.times.size(); ++i)
        if (sure.times[i] > 0) out.emplace_back(i);
    std::stable_sort(out.begin(), out.end(),
                     [&](SiteIndex a, SiteIndex b) { return sure.times[a.value()] > sure.times[b.value()]; });
    return out;
}

}  // namespace

nlohmann::json how_sure_json(const std::vector<SiteOutcome>& sites, const service::HowSure& sure) {
    nlohmann::json out{{"variants", nlohmann::json::array()},
                       {"sites", nlohmann::json::array()},
                       {"as_good", sure.as_good},
                       {"as_good_complete", sure.as_good_complete},
                       {"left_off", sure.left_off}};
    for (const auto& v : sure.variants) {
        nlohmann::json row{{"what", v.what}, {"any", v.set.any}};
        if (v.set.any) {
            row["best"] = shown_value(v.set, v.set.value);
            row["best_sites"] = nlohmann::json::array();
            for (const SiteIndex s : v.set.chosen) row["best_sites"].push_back(sites[s.value()].planned.site.id);
        }
        if (v.chosen.any) row["chosen"] = shown_value(v.chosen, v.chosen.value);
        if (v.set.any && v.chosen.any) row["worse_percent"] = 100 * worse_by(v.set, v.chosen);
        out["variants"].push_back(std::move(row));
    }
    for (const SiteIndex s : by_times(sure))
        out["sites"].push_back(
            {{"id", sites[s.value()].planned.site.id}, {"times", sure.times[s.value()]}, {"of", sure.variants.size()}});
    return out;
}

std::string chosen_names(const std::vector<SiteOutcome>& sites, const BestSet& set) {
    return set.chosen.empty() ? std::string("none") : names_of(sites, set.chosen);
}

std::string near_sets_words(const std::vector<SiteOutcome>& sites, const BestSet& best, const service::NearSets& near,
                            const std::string& counted) {
    std::string text = near.sets.empty() ? "No other set is nearly as good.\n" : "Nearly as good:\n";
    if (near.sets.empty() && !near.complete) text = "No other set was found that is nearly as good.\n";
    for (const BestSet& set : near.sets)
        text += fmt::format("  {}: {} ({} % worse)\n", chosen_names(sites, set), value_words(set, set.value, counted),
                            said_shortly(100 * worse_by(best, set), 2));
    if (!near.complete) text += "  There may be more.\n";
    return text;
}

std::string as_good_words(const service::HowSure& sure) {
    if (!sure.as_good_complete)
        return sure.as_good == 0 ? std::string("whether others are as good was left off")
                                 : fmt::format("at least {} others are as good", sure.as_good);
    if (sure.as_good == 0) return "no other set is as good";
    return sure.as_good == 1 ? "one other set is as good" : fmt::format("{} others are as good", sure.as_good);
}

std::string loss_words(const service::Variant& v, const std::string& counted) {
    if (!v.set.any) return v.set.left_off ? "left off before a set was found" : "no set keeps to what is asked";
    const std::string best = fmt::format("{} at best", value_words(v.set, v.set.value, counted));
    if (!v.chosen.any) return best + "; these no longer keep to what is asked";
    const Weight left = v.chosen.not_reached + v.chosen.unreachable.weight,
                 least = v.set.not_reached + v.set.unreachable.weight;
    if (!has_limit(v.set.goal) && left > least)
        return fmt::format("{}; these leave {} more out of reach", best, describe_lack(left - least));
    if (v.chosen.value == v.set.value) return best + ", which these bring";
    return fmt::format("{}, {} with these ({} % worse)", best, value_words(v.chosen, v.chosen.value, counted),
                       said_shortly(100 * worse_by(v.set, v.chosen), 2));
}

std::string how_sure_words(const std::vector<SiteOutcome>& sites, const service::HowSure& sure,
                           const std::string& counted) {
    std::string text = fmt::format("How sure: {}\n", as_good_words(sure));
    for (const auto& v : sure.variants) text += fmt::format("  {}: {}\n", v.what, loss_words(v, counted));
    if (sure.left_off > 0) text += fmt::format("  {} more were left off\n", sure.left_off);
    text += "Of these the best has\n";
    for (const SiteIndex s : by_times(sure))
        text += fmt::format("  {} in {} of {}\n", service::label(sites[s.value()].planned.site), sure.times[s.value()],
                            sure.variants.size());
    return text;
}

std::string bound_words(const BestSet& set, const std::string& counted) {
    if (set.proven()) return "proven: no set is better";
    const bool least = set.goal == Goal::travel || set.goal == Goal::worst || set.goal == Goal::fewest;
    return fmt::format("not proven{}: no set has {} than {} ({} % {})", set.left_off ? ", left off" : "",
                       least ? "less" : "more", value_words(set, set.bound, counted), said_shortly(gap_percent(set), 2),
                       least ? "less" : "more");
}

std::string enough_words(const BestSet& set, const service::BestSetAsked& asked) {
    const auto n = set.chosen.size();
    const std::string enough = n == 0 ? "None is needed" : fmt::format("{} {} enough", n, n == 1 ? "is" : "are");
    return fmt::format("{}: {} more{} {}", enough, set.spare, asked.budget ? " that the budget pays for" : "",
                       !set.proven()    ? "brought nothing that was found"
                       : set.spare == 1 ? "brings nothing"
                                        : "bring nothing");
}

std::string best_set_summary(const service::Ready& ready, const std::vector<SiteOutcome>& sites,
                             const service::BestSetAsked& asked, const BestSet& set) {
    const std::string whom = counted(ready.question, ready.inputs.demand);
    std::string text = sentence(ready.inputs, ready.question, asked) + "\n";
    text += fmt::format("Best: {}\n", chosen_names(sites, set));
    if (const auto opened = opened_by(sites, set); opened.size() < set.chosen.size())
        text += opened.empty() ? std::string("It opens none\n") : fmt::format("It opens {}\n", names_of(sites, opened));
    if (const auto closed = closed_by(sites, set); !closed.empty())
        text += fmt::format("It closes {}\n", names_of(sites, closed));
    text += fmt::format("{}; {}\n", value_words(set, set.value, whom), bound_words(set, whom));
    if (set.spare > 0) text += enough_words(set, asked) + "\n";
    if (set.goal != Goal::fewest && !asked.budget && set.chosen.size() + set.spare < asked.choose)
        text += fmt::format("Only {} of {} could be chosen: the other rules allow no more\n",
                            set.chosen.size() + set.spare, asked.choose);
    if (set.goal == Goal::cover)
        text += fmt::format("{} of all {} within {}\n",
                            describe(share_of(Weight(static_cast<std::int64_t>(set.value)), set.all)), whom,
                            describe(*asked.within));
    if (set.not_reached > Weight())
        text += fmt::format("{} {} are {} none of these, and may be {} others\n", describe(set.not_reached), whom,
                            has_limit(set.goal) ? "within " + describe(*asked.within) + " of" : "reached by",
                            has_limit(set.goal) ? "of" : "by");
    if (set.unreachable.places > 0)
        text += fmt::format("{} places ({} {}) are reached by no site in question\n",
                            said_whole(set.unreachable.places), describe(set.unreachable.weight), whom);
    if (set.beyond_all.places > 0)
        text += fmt::format("{} places ({} {}) are within {} of none\n", said_whole(set.beyond_all.places),
                            describe(set.beyond_all.weight), whom, describe(*asked.within));
    return text;
}

}  // namespace otoro::files
