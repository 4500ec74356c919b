#pragma once
#include <QDoubleSpinBox>
#include <optional>

namespace otoro::desktop {

/// A number that is typed as people type it: with a comma or a point before the decimals, whatever the desktop's
/// language. No other mark is understood, so nothing is ever read as something else. What is out of range or no number
/// is said beside the box, and the old number stays. Return takes what was typed, Escape gives it up.
class NumberBox : public QDoubleSpinBox {
    Q_OBJECT
public:
    explicit NumberBox(QWidget* parent = nullptr);
    [[nodiscard]] QString textFromValue(double value) const override;
    [[nodiscard]] double valueFromText(const QString& text) const override;
    QValidator::State validate(QString& text, int& position) const override;
    void fixup(QString& text) const override;
    /// What was typed and not taken is as if it had not been. \returns whether there was any
    bool give_up();

protected:
    void keyPressEvent(QKeyEvent* e) override;

signals:
    /// What was typed and why it does not count.
    void refused(const QString& why) const;

private:
    /// The number as the box shows it.
    [[nodiscard]] QString shown() const;
    [[nodiscard]] std::optional<double> number(const QString& text) const;
};

/// What a box says; or `exact`, where that is what it shows, rounded: what was not changed keeps all its digits.
double value_near(const QDoubleSpinBox& box, double exact);

/// Asks for one number in a small sheet. Nothing if it was given up.
std::optional<double> ask_number(QWidget* parent, const QString& title, const QString& label, double value,
                                 double least, double most, int decimals);

}  // namespace otoro::desktop
