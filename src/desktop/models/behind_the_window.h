#pragma once
/// \file
/// Priorities: whatever else is going on, the interface thread goes first.

namespace otoro::desktop {

/// How far a thread stands back where several want the processor.
enum class Behind {
    closely,  ///< somebody is looking at what it makes: answers, pictures
    far,      ///< nobody waits for it: preparing, checking, saving
};

/// Lets the interface thread go first wherever both want the processor. Called by a thread about itself.
void stand_behind_the_window(Behind how);

/// The same for the threads that loops of the core are shared out to. Called once, before the first such loop.
void put_helpers_behind_the_window();

}  // namespace otoro::desktop
