#include "desktop/parts/question_line.h"

#include <QKeyEvent>
#include <QLabel>
#include <QScreen>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>

#include "desktop/blanks/blank_editors.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/shown_name.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

constexpr int kWidestBlank = 520;  // points; longer names are elided, and whole in the tooltip

/// The little sheet under a blank. What is set there counts at once. Return takes what is still being typed and closes
/// it, unless that cannot be taken; Escape gives up all that was set since it opened.
class Popup : public QFrame {
public:
    Popup(Document& document, QString what, QWidget* parent)
        : QFrame(parent, Qt::Popup),
          document_(document),
          what_(std::move(what)),
          before_(document.question()),
          steps_(document.undo_stack().index()),
          of_(document.point().document) {
        setObjectName("popup");
        setAttribute(Qt::WA_DeleteOnClose);
    }
    /// To be called when it has all its boxes.
    void heed_boxes() {
        for (auto* box : findChildren<NumberBox*>())
            connect(box, &NumberBox::refused, this, [this] {
                refused_ = true;  // by the key that is being dealt with
                QTimer::singleShot(0, this, [this] { refused_ = false; });
            });
    }

protected:
    void keyPressEvent(QKeyEvent* e) override {
        if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
            for (auto* box : findChildren<NumberBox*>()) box->interpretText();
            if (!refused_) close();
        } else if (e->key() == Qt::Key_Escape) {
            give_up();
            close();
        } else {
            QFrame::keyPressEvent(e);
        }
    }

private:
    void give_up() {
        for (auto* box : findChildren<NumberBox*>()) box->give_up();
        if (document_.point().document != of_) return;
        while (document_.undo_stack().index() > steps_) document_.undo_stack().undo();
        // What was set here may have become one step with what was set just before.
        if (!(document_.question() == before_))
            document_.edit(what_, [&](service::Study& s) { s.question() = before_; });
    }

    Document& document_;
    QString what_;
    service::Question before_;
    int steps_;
    decltype(Document::Point::document) of_;
    bool refused_ = false;
};

}  // namespace

QuestionLine::QuestionLine(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setAccessibleName(tr("The question"));
    new FlowLayout(this);
    connect(&document_, &Document::question_changed, this, &QuestionLine::refresh);
    connect(&document_, &Document::data_changed, this, &QuestionLine::refresh);
    refresh();
}

void QuestionLine::refresh() {
    const auto& q = document_.question();
    auto parts = service::sentence_parts(q, service::weight_name(document_.study().demand_of(q)));
    const bool same_shape = std::equal(parts.begin(), parts.end(), parts_.begin(), parts_.end(),
                                       [](const auto& a, const auto& b) { return a.blank == b.blank; });
    parts_ = std::move(parts);
    if (!same_shape) build();
    for (std::size_t i = 0; i < parts_.size(); ++i) set_text(*widgets_[i], parts_[i]);
    updateGeometry();
}

void QuestionLine::build() {
    while (auto* item = layout()->takeAt(0)) {
        item->widget()->hide();
        item->widget()->deleteLater();  // one of them may be what was pressed
        delete item;
    }
    widgets_.clear();
    for (const auto& part : parts_) {
        if (part.blank == service::Blank::none) {
            auto* label = new QLabel(this);
            label->setFont(theme::type(1.2));
            label->setProperty("closes_up", part.closes_up);
            label->setContentsMargins(0, 2, 0, 2);
            widgets_.push_back(label);
        } else {
            auto* button = new QPushButton(this);
            button->setObjectName("blank");
            button->setProperty("key", QString::fromUtf8(service::key(part.blank).data()));
            button->setFont(theme::type(1.2, QFont::DemiBold));
            button->setAutoDefault(true);
            connect(button, &QPushButton::clicked, this,
                    [this, blank = part.blank, button] { open_editor(blank, *button); });
            widgets_.push_back(button);
        }
        layout()->addWidget(widgets_.back());
        widgets_.back()->show();
    }
}

bool QuestionLine::can_be_set(service::Blank blank) const {
    const auto& study = document_.study();
    if (blank == service::Blank::demand) return !study.demand.empty();
    if (blank == service::Blank::sites) return !study.sites.empty();
    if (blank == service::Blank::weight) return !study.demand_of(document_.question()).sets().empty();
    return true;
}

void QuestionLine::set_text(QWidget& widget, const service::SentencePart& part) {
    if (auto* label = qobject_cast<QLabel*>(&widget)) return label->setText(plain(part.text));
    auto& button = static_cast<QPushButton&>(widget);
    const QString what = kind_of(part.blank).what;
    const QString whole = plain(part.text);
    const QString shown = button.fontMetrics().elidedText(whole, Qt::ElideMiddle, kWidestBlank);
    button.setText(on_button(shown));
    button.setToolTip(whole == shown ? what : whole);
    button.setAccessibleName(tr("%1: %2").arg(what, whole));
    button.setEnabled(can_be_set(part.blank));
}

void QuestionLine::open_editor(service::Blank blank, const QWidget& under) {
    const BlankKind kind = kind_of(blank);
    auto* popup = new Popup(document_, kind.what, this);
    popup->setAccessibleName(kind.what);
    auto* box = new QVBoxLayout(popup);
    auto* title = new QLabel(kind.what, popup);
    title->setProperty("role", "soft");
    box->addWidget(title);
    kind.edit({document_, [this] { emit profiles_wanted(); }}, *box, *popup);
    popup->heed_boxes();
    popup->adjustSize();
    QPoint at = under.mapToGlobal(QPoint(0, under.height() + 2));
    if (const auto* screen = under.screen())
        at.setX(std::min(at.x(), screen->availableGeometry().right() - popup->width()));
    popup->move(at);
    popup->show();
}

QPushButton* QuestionLine::blank(const QString& key) const {
    for (std::size_t i = 0; i < parts_.size(); ++i)
        if (parts_[i].blank != service::Blank::none && key == QString::fromUtf8(service::key(parts_[i].blank).data()))
            return static_cast<QPushButton*>(widgets_[i]);
    return nullptr;
}

QString QuestionLine::text() const { return plain(service::as_text(parts_)); }

}  // namespace otoro::desktop
