#pragma once
/// \file
/// What a search has proven, written down step by step, and a check of it that shares nothing with the search.
///
/// \par Method
/// A search divides all sets by one column after another. A proof is that division in the order of the search: columns
/// whose other fate is excluded by a plane (`GoalRows::Slope`), columns that divide what is left in two, and at each
/// end what shows that no set there is better than the bound: a plane, the rules, or the value of everything that may
/// still be in. The check walks through it with whole numbers alone: under a plane no set is worth more than `rest` and
/// the best columns that the rules leave room for.
///
/// \par Not checked
/// That planes lie above the goal is taken from `GoalRows`; but one that lies below the value of a set that is known is
/// found out.
///
/// \par Cost
/// A pass over the columns for every step, those that a group limits twice; a plane takes 16 bytes a column.
#include <optional>
#include <vector>

#include "optimise/goal_rows.h"

namespace otoro::optimise {

class Proof {
public:
    /// How many bytes of planes are kept at most; a longer proof is not complete, and not checked.
    static constexpr std::size_t kMostBytes = std::size_t{256} << 20U;

    /// \returns by what number it is called in what follows
    std::size_t add_plane(const GoalRows::Slope& plane);
    /// Where `column` had the other fate no set would be better: it is in, or out, from here on.
    void settle(std::uint32_t column, bool in, std::size_t plane) { add({Kind::settle, in, column, plane}); }
    /// What follows is the part with `column` in, or out, and after its end the other part.
    void divide(std::uint32_t column, bool in_first) { add({Kind::divide, in_first, column, 0}); }
    // Ends of parts: no set here is better, by a plane; since the rules allow none; since all there is to choose from
    // is not worth more, or nothing is left to be chosen.
    void end_by_plane(std::size_t plane) { add({Kind::plane, false, 0, plane}); }
    void end_by_rules() { add({Kind::rules, false, 0, 0}); }
    void end_by_value() { add({Kind::value, false, 0, 0}); }

    [[nodiscard]] bool complete() const { return complete_; }
    [[nodiscard]] std::size_t steps() const { return steps_.size(); }

private:
    friend class ProofCheck;
    enum class Kind : std::uint8_t { settle, divide, plane, rules, value };
    struct Step {
        Kind kind;
        bool in;
        std::uint32_t column;
        std::size_t plane;
    };
    void add(const Step& step) {
        if (complete_) steps_.push_back(step);
    }
    std::vector<Step> steps_;
    std::vector<GoalRows::Slope> planes_;
    std::size_t bytes_ = 0;
    bool complete_ = true;
};

/// What a proof is to show: that no set that keeps to the rules is worth more than `bound`.
struct Claim {
    const ChoiceRules& rules;  ///< with what follows from them
    Wide bound;
    Wide grain;                    ///< values are multiples of it
    std::optional<Columns> known;  ///< a set that keeps to the rules; nothing if none is known
    const GoalRows* rows =
        nullptr;  ///< what sets are worth; null: no part ends by value, and planes are taken as they are
};
bool shows(const Proof& proof, const Claim& claim);
/// \throws std::logic_error if the proof is complete and does not show what it is to show
void check(const Proof& proof, const Claim& claim);

}  // namespace otoro::optimise
