#pragma once
#include <QEvent>
#include <QKeyEvent>
#include <QLineEdit>

namespace otoro::desktop {

/// Escape gives up what is being typed into a line: what stood there when typing began stands there again. Nothing
/// typed: Escape means what it means elsewhere.
class GivesUp : public QObject {
public:
    explicit GivesUp(QLineEdit& line) : QObject(&line), line_(line) {
        line.installEventFilter(this);
        // The program may write what was taken in another way.
        connect(&line, &QLineEdit::textChanged, this, [this](const QString& text) {
            if (!line_.isModified()) before_ = text;
        });
        connect(&line, &QLineEdit::returnPressed, this, [this] { before_ = line_.text(); });
        before_ = line.text();
    }
    bool eventFilter(QObject*, QEvent* e) override {
        if (e->type() == QEvent::FocusIn) before_ = line_.text();
        const bool escape = (e->type() == QEvent::KeyPress || e->type() == QEvent::ShortcutOverride) &&
                            static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape && line_.text() != before_;
        if (!escape) return false;
        if (e->type() == QEvent::KeyPress) line_.setText(before_);
        e->accept();
        return true;
    }

private:
    QLineEdit& line_;
    QString before_;
};

}  // namespace otoro::desktop
