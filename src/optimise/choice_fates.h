#pragma once
/// \file
/// What has become of every column on the way through a search, and what follows from it by the rules.
#include "optimise/rule_book.h"

namespace otoro::optimise {

class ChoiceFates {
public:
    /// \pre `rules` stays
    explicit ChoiceFates(const RuleBook& rules);

    [[nodiscard]] const RuleBook& rules() const { return rules_; }
    [[nodiscard]] Fate operator[](std::uint32_t column) const { return fate_[column]; }
    [[nodiscard]] Wide spent() const { return spent_; }
    [[nodiscard]] Wide room_left() const { return rules_.room - spent_; }
    [[nodiscard]] bool any_open() const;
    [[nodiscard]] Columns open() const;
    [[nodiscard]] Columns chosen() const;

    /// Decides a column and whatever follows. \param decided gets what was open before \returns whether the rules still
    /// allow it
    bool decide(std::uint32_t column, Fate fate, Columns& decided);
    void undo(const Columns& decided);
    /// What is dear beyond what is left goes out; the last ones of a group come in, and where there is room for those
    /// alone, all others go out. \returns whether that is allowed
    bool follow_up(Columns& decided);

    [[nodiscard]] Wide still_wanted(const Group& group) const;
    /// The group of which most are still wanted, where columns are counted; null if there is none.
    [[nodiscard]] const Group* leading() const;

private:
    const RuleBook& rules_;
    std::vector<Fate> fate_;
    Wide spent_ = 0;
};

}  // namespace otoro::optimise
