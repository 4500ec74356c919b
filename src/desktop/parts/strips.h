#pragma once
/// \file
/// Thin strips across the window: work under way, and things said once.
#include <QElapsedTimer>
#include <QFrame>
#include <QTimer>
#include <functional>

class QLabel;
class QProgressBar;
class QPushButton;
class QHBoxLayout;

namespace otoro::desktop {

/// What is being done, how far it is, how long it will take, and a stop. Shows itself only for work over half a second.
class ProgressLine : public QFrame {
    Q_OBJECT
public:
    explicit ProgressLine(QWidget* parent = nullptr);
    void at(const QString& step, double done);
    void end();

signals:
    void stop_wanted();

private:
    QLabel* text_;
    QProgressBar* bar_;
    QPushButton* stop_;
    QElapsedTimer since_;
    QTimer delay_;
    bool busy_ = false;
};

/// A remark or an error that stays until it is dismissed; not a box that must be answered.
class Notice : public QFrame {
    Q_OBJECT
public:
    explicit Notice(QWidget* parent = nullptr);
    void say(const QString& text);
    void trouble(const QString& text);
    /// A remark with things that can be done about it.
    void offer(const QString& text, const std::vector<std::pair<QString, std::function<void()>>>& choices);
    [[nodiscard]] QString text() const;

private:
    void show_as(const char* kind, const QString& text);
    QLabel* text_;
    QHBoxLayout* choices_;
    QPushButton* close_;
};

}  // namespace otoro::desktop
