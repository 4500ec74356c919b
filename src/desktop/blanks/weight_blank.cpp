#include <QVBoxLayout>

#include "desktop/blanks/blank_editors.h"

namespace otoro::desktop {

void edit_weight(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    const auto counted = service::weight_name(desk.document.study().demand_of(desk.question()));
    QStringList choices{Blanks::tr("each counted once")};
    if (!counted.empty()) choices.append(Blanks::tr("counted by %1").arg(QString::fromStdString(counted)));
    add_choices(box, popup, choices, desk.question().by_weight ? static_cast<int>(choices.size()) - 1 : 0,
                [desk](int i) { desk.change(Blanks::tr("weight"), [&](auto& q) { q.by_weight = i == 1; }); });
}

}  // namespace otoro::desktop
