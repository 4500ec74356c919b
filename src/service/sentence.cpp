#include "service/sentence.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, 11> kKeys{"",        "demand", "weight", "serving",  "sites", "travel",
                                                 "towards", "limit",  "share",  "standard", "steps"};

}  // namespace

std::string_view key(Blank blank) { return kKeys[static_cast<std::size_t>(blank)]; }

std::string travel_words(const Question& q) {
    constexpr std::array<std::string_view, 4> kDoing{"driving", "responding with priority", "walking", "cycling"};
    std::string s(kDoing[static_cast<std::size_t>(q.profile.mode)]);
    if (!q.profile.name.empty()) s += " as " + q.profile.name;
    if (q.profile.one_speed) s += fmt::format(" at {} on all roads", describe(*q.profile.one_speed));
    if (q.turnout.count() > 0) s += fmt::format(", {} to turn out", describe(q.turnout));
    if (q.off_road_speed) s += fmt::format(", off-road legs at {}", describe(*q.off_road_speed));
    return s;
}

std::string limit_words(const Question& q) {
    if (q.own_limits)
        return (q.limit ? "at most " + describe(*q.limit) + " and" : std::string("at most")) + " its site's own limit";
    return q.limit ? "at most " + describe(*q.limit) : "however far";
}

std::string listed(const std::vector<std::string>& names) {
    std::string s;
    for (std::size_t i = 0; i < names.size(); ++i)
        s += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
    return s;
}

std::string counted(const Question& question, const places::Demand& demand) {
    if (const std::string name = weight_name(demand); question.by_weight && !name.empty()) return name;
    std::vector<std::string> names;
    for (const auto& set : demand.sets()) names.push_back(set->name);
    return listed(names);
}

std::string weight_name(const places::Demand& demand) {
    std::vector<std::string> names;
    for (const auto& set : demand.sets())
        if (!set->weight_name.empty() && std::find(names.begin(), names.end(), set->weight_name) == names.end())
            names.push_back(set->weight_name);
    return listed(names);
}

std::vector<SentencePart> sentence_parts(const Question& q, const std::string& weight_name) {
    std::vector<SentencePart> out;
    const auto words = [&](const char* text) { out.push_back({text, Blank::none, false}); };
    const auto mark = [&](const char* text) { out.push_back({text, Blank::none, true}); };
    const auto blank = [&](Blank which, std::string text) { out.push_back({std::move(text), which, false}); };

    words("The");
    blank(Blank::demand, q.demand.empty() ? "(no demand yet)" : listed(q.demand));
    mark(",");
    blank(Blank::weight, q.by_weight && !weight_name.empty() ? "counted by " + weight_name : "each counted once");
    mark(",");
    words("are each served by the");
    blank(Blank::serving, describe(q.serving));
    words("of the");
    blank(Blank::sites, (q.use == SiteUse::open ? "open " : "open and candidate ") +
                            (q.sites.empty() ? std::string("(no sites yet)") : listed(q.sites)));
    mark(",");
    blank(Blank::travel, travel_words(q));
    blank(Blank::towards, q.towards == Towards::demand ? "to the place" : "to the site");
    mark(",");
    blank(Blank::limit, limit_words(q));
    mark(";");
    if (q.standard) {
        blank(Blank::share, describe(q.standard->share));
        words("must be within");
        blank(Blank::standard, describe(q.standard->limit));
        if (!q.standard->further.empty()) {
            std::vector<std::string> steps;
            for (const Step& step : q.standard->further) steps.push_back(describe(step));
            mark(",");
            words("and");
            blank(Blank::steps, listed(steps));
        }
    } else {
        blank(Blank::standard, "no standard is set");
    }
    mark(".");
    return out;
}

std::string as_text(const std::vector<SentencePart>& parts) {
    std::string s;
    for (const auto& p : parts) s += (s.empty() || p.closes_up ? "" : " ") + p.text;
    return s;
}

std::string sentence(const Question& question, const std::string& weight_name) {
    return as_text(sentence_parts(question, weight_name));
}

std::string sentence(const Question& question, const places::Demand& demand) {
    return sentence(question, weight_name(demand));
}

}  // namespace otoro::service
