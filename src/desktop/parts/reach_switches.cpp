#include "desktop/parts/reach_switches.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QSignalBlocker>
#include <algorithm>

#include "desktop/parts/elided.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/parts/gives_up.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/error.h"
#include "geo/wording.h"

namespace otoro::desktop {
namespace {

using service::CoverList;
using service::Overlap;
using service::ReachView;

void show_wrong(QLineEdit& field, bool wrong) {
    if (field.property("wrong").toBool() == wrong) return;  // a style sheet is costly to set
    field.setProperty("wrong", wrong);
    field.setStyleSheet(wrong ? QString("border: 1px solid %1;").arg(theme::kNotMet.name()) : QString());
}

constexpr int kIsQuestion = Qt::UserRole, kName = Qt::UserRole + 1;

}  // namespace

ReachSwitches::ReachSwitches(Session& session, MapView& map, QWidget* parent, FlowLayout& flow)
    : QObject(parent), session_(session), map_(map), parent_(parent), flow_(flow) {
    limits_ = new QLineEdit(parent);
    limits_->setAccessibleName(tr("Limits of reach"));
    limits_->setToolTip(tr("How far: minutes or metres, such as 4, 8 min or 400, 800 m"));
    limits_->setFixedWidth(theme::scaled_column(96));
    flow_.addWidget(limits_);
    new GivesUp(*limits_);
    connect(limits_, &QLineEdit::editingFinished, this, &ReachSwitches::take_limits);
    add_choices();
    add_box(&ReachView::own_limits, tr("own limits"), tr("Every site to the limit that its record gives"));
    add_box(&ReachView::full, tr("one fill"),
            tr("Fill from the sites to the last limit alike, instead of band by band"));
    add_box(&ReachView::roads, tr("reached roads"), tr("Roads up to where the limit falls"));
    add_box(&ReachView::lines, tr("equal lines"), tr("Lines on which it takes the same time, or is as far"));
    add_box(&ReachView::circles, tr("circles"),
            tr("As far in a straight line, with what that promises and the road denies"));
    circle_speed_ = new QLineEdit(parent);
    circle_speed_->setAccessibleName(tr("Speed of the circles"));
    circle_speed_->setToolTip(tr("How fast one would come straight, for limits in time, such as 40 km/h"));
    circle_speed_->setFixedWidth(theme::scaled_column(72));
    flow_.addWidget(circle_speed_);
    new GivesUp(*circle_speed_);
    connect(circle_speed_, &QLineEdit::editingFinished, this, &ReachSwitches::take_speed);
    add_box(&ReachView::off_water, tr("off the water"), tr("Without what the study has as water"));
    add_box(&ReachView::in_zones, tr("in the zones"), tr("Only what lies in the zones"));
}

void ReachSwitches::add_choices() {
    overlap_ = new QComboBox(parent_);
    overlap_->setAccessibleName(tr("Ground that several sites reach"));
    overlap_->setToolTip(tr("Ground that several sites reach"));
    for (const auto& [what, text] :
         {std::pair{Overlap::nearest, tr("by nearest site")}, std::pair{Overlap::each, tr("each site's own")},
          std::pair{Overlap::merged, tr("all together")}, std::pair{Overlap::count, tr("how many sites")}})
        overlap_->addItem(text, static_cast<int>(what));
    compared_ = new QComboBox(parent_);
    compared_->setAccessibleName(tr("Compared with"));
    compared_->setToolTip(tr("What is gained and lost against another plan, or against another question"));
    compared_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    compared_->setMaximumWidth(theme::scaled_column(190));
    cover_ = new QComboBox(parent_);
    cover_->setAccessibleName(tr("What is listed"));
    for (const auto& [what, text] : {std::pair{CoverList::patches, tr("ground that is uncovered")},
                                     std::pair{CoverList::zones, tr("zones, by any site")},
                                     std::pair{CoverList::own_zones, tr("zones, by their own sites")}})
        cover_->addItem(text, static_cast<int>(what));
    for (QComboBox* const box : {overlap_, compared_, cover_}) flow_.addWidget(box);
    connect(overlap_, qOverload<int>(&QComboBox::activated), this, [this] {
        map_.change_reach([&](ReachStyle& s) { s.overlap = static_cast<Overlap>(overlap_->currentData().toInt()); });
    });
    connect(cover_, qOverload<int>(&QComboBox::activated), this, [this] {
        map_.change_reach([&](ReachStyle& s) { s.cover = static_cast<CoverList>(cover_->currentData().toInt()); });
    });
    connect(compared_, qOverload<int>(&QComboBox::activated), this, [this](int at) {
        if (at == 0) return map_.compare_reach(std::nullopt);
        map_.compare_reach(MapView::Compared{compared_->itemData(at, kIsQuestion).toBool(),
                                             compared_->itemData(at, kName).toString().toStdString()});
    });
}

void ReachSwitches::add_box(bool ReachView::*of, const QString& text, const QString& tip) {
    auto* const box = new QCheckBox(text, parent_);
    box->setToolTip(tip);
    flow_.addWidget(box);
    switches_.push_back({of, box});
    connect(box, &QCheckBox::toggled, this,
            [this, of](bool on) { map_.change_reach([&](ReachStyle& s) { s.*of = on; }); });
}

QCheckBox& ReachSwitches::box(bool ReachView::*of) const {
    return *std::find_if(switches_.begin(), switches_.end(), [&](const Switch& s) { return s.of == of; })->box;
}

void ReachSwitches::take_limits() {
    const auto limits = limits_from(limits_->text());
    show_wrong(*limits_, limits.empty());
    if (!limits.empty()) map_.change_reach([&](ReachStyle& s) { s.limits = limits; });
}

void ReachSwitches::take_speed() {
    std::optional<Speed> speed;
    try {
        QString text = circle_speed_->text().trimmed();
        if (!text.isEmpty() && text.back().isDigit()) text += " km/h";
        speed = parse_speed(text.toStdString());
    } catch (const InputError&) {
        speed.reset();
    }
    show_wrong(*circle_speed_, !speed);
    if (speed) map_.change_reach([&](ReachStyle& s) { s.circle_speed = *speed; });
}

/// Nothing, every other plan, every other question about the same places. Filled again only when that has changed, so
/// that a list that is open stays as it is.
void ReachSwitches::fill_compared() {
    const QSignalBlocker quiet(compared_);
    const auto& study = session_.document.study();
    std::vector<MapView::Compared> wanted;
    for (const auto& plan : study.plans)
        if (!plan.same_as(session_.document.plan())) wanted.push_back({false, plan.name});
    for (std::size_t i = 0; i < study.questions.size(); ++i)
        if (i != study.in_sight && study.questions[i].demand == study.question().demand)
            wanted.push_back({true, study.questions[i].name});
    const auto entry = [&](int at) {
        return MapView::Compared{compared_->itemData(at, kIsQuestion).toBool(),
                                 compared_->itemData(at, kName).toString().toStdString()};
    };
    bool same = compared_->count() == static_cast<int>(wanted.size()) + 1;
    for (int i = 0; same && i < static_cast<int>(wanted.size()); ++i)
        same = entry(i + 1) == wanted[static_cast<std::size_t>(i)];
    if (!same) {
        compared_->clear();
        compared_->addItem(tr("not compared"));
        for (const auto& [question, name] : wanted) {
            const QString said = question ? tr("against the question %1") : tr("against the plan %1");
            compared_->addItem(said.arg(elided(QString::fromStdString(name))));
            compared_->setItemData(compared_->count() - 1, question, kIsQuestion);
            compared_->setItemData(compared_->count() - 1, QString::fromStdString(name), kName);
        }
    }
    const auto now = map_.compared();
    int at = 0;
    for (int i = 1; i < compared_->count(); ++i)
        if (now == entry(i)) at = i;
    compared_->setCurrentIndex(at);
}

void ReachSwitches::refresh() {
    const auto& style = map_.style_now();
    const bool reach = style.look == &reach_look(), uncovered = style.look == &uncovered_look();
    const bool from = map_.reach_from().has_value();
    const auto& study = session_.document.study();
    const auto zones = study.zones_of(session_.document.question());
    const auto answer = session_.answers.shown();
    const bool own = answer && has_own_limits(answer->outcome), zones_named = answer && names_zones(answer->outcome);
    const bool compares = style.reach.comparing && !from;
    fill_compared();
    limits_->setVisible(reach);
    overlap_->setVisible(reach && !from && !compares);
    compared_->setVisible(reach && !from && compared_->count() > 1);
    cover_->setVisible(uncovered && zones != nullptr);
    // Sites that name no zone answer for none.
    if (cover_->count() == 2 && zones_named)
        cover_->addItem(tr("zones, by their own sites"), static_cast<int>(CoverList::own_zones));
    if (cover_->count() == 3 && !zones_named) cover_->removeItem(2);
    for (const auto& s : switches_) {
        const QSignalBlocker quiet(s.box);
        s.box->setChecked(style.reach.*s.of);
        const bool of_use = (s.of != &ReachView::own_limits || (own && !from)) &&
                            (s.of != &ReachView::off_water || study.water) &&
                            (s.of != &ReachView::in_zones || zones != nullptr);
        s.box->setVisible(reach && !compares && of_use);
    }
    const auto steps = style.reach.limits.empty() ? std::vector<Amount>() : line_steps(style.reach.limits.back());
    box(&ReachView::lines)
        .setText(style.reach.lines && !steps.empty()
                     ? tr("equal lines, %1 apart").arg(QString::fromStdString(describe(steps.front())))
                     : tr("equal lines"));
    const bool time =
        !style.reach.limits.empty() && service::measure_of(style.reach.limits.front()) == service::ValueOf::time;
    circle_speed_->setVisible(reach && !compares && style.reach.circles && time);
    overlap_->setCurrentIndex(overlap_->findData(static_cast<int>(style.reach.overlap)));
    cover_->setCurrentIndex(std::min(static_cast<int>(style.reach.cover), cover_->count() - 1));
    if (!limits_->hasFocus()) {
        limits_->setText(said_limits(style.reach.limits));
        show_wrong(*limits_, false);
    }
    if (!circle_speed_->hasFocus()) circle_speed_->setText(QString::fromStdString(describe(style.reach.circle_speed)));
}

}  // namespace otoro::desktop
