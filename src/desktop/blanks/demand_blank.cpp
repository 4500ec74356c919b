#include <QVBoxLayout>

#include "desktop/blanks/blank_editors.h"

namespace otoro::desktop {

void edit_demand(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    QStringList names;
    for (const auto& d : desk.document.study().demand) names.append(QString::fromStdString(d.set->name));
    add_set_choices(box, popup, names, desk.question().demand, [desk](const std::vector<std::string>& chosen) {
        desk.change(Blanks::tr("demand"), [&](auto& q) { q.demand = chosen; });
    });
}

}  // namespace otoro::desktop
