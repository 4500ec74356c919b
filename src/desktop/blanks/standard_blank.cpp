#include <QCheckBox>
#include <QLabel>
#include <QVBoxLayout>
#include <memory>

#include "desktop/blanks/blank_editors.h"
#include "desktop/parts/number_box.h"

namespace otoro::desktop {

void edit_share(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    auto* share = new NumberBox(&popup);
    share->setObjectName("amount");
    share->setAccessibleName(Blanks::tr("Share in per cent"));
    share->setRange(0.1, 100);
    share->setDecimals(1);
    share->setSuffix(Blanks::tr(" %"));
    share->setValue(desk.question().standard ? desk.question().standard->share.percent() : 90);
    box.addWidget(share);
    share->setFocus();
    share->selectAll();
    QObject::connect(share, &QDoubleSpinBox::valueChanged, &popup, [desk](double v) {
        desk.change(Blanks::tr("share"), [&](auto& q) {
            if (q.standard) q.standard->share = Share::percent(v);
        });
    });
}

void edit_standard(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    const auto now = desk.question().standard;
    auto standard = std::make_shared<service::Standard>(now.value_or(service::Standard{}));
    auto* on = new QCheckBox(Blanks::tr("there is a standard to be met"), &popup);
    on->setObjectName("has_standard");
    on->setAccessibleName(on->text());
    on->setChecked(now.has_value());
    auto* holder = new QWidget(&popup);
    auto* inner = new QVBoxLayout(holder);
    inner->setContentsMargins(0, 0, 0, 0);
    holder->setEnabled(now.has_value());
    add_amount(*inner, *holder, Blanks::tr("Limit of the standard"), standard->limit, true,
               [desk, standard, on](const Amount& a) {
                   standard->limit = a;
                   if (!on->isChecked()) return;
                   desk.change(Blanks::tr("standard"), [&](auto& q) {
                       if (q.standard) q.standard->limit = a;
                   });
               });
    box.addWidget(holder);
    box.addWidget(on);
    if (now && now->further.empty()) {  // else they have a blank of their own
        auto* what = new QLabel(Blanks::tr("And besides, such as all within twice as long:"), &popup);
        what->setProperty("role", "soft");
        box.addWidget(what);
        edit_steps(desk, box, popup);
    }
    QObject::connect(on, &QCheckBox::toggled, &popup, [desk, standard, holder](bool checked) {
        holder->setEnabled(checked);
        if (!checked && desk.question().standard) *standard = *desk.question().standard;
        desk.change(Blanks::tr("standard"),
                    [&](auto& q) { q.standard = checked ? std::optional(*standard) : std::nullopt; });
    });
}

}  // namespace otoro::desktop
