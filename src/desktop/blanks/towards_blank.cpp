#include <QVBoxLayout>

#include "desktop/blanks/blank_editors.h"

namespace otoro::desktop {

void edit_towards(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    add_choices(box, popup, {Blanks::tr("to the place (a response)"), Blanks::tr("to the site (a journey to school)")},
                static_cast<int>(desk.question().towards), [desk](int i) {
                    desk.change(Blanks::tr("direction"),
                                [&](auto& q) { q.towards = static_cast<service::Towards>(i); });
                });
}

}  // namespace otoro::desktop
