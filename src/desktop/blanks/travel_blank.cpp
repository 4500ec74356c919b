#include <QCheckBox>
#include <QDoubleSpinBox>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/blanks/blank_editors.h"
#include "desktop/parts/number_box.h"
#include "desktop/words.h"

namespace otoro::desktop {

void edit_travel(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    QStringList names{Blanks::tr("driving"), Blanks::tr("responding with priority (1.15 times as fast)"),
                      Blanks::tr("walking"), Blanks::tr("cycling")};
    const auto now_profile = desk.question().profile;
    int current = now_profile.name.empty() ? static_cast<int>(now_profile.mode) : -1;
    for (const auto& p : desk.document.study().profiles) {
        if (p.name == now_profile.name) current = static_cast<int>(names.size());
        names.append(QString::fromStdString(p.name));
    }
    add_choices(box, popup, names, current, [desk](int i) {
        desk.change(Blanks::tr("way of travelling"), [&](auto& q) {
            const auto one_speed = q.profile.one_speed;
            const auto own = static_cast<std::size_t>(i) - 4;
            if (i >= 4 && own >= desk.document.study().profiles.size()) return;
            if (i >= 4)
                q.profile = desk.document.study().profiles[own];
            else
                q.profile = {static_cast<travel::Mode>(i), one_speed};
        });
    });
    const QString unit = QString::fromStdString(speed_unit());
    auto* one = new QCheckBox(Blanks::tr("at one speed on all roads, %1:").arg(unit), &popup);
    auto* speed = new NumberBox(&popup);
    one->setAccessibleName(Blanks::tr("One speed on all roads"));
    speed->setAccessibleName(Blanks::tr("Speed in %1").arg(unit));
    speed->setRange(1, 200);
    speed->setDecimals(1);
    const auto now = desk.question().profile.one_speed;
    one->setChecked(now.has_value());
    speed->setEnabled(now.has_value());
    speed->setValue(now ? in_speed_units(*now) : std::round(in_speed_units(Speed::km_per_hour(40))));
    box.addWidget(one);
    box.addWidget(speed);
    const auto report = [desk, one, speed] {
        speed->setEnabled(one->isChecked());
        desk.change(Blanks::tr("speed"), [&](auto& q) {
            q.profile.one_speed = one->isChecked() ? std::optional(from_speed_units(speed->value())) : std::nullopt;
        });
    };
    QObject::connect(one, &QCheckBox::toggled, &popup, report);
    QObject::connect(speed, &QDoubleSpinBox::valueChanged, &popup, report);
    auto* off = new QCheckBox(Blanks::tr("off-road legs count too, at %1:").arg(unit), &popup);
    auto* off_speed = new NumberBox(&popup);
    off->setAccessibleName(Blanks::tr("Off-road legs count too"));
    off_speed->setAccessibleName(Blanks::tr("Speed of off-road legs in %1").arg(unit));
    off_speed->setRange(0.5, 50);
    off_speed->setDecimals(1);
    const auto off_now = desk.question().off_road_speed;
    off->setChecked(off_now.has_value());
    off_speed->setEnabled(off_now.has_value());
    off_speed->setValue(off_now ? in_speed_units(*off_now) : in_speed_units(Speed::km_per_hour(4.8)));
    box.addWidget(off);
    box.addWidget(off_speed);
    const auto report_off = [desk, off, off_speed] {
        off_speed->setEnabled(off->isChecked());
        desk.change(Blanks::tr("off-road legs"), [&](auto& q) {
            q.off_road_speed = off->isChecked() ? std::optional(from_speed_units(off_speed->value())) : std::nullopt;
        });
    };
    QObject::connect(off, &QCheckBox::toggled, &popup, report_off);
    QObject::connect(off_speed, &QDoubleSpinBox::valueChanged, &popup, report_off);
    auto* turnout = new NumberBox(&popup);
    turnout->setObjectName("turnout");
    turnout->setAccessibleName(Blanks::tr("Minutes to turn out"));
    turnout->setPrefix(Blanks::tr("turning out takes "));
    turnout->setSuffix(Blanks::tr(" min"));
    turnout->setToolTip(
        Blanks::tr("Taking the call and turning out, before anybody is on the road: part of every time, of sites that "
                   "have no turnout of their own."));
    turnout->setRange(0, 60);
    turnout->setDecimals(2);
    turnout->setSingleStep(0.5);
    turnout->setValue(desk.question().turnout.minutes());
    box.addWidget(turnout);
    QObject::connect(turnout, &QDoubleSpinBox::valueChanged, &popup, [desk](double minutes) {
        desk.change(Blanks::tr("turnout"), [&](auto& q) { q.turnout = Millis(std::llround(minutes * 60'000)); });
    });
    auto* more = new QPushButton(Blanks::tr("Travel profiles\u2026"), &popup);
    more->setAccessibleName(Blanks::tr("Open the travel profiles"));
    box.addWidget(more);
    QObject::connect(more, &QPushButton::clicked, &popup, [desk, p = &popup] {
        p->close();
        desk.show_profiles();
    });
}

}  // namespace otoro::desktop
