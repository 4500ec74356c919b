#pragma once
/// \file
/// What is asked about ground, worked out off the interface thread.
#include "desktop/models/ground_finder.h"
#include "desktop/models/worked_out.h"

namespace otoro::desktop {

/// Follows what is asked of it last.
class ReachAsker : public WorkedOut<GroundFound> {
public:
    using WorkedOut::WorkedOut;

    /// Nothing happens if that is there, or being worked out.
    void ask(GroundAsked asked) {
        if (wanted_ == asked && (busy() || found())) return;
        wanted_ = asked;
        WorkedOut::ask([asked = std::move(asked)](const Task& task) { return find_ground(asked, kLeastPatch, task); });
    }
    /// Whether that is just what was found.
    [[nodiscard]] bool has(const GroundAsked& asked) const { return found() && found()->asked == asked; }

    /// Patches without places that are smaller are counted and not listed.
    static constexpr double kLeastPatch = 1000;

private:
    std::optional<GroundAsked> wanted_;
};

}  // namespace otoro::desktop
