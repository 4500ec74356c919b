#pragma once
/// \file
/// The kinds of long work a planner starts, each on its own, so that none waits for or stops another. Answering and
/// preparing searches have threads of their own (answerer.h).
#include <array>

#include "desktop/models/background.h"

namespace otoro::desktop {

struct Jobs {
    Background reading;    ///< files looked at, added and opened
    Background saving;     ///< the study
    Background fixing;     ///< fixes of the data, other rules
    Background exporting;  ///< answers and maps

    [[nodiscard]] std::array<Background*, 4> all() { return {&reading, &saving, &fixing, &exporting}; }
    [[nodiscard]] bool busy() const { return reading.busy() || saving.busy() || fixing.busy() || exporting.busy(); }
};

}  // namespace otoro::desktop
