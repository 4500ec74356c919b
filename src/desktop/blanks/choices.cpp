/// Lists of choices.
#include <QButtonGroup>
#include <QCheckBox>
#include <QRadioButton>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/blanks/blank_editors.h"
#include "desktop/parts/shown_name.h"

namespace otoro::desktop {
namespace {
constexpr int kWidestName = 420;  // points; longer names are elided, and whole in the tooltip

template <class Button>
Button* named_button(const QString& name, QWidget& popup) {
    auto* button = new Button(on_button(popup.fontMetrics().elidedText(name, Qt::ElideMiddle, kWidestName)), &popup);
    button->setToolTip(name);
    button->setAccessibleName(name);
    return button;
}

}  // namespace

void add_choices(QVBoxLayout& box, QWidget& popup, const QStringList& choices, int current,
                 const std::function<void(int)>& chosen) {
    auto* group = new QButtonGroup(&popup);
    for (int i = 0; i < choices.size(); ++i) {
        auto* button = named_button<QRadioButton>(choices[i], popup);
        button->setChecked(i == current);
        group->addButton(button, i);
        box.addWidget(button);
        if (i == std::max(0, current)) button->setFocus();
    }
    QObject::connect(group, &QButtonGroup::idClicked, &popup, [chosen](int i) { chosen(i); });
}

void add_set_choices(QVBoxLayout& box, QWidget& popup, const QStringList& names,
                     const std::vector<std::string>& current,
                     const std::function<void(const std::vector<std::string>&)>& chosen) {
    const auto is_current = [&](int i) {
        return std::find(current.begin(), current.end(), names[i].toStdString()) != current.end();
    };
    int first = -1;
    for (int i = 0; i < names.size() && first < 0; ++i)
        if (is_current(i)) first = i;

    auto* single = new QWidget(&popup);
    auto* single_box = new QVBoxLayout(single);
    single_box->setContentsMargins(0, 0, 0, 0);
    add_choices(*single_box, *single, names, first, [names, chosen](int i) { chosen({names[i].toStdString()}); });
    box.addWidget(single);
    if (names.size() < 2) return;

    auto* several = new QWidget(&popup);
    auto* several_box = new QVBoxLayout(several);
    several_box->setContentsMargins(0, 0, 0, 0);
    std::vector<QCheckBox*> boxes;
    for (int i = 0; i < names.size(); ++i) {
        boxes.push_back(named_button<QCheckBox>(names[i], *several));
        boxes.back()->setChecked(is_current(i));
        several_box->addWidget(boxes.back());
    }
    for (auto* b : boxes)
        QObject::connect(b, &QCheckBox::toggled, several, [boxes, names, chosen, b] {
            std::vector<std::string> all;
            for (int i = 0; i < names.size(); ++i)
                if (boxes[static_cast<std::size_t>(i)]->isChecked()) all.push_back(names[i].toStdString());
            if (all.empty()) return b->setChecked(true);  // a question is about something
            chosen(all);
        });
    box.addWidget(several);
    auto* together = new QCheckBox(Blanks::tr("several together"), &popup);
    together->setObjectName("several");
    together->setAccessibleName(Blanks::tr("Choose several together"));
    together->setChecked(current.size() > 1);
    single->setVisible(current.size() < 2);
    several->setVisible(current.size() > 1);
    box.addWidget(together);
    QObject::connect(together, &QCheckBox::toggled, &popup, [single, several, &popup](bool on) {
        single->setVisible(!on);
        several->setVisible(on);
        popup.adjustSize();
    });
}

}  // namespace otoro::desktop
