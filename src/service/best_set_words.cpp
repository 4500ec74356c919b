/// What a best set is called: goals by their words, values with their units, the request as a sentence.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <array>
#include <cmath>

#include "geo/wording.h"
#include "optimise/most_cover.h"
#include "service/best_set.h"
#include "service/sentence.h"

namespace otoro::service {
namespace {

constexpr std::array<std::pair<Goal, std::string_view>, 6> kGoals{{{Goal::cover, "cover"},
                                                                   {Goal::backup, "backup"},
                                                                   {Goal::expected, "expected"},
                                                                   {Goal::travel, "travel"},
                                                                   {Goal::worst, "worst"},
                                                                   {Goal::fewest, "fewest"}}};

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

std::string sentence(const Inputs& inputs, const Question& question, const BestSetAsked& asked) {
    std::vector<std::string> names;
    for (const auto& set : inputs.sites.sets()) names.push_back(set->name);
    const std::string counted = service::counted(question, inputs.demand);
    const std::string of =
        fmt::format("of the {} {}", asked.keep_open ? "candidate" : "open and candidate", fmt::join(names, " and "));
    std::vector<std::string> rules;
    if (asked.keep_open) rules.emplace_back("keeping all open ones");
    if (!asked.keep_open && asked.close_at_most)
        rules.push_back(*asked.close_at_most == 0
                            ? std::string("closing none of the open ones")
                            : fmt::format("closing {} of the open ones at most", *asked.close_at_most));
    const auto named = [&](const std::vector<SiteIndex>& sites) {
        std::vector<std::string> labels;
        labels.reserve(sites.size());
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

}  // namespace otoro::service
