#pragma once
/// \file
/// Answers that are kept, within a budget of memory.
///
/// Those of the study's plans are kept, and of plans that are no more the last few, since a step back is often taken.
/// Where the budget does not hold them all, those that were looked at longest ago are let go of, but never the one in
/// sight, nor Today's. Not for two threads.
#include <cstddef>
#include <vector>

#include "desktop/models/answerer.h"

namespace otoro::desktop {

/// About how many bytes an answer takes that are not also another's.
std::size_t memory_of(const PlanAnswer& answer);

class AnswerStore {
public:
    static constexpr std::size_t kBudget = 400'000'000;
    static constexpr std::size_t kStepsBack = 4;

    explicit AnswerStore(std::size_t budget = kBudget) : budget_(budget) {}

    /// Null if there is none. It counts as looked at.
    [[nodiscard]] PlanAnswerPtr find(const service::Plan& plan) const;
    /// One more, unless its plan's is there.
    void keep(const PlanAnswerPtr& answer);
    /// Lets go of what the budget does not hold. \param plans the study's, Today first
    void let_go(const std::vector<service::Plan>& plans, std::size_t in_sight);
    /// Whether the plan's answer was here and the budget did not hold it.
    [[nodiscard]] bool was_let_go(const service::Plan& plan) const;
    [[nodiscard]] bool has_let_go() const { return !let_go_.empty(); }
    /// It is wanted again.
    void want(const service::Plan& plan);
    void clear();
    [[nodiscard]] std::size_t bytes() const;
    [[nodiscard]] std::size_t count() const { return kept_.size(); }

private:
    struct Kept {
        PlanAnswerPtr answer;
        std::size_t bytes = 0;
        mutable quint64 looked_at = 0;
    };
    std::size_t budget_;
    mutable quint64 looks_ = 0;
    std::vector<Kept> kept_;
    std::vector<service::Plan> let_go_;
};

}  // namespace otoro::desktop
