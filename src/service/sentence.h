#pragma once
/// \file
/// The question as one sentence: words and blanks in order, made here and nowhere else.
///
/// "The households, counted by residents, are each served by the nearest by time of the open ambulance posts, driving
/// to the place, however far; 90 % must be within 8 min."
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "places/joined.h"
#include "service/question.h"

namespace otoro::service {

/// What can be set in the sentence.
enum class Blank : std::uint8_t {
    none,
    demand,
    weight,
    serving,
    sites,
    travel,
    towards,
    limit,
    share,
    standard,
    steps
};

/// The name by which a blank is known in code and tests: `towards`.
std::string_view key(Blank blank);

/// A stretch of the sentence: fixed words, or what a blank says.
struct SentencePart {
    std::string text;
    Blank blank = Blank::none;
    bool closes_up = false;  ///< follows what is before it without a space: a comma
};

/// The whole sentence. \param weight_name what the weight of the demand counts; empty: each place counts one
std::vector<SentencePart> sentence_parts(const Question& question, const std::string& weight_name);

/// The parts as running text.
std::string as_text(const std::vector<SentencePart>& parts);

/// The sentence as running text.
std::string sentence(const Question& question, const std::string& weight_name);
std::string sentence(const Question& question, const places::Demand& demand);

/// How one travels, with all that is part of it: "driving at 36 km/h on all roads, 90 s to turn out".
std::string travel_words(const Question& question);
/// "at most 12 min", "at most its site's own limit", "however far".
std::string limit_words(const Question& question);

/// What the weights of these sets count: "residents", "residents and pupils"; empty if nothing is named.
std::string weight_name(const places::Demand& demand);

/// What shares are of: "residents" by weight, else "households".
std::string counted(const Question& question, const places::Demand& demand);

/// "households, farms and shops".
std::string listed(const std::vector<std::string>& names);

}  // namespace otoro::service
