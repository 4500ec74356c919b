#pragma once
#include <QLineEdit>
#include <QTimer>

#include "desktop/models/place_finder.h"

class QCompleter;

namespace otoro::desktop {
class MatchList;

/// Finds sites, places and roads while their name is typed. Looking is done off the interface thread; what comes late
/// is dropped.
class FindBox : public QLineEdit {
    Q_OBJECT
public:
    explicit FindBox(const Session& session, QWidget* parent = nullptr);
    ~FindBox() override;
    /// Goes to the first match of what is written, or from one to the next.
    void go();
    /// What is suggested now.
    [[nodiscard]] const std::vector<Match>& suggestions() const;

signals:
    /// \param number which of how many, from 1
    void found(const otoro::desktop::Match& match, std::size_t number, std::size_t count);
    void nothing_found(const QString& text);

private:
    void look(bool go_there);
    void take(quint64 number, const QString& text, std::vector<Match> matches, bool go_there);
    [[nodiscard]] bool knows(const QString& text) const;
    void go_to(std::size_t match);

    const Session& session_;
    QTimer soon_;
    quint64 looking_ = 0;
    QString text_;  ///< what was looked for, and of which state of which plan
    Document::Point point_;
    std::size_t plan_ = 0;
    std::vector<Match> found_;
    std::size_t at_ = 0;
    bool shown_ = false;  ///< one of them was gone to
    MatchList* list_;
    QCompleter* completer_;
};

}  // namespace otoro::desktop
