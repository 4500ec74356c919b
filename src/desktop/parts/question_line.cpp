#include "desktop/parts/question_line.h"

#include <QKeyEvent>
#include <QLabel>
#include <QScreen>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/blanks/blank_editors.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

constexpr int kWidestBlank = 520;  // points; longer names are elided, and whole in the tooltip

/// The little sheet under a blank. Return closes it: what was set counts already.
class Popup : public QFrame {
public:
    explicit Popup(QWidget* parent) : QFrame(parent, Qt::Popup) {
        setObjectName("popup");
        setAttribute(Qt::WA_DeleteOnClose);
    }

protected:
    void keyPressEvent(QKeyEvent* e) override {
        if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
            close();
        else
            QFrame::keyPressEvent(e);
    }
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
    button.setText(shown);
    button.setToolTip(whole == shown ? what : whole);
    button.setAccessibleName(tr("%1: %2").arg(what, whole));
    button.setEnabled(can_be_set(part.blank));
}

void QuestionLine::open_editor(service::Blank blank, const QWidget& under) {
    const BlankKind kind = kind_of(blank);
    auto* popup = new Popup(this);
    popup->setAccessibleName(kind.what);
    auto* box = new QVBoxLayout(popup);
    auto* title = new QLabel(kind.what, popup);
    title->setProperty("role", "soft");
    box->addWidget(title);
    kind.edit({document_, [this] { emit profiles_wanted(); }}, *box, *popup);
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
