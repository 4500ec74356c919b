#include "desktop/parts/number_box.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QLocale>
#include <QSignalBlocker>
#include <QToolTip>
#include <QVBoxLayout>
#include <cmath>
#include <utility>

#include "desktop/words.h"

namespace otoro::desktop {

NumberBox::NumberBox(QWidget* parent) : QDoubleSpinBox(parent) {
    setLocale(QLocale::c());
    setGroupSeparatorShown(false);
    setKeyboardTracking(false);  // half of what is being typed is not a number that was meant
    connect(this, &NumberBox::refused, this, [this](const QString& why) {
        setAccessibleDescription(why);
        QToolTip::showText(mapToGlobal(QPoint(0, height())), why, this);
    });
}

QString NumberBox::textFromValue(double value) const { return decimal(value, decimals()); }

std::optional<double> NumberBox::number(const QString& text) const {
    QString bare = text;
    if (!suffix().isEmpty() && bare.endsWith(suffix())) bare.chop(suffix().size());
    if (!prefix().isEmpty() && bare.startsWith(prefix())) bare.remove(0, prefix().size());
    bare = bare.trimmed();
    if (!suffix().trimmed().isEmpty() && bare.endsWith(suffix().trimmed())) bare.chop(suffix().trimmed().size());
    bare = bare.trimmed();
    if (bare.count(',') + bare.count('.') > 1) return std::nullopt;  // 1,234.5 may mean two things
    bool ok = false;
    const double v = QLocale::c().toDouble(bare.replace(',', '.'), &ok);
    return ok && std::isfinite(v) ? std::optional(v) : std::nullopt;
}

double value_near(const QDoubleSpinBox& box, double exact) {
    const double one = std::pow(10.0, box.decimals());
    return std::abs(box.value() - std::round(exact * one) / one) < 1e-9 ? exact : box.value();
}

double NumberBox::valueFromText(const QString& text) const { return number(text).value_or(value()); }

QString NumberBox::shown() const {
    return value() == minimum() && !specialValueText().isEmpty() ? specialValueText()
                                                                 : prefix() + textFromValue(value()) + suffix();
}

bool NumberBox::give_up() {
    if (text() == shown()) return false;
    const QSignalBlocker quiet(lineEdit());
    lineEdit()->setText(shown());
    return true;
}

void NumberBox::keyPressEvent(QKeyEvent* e) {
    // A sheet or a popup that holds the box is given up with it; elsewhere Escape means the number alone.
    if (e->key() == Qt::Key_Escape && give_up() && !window()->windowFlags().testFlag(Qt::Popup) &&
        qobject_cast<QDialog*>(window()) == nullptr)
        return e->accept();
    QDoubleSpinBox::keyPressEvent(e);
}

QValidator::State NumberBox::validate(QString& text, int&) const {
    if (!specialValueText().isEmpty() && text == specialValueText()) return QValidator::Acceptable;
    // Whatever is typed stands there until it is taken: what is no number is said then, not swallowed.
    const auto v = number(text);
    return v && *v >= minimum() && *v <= maximum() ? QValidator::Acceptable : QValidator::Intermediate;
}

void NumberBox::fixup(QString& text) const {
    const auto v = number(text);
    const QString typed = QString(text).remove(suffix()).trimmed();
    const QString range = tr("between %1 and %2").arg(textFromValue(minimum()), textFromValue(maximum()));
    const QString kept =
        specialValueText().isEmpty() || value() != minimum() ? textFromValue(value()) : specialValueText();
    emit refused(v ? tr("%1 is not %2; %3 stays.").arg(typed, range, kept)
                   : tr("\u2018%1\u2019 is not a number %2; %3 stays.").arg(typed, range, kept));
    text = shown();
}

std::optional<double> ask_number(QWidget* parent, const QString& title, const QString& label, double value,
                                 double least, double most, int decimals) {
    QDialog sheet(parent);
    sheet.setWindowTitle(title);
    auto* box = new QVBoxLayout(&sheet);
    auto* said = new QLabel(label, &sheet);
    auto* number = new NumberBox(&sheet);
    number->setObjectName("amount");
    number->setAccessibleName(label);
    number->setDecimals(decimals);
    number->setRange(least, most);
    number->setValue(value);
    number->selectAll();
    said->setBuddy(number);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, &sheet);
    box->addWidget(said);
    box->addWidget(number);
    box->addWidget(buttons);
    bool refused = false;
    QObject::connect(number, &NumberBox::refused, &sheet, [&] { refused = true; });
    QObject::connect(buttons, &QDialogButtonBox::accepted, &sheet, [&] {
        number->interpretText();
        if (!std::exchange(refused, false)) sheet.accept();  // what was typed did not count: stay
    });
    QObject::connect(buttons, &QDialogButtonBox::rejected, &sheet, &QDialog::reject);
    if (sheet.exec() != QDialog::Accepted) return std::nullopt;
    return number->value();
}

}  // namespace otoro::desktop
