#pragma once
#include <QFrame>
#include <QPushButton>
#include <functional>

#include "desktop/models/session.h"

class QVBoxLayout;

namespace otoro::desktop {

/// The question as a sentence whose blanks are buttons. The only place where the question is set.
class QuestionLine : public QWidget {
    Q_OBJECT
public:
    explicit QuestionLine(Session& session, QWidget* parent = nullptr);

    /// The whole sentence as text.
    [[nodiscard]] QString text() const;
    /// A blank by its object-independent key: demand, weight, measure, sites, travel, towards, limit, share, standard.
    [[nodiscard]] QPushButton* blank(const QString& key) const;

signals:
    void profiles_wanted();

private:
    void build();
    void refresh();
    QPushButton* add_blank(const QString& key, const QString& what, std::function<void(QVBoxLayout&, QWidget&)> editor);
    void add_words(const QString& words, bool closes_up = false);
    void change(const QString& what, const std::function<void(service::Question&)>& change);

    void edit_demand(QVBoxLayout& box, QWidget& popup);
    void edit_weight(QVBoxLayout& box, QWidget& popup);
    void edit_measure(QVBoxLayout& box, QWidget& popup);
    void edit_sites(QVBoxLayout& box, QWidget& popup);
    void edit_travel(QVBoxLayout& box, QWidget& popup);
    void edit_towards(QVBoxLayout& box, QWidget& popup);
    void edit_limit(QVBoxLayout& box, QWidget& popup);
    void edit_share(QVBoxLayout& box, QWidget& popup);
    void edit_standard(QVBoxLayout& box, QWidget& popup);

    Session& session_;
    std::map<QString, QPushButton*> blanks_;
};

}  // namespace otoro::desktop
