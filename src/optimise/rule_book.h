#pragma once
/// \file
/// The rules of a choice, put so that they can be looked up.
#include "optimise/choice.h"

namespace otoro::optimise {

/// What has become of a column on the way through a search.
enum class Fate : std::uint8_t { open, chosen, out };

struct RuleBook {
    std::uint32_t n;
    std::vector<std::int64_t> cost;  ///< one each where they only count
    Wide room;                       ///< for costs
    bool counting;                   ///< whether every column costs one
    std::vector<Columns> against;    ///< by column: those that it excludes
    std::vector<Group> groups;       ///< without kept columns, and what is wanted besides those
    std::vector<std::uint8_t> never, required;

    /// \param asked with what follows from it
    explicit RuleBook(const ChoiceRules& asked);
    /// How many more are wanted of a group. \param in one a column
    [[nodiscard]] static std::uint32_t wanted(const Group& group, const std::vector<std::uint8_t>& in);
    /// Whether a column is of a group.
    [[nodiscard]] static bool is_of(const Group& group, std::uint32_t column);
    /// Whether more is had for what `a` costs than for what `b` does.
    [[nodiscard]] bool dearer(Wide gain_a, std::uint32_t a, Wide gain_b, std::uint32_t b) const;
    /// Whether nothing but the number and single columns is ruled.
    [[nodiscard]] bool plain() const;
    /// Whether a set keeps to them.
    [[nodiscard]] bool allow(const Columns& set) const;
};

}  // namespace otoro::optimise
