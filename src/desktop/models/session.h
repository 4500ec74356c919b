#pragma once
/// \file
/// What a window works on: the document, the answers to its questions, what is picked, and the route.
#include "desktop/models/answers.h"
#include "desktop/models/document.h"
#include "desktop/models/route_planner.h"
#include "desktop/models/selection.h"

namespace otoro::desktop {

/// They belong together, and each knows no more than it needs: answers follow the document, the selection is
/// emptied when the places it is of have changed.
struct Session {
    Session() {
        QObject::connect(&document, &Document::settled, &selection, [this](Changes changes) {
            if (changes.document || changes.search) selection.pick({});
        });
    }
    Document document;
    Answers answers{document};
    Selection selection;
    RoutePlanner route{document, answers};
};

}  // namespace otoro::desktop
