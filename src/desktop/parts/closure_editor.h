#pragma once
#include <QFrame>

#include "roads/closure.h"

class QLineEdit;
class QPushButton;
class QRadioButton;

namespace otoro::desktop {
class NumberBox;

/// What a closure does and where: one card for closing roads and for slowing them down, new ones and those of a plan.
///
/// A new closure ends with where it is to be: at this road, along a line, over an area. One that is there already ends
/// with *Change* or *Open again*.
class ClosureEditor : public QFrame {
    Q_OBJECT
public:
    enum class For { new_closure, new_slowing, change };
    /// \param start what is shown at first
    ClosureEditor(const roads::Closure& start, For purpose, QWidget* parent);
    /// As it is set now: effect, factor, delay and name; shape and vertices are those it began with.
    [[nodiscard]] roads::Closure closure() const;
    [[nodiscard]] QRadioButton& closed() const { return *closed_; }
    [[nodiscard]] QRadioButton& slowed() const { return *slowed_; }
    [[nodiscard]] QRadioButton& delayed() const { return *delayed_; }
    [[nodiscard]] NumberBox& factor() const { return *factor_; }
    [[nodiscard]] NumberBox& minutes() const { return *minutes_; }
    [[nodiscard]] QLineEdit& called() const { return *name_; }
    /// The button that ends it: `point`, `line`, `area` of a new one; `change`, `open` of one that is there.
    [[nodiscard]] QPushButton* button(const QString& key) const;

signals:
    /// A new closure is to be made like this; a line or an area is drawn first.
    void wanted(const otoro::roads::Closure& like);
    void changed(const otoro::roads::Closure& to);
    void open_again();

private:
    roads::Closure start_;
    QRadioButton *closed_, *slowed_, *delayed_;
    NumberBox *factor_, *minutes_;
    QLineEdit* name_;
};

}  // namespace otoro::desktop
