#include "desktop/parts/closure_editor.h"

#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRadioButton>
#include <cmath>

#include "desktop/parts/number_box.h"
#include "desktop/theme.h"

namespace otoro::desktop {

ClosureEditor::ClosureEditor(const roads::Closure& start, For purpose, QWidget* parent)
    : QFrame(parent, Qt::Popup), start_(start) {
    setObjectName("popup");
    setAttribute(Qt::WA_DeleteOnClose);
    const QString title = purpose == For::new_closure   ? tr("Close roads in this plan")
                          : purpose == For::new_slowing ? tr("Slow roads down in this plan")
                                                        : tr("Roads closed or slowed in this plan");
    setAccessibleName(title);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(14, 10, 14, 12);
    auto* heading = new QLabel(title, this);
    heading->setFont(theme::type(1.0, QFont::DemiBold));
    closed_ = new QRadioButton(tr("closed: nobody passes"), this);
    slowed_ = new QRadioButton(tr("slowed: passing takes"), this);
    delayed_ = new QRadioButton(tr("a delay: passing takes"), this);
    factor_ = new NumberBox(this);
    factor_->setRange(1, 1000);
    factor_->setDecimals(2);
    factor_->setValue(start.factor_per_mille / 1000.0);
    factor_->setSuffix(tr(" times as long"));
    factor_->setAccessibleName(tr("How many times as long passing takes"));
    minutes_ = new NumberBox(this);
    minutes_->setRange(0, 600);
    minutes_->setDecimals(1);
    minutes_->setValue(start.effect == roads::ClosureEffect::delay ? start.delay.minutes() : 2);
    minutes_->setSuffix(tr(" min more"));
    minutes_->setAccessibleName(tr("How many minutes more passing takes"));
    name_ = new QLineEdit(QString::fromStdString(start.name), this);
    name_->setPlaceholderText(tr("called after the road"));
    name_->setAccessibleName(tr("Name of the closure"));
    const auto effect = purpose == For::new_slowing ? roads::ClosureEffect::slowed : start.effect;
    closed_->setChecked(effect == roads::ClosureEffect::closed);
    slowed_->setChecked(effect == roads::ClosureEffect::slowed);
    delayed_->setChecked(effect == roads::ClosureEffect::delay);
    int row = 0;
    grid->addWidget(heading, row++, 0, 1, 2);
    // Closing has nothing to set; it is offered where it is one of several.
    if (purpose == For::new_slowing) closed_->hide();
    if (purpose == For::new_closure)
        for (QWidget* w : std::initializer_list<QWidget*>{closed_, slowed_, delayed_, factor_, minutes_}) w->hide();
    if (purpose != For::new_slowing && purpose != For::new_closure) grid->addWidget(closed_, row++, 0, 1, 2);
    if (purpose != For::new_closure) {
        grid->addWidget(slowed_, row, 0);
        grid->addWidget(factor_, row++, 1);
        grid->addWidget(delayed_, row, 0);
        grid->addWidget(minutes_, row++, 1);
    }
    grid->addWidget(new QLabel(tr("Called"), this), row, 0);
    grid->addWidget(name_, row++, 1);
    // A number that is turned says which of them is meant.
    connect(factor_, &QDoubleSpinBox::valueChanged, this, [this] { slowed_->setChecked(true); });
    connect(minutes_, &QDoubleSpinBox::valueChanged, this, [this] { delayed_->setChecked(true); });
    auto* buttons = new QHBoxLayout;
    const auto add = [&](const QString& key, const QString& text, auto&& act) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(key);
        buttons->addWidget(b);
        connect(b, &QPushButton::clicked, this, [this, act] {
            close();
            act();
        });
    };
    if (purpose == For::change) {
        add("change", tr("Change"), [this] { emit changed(closure()); });
        add("open", tr("Open again"), [this] { emit open_again(); });
    } else {
        const auto want = [this](roads::ClosureShape shape) {
            return [this, shape] {
                auto like = closure();
                if (shape != roads::ClosureShape::point) like.vertices.clear();
                like.shape = shape;
                emit wanted(like);
            };
        };
        add("point", tr("The road here"), want(roads::ClosureShape::point));
        add("line", tr("Along a line\u2026"), want(roads::ClosureShape::line));
        add("area", tr("In an area\u2026"), want(roads::ClosureShape::area));
    }
    buttons->addStretch(1);
    grid->addLayout(buttons, row, 0, 1, 2);
}

roads::Closure ClosureEditor::closure() const {
    roads::Closure c = start_;
    c.name = name_->text().trimmed().toStdString();
    c.effect = slowed_->isChecked()    ? roads::ClosureEffect::slowed
               : delayed_->isChecked() ? roads::ClosureEffect::delay
                                       : roads::ClosureEffect::closed;
    if (c.effect == roads::ClosureEffect::slowed)
        c.factor_per_mille =
            static_cast<std::uint32_t>(std::lround(value_near(*factor_, start_.factor_per_mille / 1000.0) * 1000));
    if (c.effect == roads::ClosureEffect::delay)
        c.delay = Millis(std::llround(value_near(*minutes_, start_.delay.minutes()) * 60'000));
    return c;
}

QPushButton* ClosureEditor::button(const QString& key) const { return findChild<QPushButton*>(key); }

}  // namespace otoro::desktop
