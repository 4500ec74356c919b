#include "service/standard.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "geo/error.h"
#include "geo/wording.h"
#include "service/serving.h"

namespace otoro::service {
namespace {

std::string_view trimmed(std::string_view text) {
    const auto is_blank = [](char c) { return c == ' ' || c == '\t'; };
    while (!text.empty() && is_blank(text.front())) text.remove_prefix(1);
    while (!text.empty() && is_blank(text.back())) text.remove_suffix(1);
    return text;
}

[[noreturn]] void no_step(std::string_view text, const std::string& why) {
    throw InputError({"", std::nullopt, fmt::format("'{}' is no step of a standard: {}", text, why),
                      "Write steps like '90% within 8min, all within 20min', with 'by 2' for a second site and 'for "
                      "NAME' for a zone or group"});
}

/// What stands after a word that stands alone; the text is cut before it.
std::optional<std::string_view> cut_after(std::string_view& text, std::string_view word) {
    const auto at = text.find(word);
    if (at == std::string_view::npos) return std::nullopt;
    const std::string_view rest = trimmed(text.substr(at + word.size()));
    text = trimmed(text.substr(0, at));
    return rest;
}

Step parse_step(std::string_view whole) {
    std::string_view text = whole;
    Step step;
    if (const auto part = cut_after(text, " for ")) {
        if (part->empty()) no_step(whole, "it does not say for whom");
        step.scope.part = *part;
    }
    if (const auto needed = cut_after(text, " by ")) {
        double number = 0;
        if (!parse_number(*needed, number) || number < 1 || number > kMostNearest || number != std::floor(number))
            no_step(whole, fmt::format("'{}' is no number of sites", *needed));
        step.scope.needed = static_cast<std::uint32_t>(number);
    }
    const auto limit = cut_after(text, "within");
    if (!limit) no_step(whole, "it does not say within what");
    try {
        step.share = text == "all" ? Share::percent(100) : parse_share(text);
        step.limit = parse_amount(*limit);
    } catch (const InputError& e) {
        no_step(whole, e.parts().wrong);
    }
    return step;
}

}  // namespace

std::vector<StepScope> scopes(const std::optional<Standard>& standard) {
    std::vector<StepScope> out;
    if (!standard) return out;
    for (const Step& step : standard->further)
        if (!step.scope.of_all()) out.push_back(step.scope);
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

std::int64_t limit_of(const Step& step) {
    return std::visit([](auto limit) { return std::int64_t{limit.count()}; }, step.limit);
}
double shown(const Step& step, std::int64_t value) {
    return static_cast<double>(value) / (is_time(step.limit) ? 60'000 : 1'000);
}

Weight wanted_of(Weight all, Share share) {
    const Wide part = static_cast<Wide>(all.count()) * share.ppm();
    return Weight(static_cast<std::int64_t>((part + 999'999) / 1'000'000));
}

std::vector<Step> parse_steps(std::string_view text) {
    std::vector<Step> out;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        const auto step = trimmed(text.substr(at, end - at));
        if (step.empty()) no_step(text, "a step is empty");
        out.push_back(parse_step(step));
        at = end + 1;
    }
    return out;
}

Standard parse_standard(std::string_view text) {
    auto steps = parse_steps(text);
    const auto first = std::find_if(steps.begin(), steps.end(), [](const Step& s) { return s.scope.of_all(); });
    if (first == steps.end())
        throw InputError({"", std::nullopt, fmt::format("'{}' says nothing of all places", text),
                          "Name a share of all as well, such as '90% within 8min', by which the answer is shown"});
    Standard standard{first->share, first->limit, {}};
    steps.erase(first);
    if (steps.size() > kMostFurtherSteps)
        throw InputError({"", std::nullopt, fmt::format("'{}' has too many steps", text),
                          fmt::format("A standard has at most {} of them", kMostFurtherSteps + 1)});
    standard.further = std::move(steps);
    return standard;
}

std::string describe(const Step& step) {
    std::string text = fmt::format("{} within {}", step.share == Share::percent(100) ? "all" : describe(step.share),
                                   describe(step.limit));
    if (step.scope.needed > 1) text += fmt::format(" by {}", step.scope.needed);
    if (!step.scope.part.empty()) text += " for " + step.scope.part;
    return text;
}

}  // namespace otoro::service
