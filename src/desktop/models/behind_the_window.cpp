#include "desktop/models/behind_the_window.h"

#include <sys/resource.h>
#include <tbb/task_scheduler_observer.h>
#include <unistd.h>

namespace otoro::desktop {

void stand_behind_the_window(Behind how) {
    constexpr int kClosely = 3, kFar = 8;
    // On Linux a thread has a priority of its own. Without the right to change it nothing is lost but smoothness.
    (void)::setpriority(PRIO_PROCESS, static_cast<id_t>(::gettid()), how == Behind::closely ? kClosely : kFar);
}

void put_helpers_behind_the_window() {
    class Helpers : public tbb::task_scheduler_observer {
    public:
        Helpers() { observe(true); }
        void on_scheduler_entry(bool is_helper) override {
            thread_local bool placed = false;
            if (is_helper && !placed) stand_behind_the_window(Behind::closely);
            placed = true;
        }
    };
    static Helpers helpers;
}

}  // namespace otoro::desktop
