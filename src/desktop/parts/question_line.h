#pragma once
#include <QFrame>
#include <QPushButton>
#include <map>
#include <vector>

#include "desktop/models/document.h"
#include "service/sentence.h"

class QLabel;

namespace otoro::desktop {

/// The question as a sentence whose blanks are buttons. The only place where the question is set. Its words are those
/// of `service::sentence_parts`; its editors are in `blanks/`.
class QuestionLine : public QWidget {
    Q_OBJECT
public:
    explicit QuestionLine(Document& document, QWidget* parent = nullptr);

    /// The whole sentence as text.
    [[nodiscard]] QString text() const;
    /// A blank by its key (`service::key`): demand, weight, serving, sites, travel, towards, limit, share, standard.
    /// Null where the sentence has none of that kind.
    [[nodiscard]] QPushButton* blank(const QString& key) const;

signals:
    void profiles_wanted();

private:
    void refresh();
    void build();
    void set_text(QWidget& widget, const service::SentencePart& part);
    [[nodiscard]] bool can_be_set(service::Blank blank) const;
    void open_editor(service::Blank blank, const QWidget& under);

    Document& document_;
    std::vector<service::SentencePart> parts_;
    std::vector<QWidget*> widgets_;  ///< one a part
};

}  // namespace otoro::desktop
