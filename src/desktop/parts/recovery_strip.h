#pragma once
#include <QFrame>

#include "desktop/models/study_files.h"

class QLabel;
class QPushButton;

namespace otoro::desktop {

/// AccessLeg each copy that a program left which ended before its study was saved, one after another, and stays until
/// each is decided. What was thrown away can be taken back.
class RecoveryStrip : public QFrame {
    Q_OBJECT
public:
    explicit RecoveryStrip(StudyFiles& files, QWidget* parent = nullptr);
    [[nodiscard]] QString text() const;
    [[nodiscard]] QPushButton& bring_back() const { return *bring_back_; }
    [[nodiscard]] QPushButton& throw_away() const { return *throw_away_; }
    [[nodiscard]] QPushButton& take_back() const { return *take_back_; }
    [[nodiscard]] QPushButton& next() const { return *next_; }

signals:
    void wanted(const QString& copy);
    void trouble(const QString& why);

private:
    void refresh();
    StudyFiles& files_;
    QString current_, thrown_;
    QLabel* text_;
    QPushButton *bring_back_, *throw_away_, *next_, *take_back_;
};

}  // namespace otoro::desktop
