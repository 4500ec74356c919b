#pragma once
/// \file
/// The small editors that open under the blanks of the question, a file each.
///
/// A new blank is a new file here, a line in `blank_editors.cpp`, and its words in `service/sentence.cpp`.
#include <QObject>
#include <QString>
#include <QStringList>
#include <functional>

#include "desktop/models/document.h"
#include "service/sentence.h"

class QVBoxLayout;
class QWidget;

namespace otoro::desktop {

/// What an editor may do: read the document, change the question in sight, ask for the travel profiles.
struct BlankDesk {
    Document& document;
    std::function<void()> show_profiles;

    [[nodiscard]] const service::Question& question() const { return document.question(); }
    /// Changes the question, as one step that can be undone.
    void change(const QString& what, const std::function<void(service::Question&)>& to) const {
        document.edit(what, [&](service::Study& s) { to(s.question()); });
    }
};

/// Puts the editor's widgets into the box of a popup.
using BlankEditor = void (*)(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);

struct BlankKind {
    QString what;  ///< what can be set there, for the title and screen readers
    BlankEditor edit;
};
/// Of any blank but `none`.
BlankKind kind_of(service::Blank blank);

void edit_demand(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_weight(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_serving(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_sites(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_travel(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_towards(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_limit(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_share(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_standard(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);
void edit_steps(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup);

/// A list of choices; the one chosen is reported at once.
void add_choices(QVBoxLayout& box, QWidget& popup, const QStringList& choices, int current,
                 const std::function<void(int)>& chosen);
/// Names of sets, one of them chosen, or, where there are several, several of them: at least one. The names chosen are
/// reported in the order of the list.
void add_set_choices(QVBoxLayout& box, QWidget& popup, const QStringList& names,
                     const std::vector<std::string>& current,
                     const std::function<void(const std::vector<std::string>&)>& chosen);
/// A number with a unit, reported as it changes.
void add_amount(QVBoxLayout& box, QWidget& popup, const QString& name, const Amount& now, bool units_open,
                const std::function<void(Amount)>& changed);

/// Words of the editors, for translation.
class Blanks : public QObject {
    Q_OBJECT
};

}  // namespace otoro::desktop
