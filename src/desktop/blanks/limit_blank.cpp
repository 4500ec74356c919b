#include <QCheckBox>
#include <QVBoxLayout>
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
    QObject::connect(on, &QCheckBox::toggled, &popup, [desk, amount, holder](bool checked) {
        holder->setEnabled(checked);
        desk.change(Blanks::tr("limit"), [&](auto& q) { q.limit = checked ? std::optional(*amount) : std::nullopt; });
    });
}

}  // namespace otoro::desktop
