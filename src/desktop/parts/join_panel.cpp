#include "desktop/parts/join_panel.h"

#include <QButtonGroup>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QRadioButton>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include "desktop/parts/elided.h"
#include "desktop/parts/number_box.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/amounts.h"

namespace otoro::desktop {

JoinPanel::JoinPanel(Session& session, Fixer& fixer, QWidget* parent)
    : QWidget(parent), session_(session), fixer_(fixer) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(3);
    auto* title = new QLabel(tr("HOW ROADS JOIN"), this);
    title->setProperty("role", "heading");
    box->addWidget(title);
    rules_ = new QButtonGroup(this);
    const std::array<QString, 3> names{tr("where road ends touch"),
                                       tr("wherever two roads pass through the same point"),
                                       tr("also where they cross on the same level")};
    for (int i = 0; i < 3; ++i) {
        auto* b = new QRadioButton(broken(names[static_cast<std::size_t>(i)], fontMetrics(), theme::scaled_column(300)),
                                   this);
        if (i == 2) b->setToolTip(explained("level"));
        b->setAccessibleName(tr("Roads join %1").arg(names[static_cast<std::size_t>(i)]));
        rules_->addButton(b, i);
        box->addWidget(b);
        auto* l = new QLabel(this);
        l->setProperty("role", "soft");
        l->setFont(theme::type(0.9));
        l->setContentsMargins(24, 0, 0, 2);
        l->setToolTip(explained("piece"));
        about_[static_cast<std::size_t>(i)] = l;
        box->addWidget(l);
    }
    compare_ = new QPushButton(tr("Show what each would give"), this);
    compare_->setAccessibleName(tr("Show what each rule of joining would give"));
    box->addWidget(compare_, 0, Qt::AlignLeft);
    box->addSpacing(8);
    auto* row = new QHBoxLayout;
    auto* label = new QLabel(tr("List gaps under"), this);
    tolerance_ = new NumberBox(this);
    tolerance_->setRange(0, roads::kWidestGap.metres());
    tolerance_->setDecimals(1);
    tolerance_->setSuffix(tr(" m"));
    tolerance_->setAccessibleName(tr("List gaps narrower than, in metres"));
    tolerance_->setKeyboardTracking(false);
    label->setBuddy(tolerance_);
    row->addWidget(label);
    row->addWidget(tolerance_);
    row->addStretch(1);
    box->addLayout(row);
    auto* closed_row = new QHBoxLayout;
    closed_ = new QLabel(this);
    closed_->setProperty("role", "soft");
    reopen_ = new QPushButton(tr("Open the last again"), this);
    reopen_->setObjectName("flat");
    reopen_->setAccessibleName(tr("Open the gap that was closed last again"));
    closed_row->addWidget(closed_, 1);
    closed_row->addWidget(reopen_);
    box->addLayout(closed_row);
    connect(rules_, &QButtonGroup::idClicked, this,
            [this](int i) { fixer_.set_join_rule(static_cast<roads::JoinRule>(i)); });
    connect(compare_, &QPushButton::clicked, &fixer_, &Fixer::compare_rules);
    connect(tolerance_, &QDoubleSpinBox::valueChanged, this,
            [this](double m) { fixer_.set_gap_tolerance(Millimetres::from_metres(m)); });
    connect(reopen_, &QPushButton::clicked, this, [this] {
        if (const auto& r = session_.document.study().roads; r && !r->preparation.closed.empty())
            fixer_.reopen_gap(r->preparation.closed.back());
    });
    connect(&fixer_, &Fixer::evidence_changed, this, &JoinPanel::refresh);
    connect(&fixer_, &Fixer::findings_changed, this, &JoinPanel::refresh);
    connect(&session_.document, &Document::data_changed, this, &JoinPanel::refresh);
    connect(&session_.document, &Document::notes_changed, this, &JoinPanel::refresh);
    refresh();
}

void JoinPanel::refresh() {
    const auto& roads = session_.document.study().roads;
    setVisible(roads.has_value());
    if (!roads) return;
    const bool named = roads->network->joints_named();
    for (auto* b : rules_->buttons()) b->setEnabled(!named);
    if (auto* b = rules_->button(static_cast<int>(roads->preparation.rule))) b->setChecked(true);
    for (auto* l : about_) l->clear();
    for (const auto& e : fixer_.join_evidence())
        about_[static_cast<std::size_t>(e.rule)]->setText(
            tr("%1, %2, %3 cut off")
                .arg(counted(e.pieces, tr("piece"), tr("pieces")),
                     counted(e.dead_ends, tr("dead end"), tr("dead ends")),
                     counted(e.cut_off.places, tr("place"), tr("places"))));
    for (auto* l : about_) l->setVisible(!l->text().isEmpty());
    compare_->setVisible(fixer_.join_evidence().empty());
    compare_->setEnabled(!named);
    const QSignalBlocker quiet(tolerance_);
    tolerance_->setValue(session_.document.study().gap_tolerance.metres());
    const auto n = roads->preparation.closed.size();
    closed_->setText(n == 0 ? tr("No gap was closed.") : tr("Gaps closed: %1").arg(n));
    reopen_->setVisible(n > 0);
}

QString JoinPanel::evidence(roads::JoinRule rule) const { return about_[static_cast<std::size_t>(rule)]->text(); }

}  // namespace otoro::desktop
