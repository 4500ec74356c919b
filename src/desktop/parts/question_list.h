#pragma once
#include <QWidget>

#include "desktop/models/answers.h"

class QListWidget;
class QPushButton;

namespace otoro::desktop {

/// The questions of the study, each with the share that it reaches under the plan in sight. Choosing one changes the
/// sentence and everything under it.
class QuestionList : public QWidget {
    Q_OBJECT
public:
    QuestionList(Document& document, Answers& answers, QWidget* parent = nullptr);
    [[nodiscard]] QListWidget* list() const { return list_; }
    [[nodiscard]] QPushButton* new_question() const { return new_; }

private:
    void refresh();
    void offer_menu(const QPoint& at);
    Document& document_;
    Answers& answers_;
    QListWidget* list_;
    QPushButton* new_;
};

}  // namespace otoro::desktop
