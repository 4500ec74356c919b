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
class Background;

/// What is being done, how far it is, how long it will take, and a stop. Shows itself only for work over half a second.
class ProgressLine : public QFrame {
    Q_OBJECT
public:
    explicit ProgressLine(QWidget* parent = nullptr);
    /// \param stopping what the stop ends, for those who cannot see the strip
    ProgressLine(const QString& stopping, QWidget* parent);
    /// Follows one kind of work, and its stop stops that and nothing else.
    void follow(Background& work);
    void at(const QString& step, double done);
    void end();
    [[nodiscard]] QString text() const;
    [[nodiscard]] QPushButton& stop_button() const { return *stop_; }

signals:
    void stop_wanted();

private:
    QLabel* text_;
    QProgressBar* bar_;
    QPushButton* stop_;
    QElapsedTimer since_;
    QTimer delay_;
    QString step_;
    bool busy_ = false;
};

/// Remarks, which go away by themselves, and errors and questions, which stand until they are dismissed or hold no
/// longer; not a box that must be answered. Of several that stand the last is in sight, and those before it come back
/// when it goes.
class Notice : public QFrame {
    Q_OBJECT
public:
    /// Something that can be done, and what does it.
    using Choice = std::pair<QString, std::function<void()>>;

    explicit Notice(QWidget* parent = nullptr);
    void say(const QString& text);
    /// \param topic what it is about: `settled` of the same topic takes it away, and so does the next of the same topic
    void trouble(const QString& text, const QString& topic = {});
    /// A remark with things that can be done about it. Stays until one is chosen, it is dismissed or settled.
    void offer(const QString& text, const std::vector<Choice>& choices, const QString& topic = {});
    void settled(const QString& topic);
    [[nodiscard]] QString text() const;
    [[nodiscard]] bool is_trouble() const;
    /// For how long a remark stays.
    void set_remark_time(int ms) { fade_.setInterval(ms); }

private:
    /// An error, or a question if there are choices.
    struct Standing {
        QString text, topic;
        std::vector<Choice> choices;
    };
    void stand(Standing what);
    void dismiss();
    void show_last();
    void show_as(const char* kind, const QString& text);
    std::vector<Standing> standing_;
    QLabel* text_;
    QHBoxLayout* choices_;
    QPushButton* close_;
    QTimer fade_;
};

}  // namespace otoro::desktop
