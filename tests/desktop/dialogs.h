#pragma once
/// \file
/// Answering the questions that the window puts, as a person would.
#include <QAbstractButton>
#include <QApplication>
#include <QFileDialog>
#include <QLineEdit>
#include <QMessageBox>
#include <QTimer>
#include <functional>

namespace otoro::test {

/// While one lives, each question put is answered by the next of `answers`; those left over were not asked.
class Answering {
public:
    using Answer = std::function<bool(QWidget*)>;  ///< false: not for this dialog
    explicit Answering(std::vector<Answer> answers) : answers_(std::move(answers)) {
        QObject::connect(&timer_, &QTimer::timeout, [this] {
            QWidget* dialog = QApplication::activeModalWidget();
            if (!dialog || answers_.empty()) return;
            const Answer next = answers_.front();
            answers_.erase(answers_.begin());
            if (next(dialog))
                ++given_;
            else
                dialog->close();
        });
        timer_.start(5);
    }
    [[nodiscard]] std::size_t left() const { return answers_.size(); }
    [[nodiscard]] int given() const { return given_; }

private:
    std::vector<Answer> answers_;
    int given_ = 0;
    QTimer timer_;
};

inline Answering::Answer press(QMessageBox::StandardButton button, QString* said = nullptr) {
    return [=](QWidget* w) {
        auto* box = qobject_cast<QMessageBox*>(w);
        if (!box || !box->button(button)) return false;
        if (said) *said = box->text();
        box->button(button)->click();
        return true;
    };
}

inline Answering::Answer type_name(const QString& path) {
    return [=](QWidget* w) {
        auto* dialog = qobject_cast<QFileDialog*>(w);
        if (!dialog) return false;
        dialog->findChild<QLineEdit*>("fileNameEdit")->setText(path);
        QMetaObject::invokeMethod(dialog, "accept");
        return true;
    };
}

}  // namespace otoro::test
