#include <QCheckBox>
#include <QVBoxLayout>
#include <algorithm>
#include <memory>

#include "desktop/blanks/blank_editors.h"

namespace otoro::desktop {

void edit_limit(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    const auto now = desk.question().limit;
    auto* on = new QCheckBox(Blanks::tr("places farther than this are not served:"), &popup);
    on->setAccessibleName(Blanks::tr("Serve only up to a limit"));
    on->setChecked(now.has_value());
    box.addWidget(on);
    auto* holder = new QWidget(&popup);
    auto* inner = new QVBoxLayout(holder);
    inner->setContentsMargins(0, 0, 0, 0);
    auto amount = std::make_shared<Amount>(now.value_or(Millis::minutes(20)));
    holder->setEnabled(now.has_value());
    add_amount(*inner, *holder, Blanks::tr("Limit"), *amount, true, [desk, amount, on](const Amount& a) {
        *amount = a;
        if (on->isChecked()) desk.change(Blanks::tr("limit"), [&](auto& q) { q.limit = a; });
    });
    box.addWidget(holder);
    auto* own = new QCheckBox(Blanks::tr("nor farther than the limit of the site itself"), &popup);
    own->setObjectName("own_limits");
    own->setAccessibleName(own->text());
    own->setChecked(desk.question().own_limits);
    const auto sites = desk.document.study().sites_of(desk.question());
    const bool known = std::any_of(sites.sets().begin(), sites.sets().end(), [](const auto& set) {
        return std::any_of(set->sites.begin(), set->sites.end(), [](const auto& s) { return s.limit.has_value(); });
    });
    own->setEnabled(known || own->isChecked());
    own->setToolTip(known ? Blanks::tr("Every site serves up to the minutes or metres that its own record gives.")
                          : Blanks::tr("No site has a limit. Add the sites again and name the field that has it."));
    box.addWidget(own);
    QObject::connect(own, &QCheckBox::toggled, &popup, [desk](bool checked) {
        desk.change(Blanks::tr("own limits"), [&](auto& q) { q.own_limits = checked; });
    });
    QObject::connect(on, &QCheckBox::toggled, &popup, [desk, amount, holder](bool checked) {
        holder->setEnabled(checked);
        desk.change(Blanks::tr("limit"), [&](auto& q) { q.limit = checked ? std::optional(*amount) : std::nullopt; });
    });
}

}  // namespace otoro::desktop
