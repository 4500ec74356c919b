#pragma once
/// \file
/// A part of a page that is a heading alone until it is opened, and worked out only then.
#include <QTimer>
#include <QWidget>

class QPushButton;
class QVBoxLayout;

namespace otoro::desktop {

class Fold : public QWidget {
    Q_OBJECT
public:
    /// How it is called, and what its button says to who does not see it.
    struct Names {
        QString title, to_open, to_close;
    };
    /// \param setting under which it is remembered from one sitting to the next whether it is open
    Fold(const Names& names, const char* setting, QWidget* parent);
    void set_open(bool open);
    [[nodiscard]] bool is_open() const;
    [[nodiscard]] QPushButton& open_button() const { return *open_; }

signals:
    void trouble(const QString& why);

protected:
    /// Shows what there is, and asks for what is not there, as long as it is open.
    virtual void follow() = 0;
    virtual void closed() {}
    /// In the end of the constructor: as it was in the last sitting.
    void recall();
    [[nodiscard]] QWidget* body() const { return body_; }
    [[nodiscard]] QVBoxLayout& inside() const { return *inside_; }
    /// Runs out when a hand that changes something rests.
    [[nodiscard]] QTimer& later() { return later_; }

private:
    Names names_;
    const char* setting_;
    QPushButton* open_;
    QWidget* body_;
    QVBoxLayout* inside_;
    QTimer later_;
};

}  // namespace otoro::desktop
