#include <QCheckBox>
#include <QVBoxLayout>

#include "desktop/blanks/blank_editors.h"

namespace otoro::desktop {

void edit_sites(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    QStringList names;
    for (const auto& s : desk.document.study().sites) names.append(QString::fromStdString(s.set->name));
    add_set_choices(box, popup, names, desk.question().sites, [desk](const std::vector<std::string>& chosen) {
        desk.change(Blanks::tr("sites"), [&](auto& q) { q.sites = chosen; });
    });
    auto* candidates = new QCheckBox(Blanks::tr("candidates serve too"), &popup);
    candidates->setObjectName("candidates");
    candidates->setAccessibleName(Blanks::tr("Candidate sites serve too"));
    candidates->setChecked(desk.question().use == service::SiteUse::open_and_candidate);
    box.addWidget(candidates);
    QObject::connect(candidates, &QCheckBox::toggled, &popup, [desk](bool on) {
        desk.change(Blanks::tr("candidates"),
                    [&](auto& q) { q.use = on ? service::SiteUse::open_and_candidate : service::SiteUse::open; });
    });
}

}  // namespace otoro::desktop
