/// A number with a unit.
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>

#include "desktop/blanks/blank_editors.h"
#include "desktop/parts/number_box.h"
#include "desktop/words.h"

namespace otoro::desktop {

void add_amount(QVBoxLayout& box, QWidget& popup, const QString& name, const Amount& now, bool units_open,
                const std::function<void(Amount)>& changed) {
    auto* row = new QHBoxLayout;
    auto* number = new NumberBox(&popup);
    auto* unit = new QComboBox(&popup);
    number->setObjectName("amount");
    number->setAccessibleName(name);
    number->setDecimals(2);
    number->setRange(0.1, 600);
    number->setStepType(QAbstractSpinBox::AdaptiveDecimalStepType);
    unit->setAccessibleName(Blanks::tr("Unit"));
    unit->addItems({Blanks::tr("min"), long_unit()});
    const bool time = std::holds_alternative<Millis>(now);
    number->setValue(time ? std::get<Millis>(now).minutes() : in_long_units(std::get<Millimetres>(now)));
    unit->setCurrentIndex(time ? 0 : 1);
    unit->setEnabled(units_open);
    row->addWidget(number);
    row->addWidget(unit);
    box.addLayout(row);
    const auto report = [number, unit, changed] {
        changed(unit->currentIndex() == 0 ? Amount(Millis(std::llround(number->value() * 60'000)))
                                          : Amount(from_long_units(number->value())));
    };
    QObject::connect(number, &QDoubleSpinBox::valueChanged, &popup, report);
    QObject::connect(unit, &QComboBox::currentIndexChanged, &popup, report);
    number->setFocus();
    number->selectAll();
}

}  // namespace otoro::desktop
