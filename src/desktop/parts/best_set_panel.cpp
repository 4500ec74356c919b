#include "desktop/parts/best_set_panel.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSpinBox>
#include <QVBoxLayout>
#include <array>
#include <cmath>

#include "desktop/parts/elided.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/parts/more_sets_view.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/panel_top.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "files/best_set_file.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

using service::Goal;

constexpr std::array kGoals{Goal::cover, Goal::backup, Goal::expected, Goal::travel, Goal::worst, Goal::fewest};

QString words(Goal goal, const QString& whom) {
    switch (goal) {
        case Goal::cover:
            return BestSetPanel::tr("most %1 are within").arg(whom);
        case Goal::backup:
            return BestSetPanel::tr("most %1 are within, and again of a second,").arg(whom);
        case Goal::expected:
            return BestSetPanel::tr("most %1 find one that is free within").arg(whom);
        case Goal::travel:
            return BestSetPanel::tr("all %1 together travel least").arg(whom);
        case Goal::worst:
            return BestSetPanel::tr("the farthest %1 are as near as can be").arg(whom);
        case Goal::fewest:
            return BestSetPanel::tr("with the fewest sites all %1 that can be are within").arg(whom);
    }
    return {};
}

/// " (98.5 %)", where the value is a part of all.
QString share_words(const service::BestSet& set) {
    if (set.goal != Goal::cover) return {};
    return QString(" (%1)").arg(plain(describe(share_of(Weight(static_cast<std::int64_t>(set.value)), set.all))));
}

QLabel* words_between(const QString& text, QWidget* parent) { return new QLabel(text, parent); }

}  // namespace

BestSetPanel::BestSetPanel(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), finder_(session.document, session.answers), adder_(session, this) {
    auto* top = panel_top(*this, tr("THE BEST SET"), tr("Close the best set"), [this] {
        finder_.forget();
        emit marked({});
    });
    auto* sentence = new QWidget(this);
    auto* row = new FlowLayout(sentence, 5, 3);
    row->setContentsMargins(0, 0, 0, 0);
    choose_ = new QSpinBox(this);
    choose_->setAccessibleName(tr("How many sites to choose"));
    choose_->setRange(1, 999);
    choose_->setValue(2);
    of_ = words_between({}, this);
    keep_ = new QCheckBox(tr("keeping all open ones,"), this);
    keep_->setAccessibleName(tr("Keep all open sites"));
    keep_->setToolTip(tr("Else open sites are chosen, or closed, like candidates"));
    keep_->setChecked(true);
    close_ = new QSpinBox(this);
    close_->setAccessibleName(tr("How many open sites may be closed"));
    close_->setRange(0, 999);
    close_->setPrefix(tr("closing at most "));
    close_->setSuffix(tr(" of the open ones,"));
    close_->setSpecialValueText(tr("closing any number,"));
    goal_ = new QComboBox(this);
    goal_->setAccessibleName(tr("What is to be as good as can be"));
    for (std::size_t i = 0; i < kGoals.size(); ++i) goal_->addItem({});
    // Long words do not push it out of sight.
    constexpr int kLettersSeen = 24;
    goal_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    goal_->setMinimumContentsLength(kLettersSeen);
    within_ = words_between(tr("so that"), this);
    limit_ = new NumberBox(this);
    limit_->setAccessibleName(tr("Within what"));
    limit_->setRange(0.1, 600);
    limit_->setDecimals(2);
    unit_ = new QComboBox(this);
    unit_->setAccessibleName(tr("Unit of the limit"));
    unit_->addItems({tr("min"), long_unit()});
    row->addWidget(words_between(tr("Choose"), this));
    for (QWidget* w : std::initializer_list<QWidget*>{choose_, of_, keep_, close_, within_, goal_, limit_, unit_})
        row->addWidget(w);
    busy_ = new NumberBox(this);
    busy_->setAccessibleName(tr("How much of the time each site is busy"));
    busy_->setPrefix(tr("each busy "));
    busy_->setSuffix(tr(" %"));
    busy_->setRange(0, 99);
    busy_->setDecimals(0);
    busy_->setValue(30);
    row->addWidget(busy_);
    rules_ = new QPushButton(tr("Rules"), this);
    rules_->setObjectName("flat");
    rules_->setCheckable(true);
    rules_->setAccessibleName(tr("Further rules of the best set"));
    auto* add = new QPushButton(tr("Add candidates\u2026"), this);
    add->setObjectName("flat");
    add->setAccessibleName(tr("Add candidates on a grid, at junctions or where demand stands"));
    auto* beside = new QHBoxLayout;
    beside->addWidget(rules_);
    beside->addWidget(add);
    beside->addStretch(1);
    rules_body_ = new QWidget(this);
    budget_ = new NumberBox(rules_body_);
    budget_->setAccessibleName(tr("Budget"));
    budget_->setRange(0, 1e9);
    budget_->setDecimals(1);
    budget_->setSpecialValueText(tr("no budget"));
    budget_->setPrefix(tr("costing at most "));
    budget_->setToolTip(tr("Instead of a number: as many as this pays for, by the sites' cost"));
    apart_ = new NumberBox(rules_body_);
    apart_->setAccessibleName(tr("Least distance between sites"));
    apart_->setRange(0, 1'000);
    apart_->setDecimals(2);
    apart_->setSpecialValueText(tr("however near to one another"));
    apart_->setPrefix(tr("no two nearer than "));
    apart_->setToolTip(tr("By the straight line; of two open ones that are kept it does not hold"));
    room_ = new QCheckBox(tr("no more than each has room for"), rules_body_);
    room_->setAccessibleName(room_->text());
    room_->setToolTip(tr("Who finds every site within the limit full is not covered; of most cover alone"));
    roles_said_ = new QLabel(rules_body_);
    roles_said_->setWordWrap(true);
    roles_said_->setProperty("role", "soft");
    clear_roles_ = new QPushButton(tr("Any may be chosen again"), rules_body_);
    clear_roles_->setAccessibleName(clear_roles_->text());
    auto* rules_box = new QVBoxLayout(rules_body_);
    rules_box->setContentsMargins(0, 0, 0, 0);
    rules_box->addWidget(budget_, 0, Qt::AlignLeft);
    rules_box->addWidget(apart_, 0, Qt::AlignLeft);
    rules_box->addWidget(room_);
    rules_box->addWidget(roles_said_);
    rules_box->addWidget(clear_roles_, 0, Qt::AlignLeft);
    find_ = new QPushButton(tr("Find"), this);
    find_->setAccessibleName(tr("Find the best set"));
    leave_off_ = new QPushButton(tr("Take the best so far"), this);
    leave_off_->setAccessibleName(tr("Leave off proving and take the best set so far"));
    plan_ = new QPushButton(tr("Make it a plan"), this);
    plan_->setAccessibleName(tr("Make a plan of the best set"));
    result_ = new QLabel(this);
    result_->setTextFormat(Qt::RichText);
    result_->setWordWrap(true);
    result_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(find_);
    buttons->addWidget(leave_off_);
    buttons->addWidget(plan_);
    buttons->addStretch(1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    box->setSpacing(4);
    box->addLayout(top);
    box->addWidget(sentence);
    box->addLayout(beside);
    box->addWidget(rules_body_);
    box->addLayout(buttons);
    box->addWidget(result_);
    more_ = new MoreSetsView(this);
    box->addWidget(more_);
    hide();
    show_rules(false);
    connect(rules_, &QPushButton::clicked, this, &BestSetPanel::show_rules);
    connect(clear_roles_, &QPushButton::clicked, this, [this] {
        roles_.clear();
        refresh();
    });
    connect(keep_, &QCheckBox::toggled, this, [this](bool keep) {
        // Those that are open count among the chosen, or do not: as many are open in the end.
        if (const auto answer = session_.answers.shown(); answer && !keep)
            for (const auto& s : answer->outcome.sites)
                open_too_ += s.attachment && s.planned.site.state == places::SiteState::open ? 1 : 0;
        choose_->setValue(choose_->value() + (keep ? -open_too_ : open_too_));
        if (keep) open_too_ = 0;
        refresh();
    });
    for (auto* b : {budget_, apart_}) connect(b, &QDoubleSpinBox::valueChanged, this, &BestSetPanel::refresh);
    connect(room_, &QCheckBox::toggled, this, &BestSetPanel::refresh);
    connect(add, &QPushButton::clicked, this, [this, add] {
        auto* menu = new QMenu(this);
        menu->setAttribute(Qt::WA_DeleteOnClose);
        adder_.add_actions_to(*menu);
        menu->popup(add->mapToGlobal(QPoint(0, add->height())));
    });
    connect(&adder_, &CandidateAdder::trouble, this, &BestSetPanel::trouble);
    connect(&session_.document, &Document::study_replaced, this, [this] { roles_.clear(); });
    connect(find_, &QPushButton::clicked, this, [this] { finder_.busy() ? finder_.stop() : finder_.ask(asked()); });
    connect(leave_off_, &QPushButton::clicked, &finder_, &BestSetFinder::leave_off);
    connect(plan_, &QPushButton::clicked, this, [this] {
        if (const auto f = finder_.found()) make_plan(f->set);
    });
    connect(more_, &MoreSetsView::marked, this, &BestSetPanel::marked);
    connect(more_, &MoreSetsView::plan_wanted, this, &BestSetPanel::make_plan);
    connect(more_, &MoreSetsView::trouble, this, &BestSetPanel::trouble);
    connect(goal_, &QComboBox::currentIndexChanged, this, &BestSetPanel::refresh);
    connect(&finder_, &BestSetFinder::changed, this, &BestSetPanel::refresh);
    connect(&finder_, &BestSetFinder::failed, this, [this](const QString& why) {
        result_->setText(why.toHtmlEscaped());
        emit trouble(why);
    });
    connect(&session_.answers, &Answers::changed, this, &BestSetPanel::refresh);
    connect(&session_.document, &Document::question_changed, this, &BestSetPanel::refresh);
    refresh();
}

QString BestSetPanel::result() const { return result_->text(); }

void BestSetPanel::open() {
    const auto& standard = session_.document.question().standard;
    const Amount limit = standard ? standard->limit : Amount(Millis::minutes(8));
    const bool time = std::holds_alternative<Millis>(limit);
    limit_->setValue(time ? std::get<Millis>(limit).minutes() : in_long_units(std::get<Millimetres>(limit)));
    unit_->setItemText(1, long_unit());
    unit_->setCurrentIndex(time ? 0 : 1);
    show();
    refresh();
    choose_->setFocus();
}

service::BestSetAsked BestSetPanel::asked() const {
    service::BestSetAsked a;
    a.goal = kGoals[static_cast<std::size_t>(std::max(0, goal_->currentIndex()))];
    a.choose = static_cast<std::uint32_t>(choose_->value());
    a.keep_open = keep_->isChecked();
    if (!a.keep_open && close_->value() > 0) a.close_at_most = static_cast<std::uint32_t>(close_->value());
    a.busy = Share::percent(busy_->value());
    if (budget_->value() > 0 && a.goal != Goal::fewest) a.budget = Weight::of(budget_->value());
    a.heed_room = room_->isChecked() && a.goal == Goal::cover;
    if (apart_->value() > 0) a.apart = from_long_units(apart_->value());
    if (const auto answer = session_.answers.shown()) {
        const auto& sites = answer->outcome.sites;
        for (std::uint32_t i = 0; i < sites.size(); ++i) {
            const Role role = role_of(sites[i].planned);
            if (role == Role::must) a.required.emplace_back(i);
            if (role == Role::never) a.forbidden.emplace_back(i);
        }
    }
    if (has_limit(a.goal))
        a.within = unit_->currentIndex() == 0 ? Amount(Millis(std::llround(limit_->value() * 60'000)))
                                              : Amount(from_long_units(limit_->value()));
    return a;
}

void BestSetPanel::show_rules(bool shown) {
    rules_->setChecked(shown);
    rules_body_->setVisible(shown);
    refresh();
}

BestSetPanel::Role BestSetPanel::role_of(const service::PlannedSite& site) const {
    const auto key = change_of(site, service::Change::open);
    const auto at = std::find_if(roles_.begin(), roles_.end(), [&](const auto& r) { return r.first.same_site(key); });
    return at == roles_.end() ? Role::may : at->second;
}

void BestSetPanel::set_role(const service::PlannedSite& site, Role role) {
    const auto key = change_of(site, service::Change::open);
    std::erase_if(roles_, [&](const auto& r) { return r.first.same_site(key); });
    if (role != Role::may) {
        roles_.emplace_back(key, role);
        show_rules(true);
    }
    refresh();
}

void BestSetPanel::refresh() {
    if (isHidden()) return;
    const auto& question = session_.document.question();
    const auto demand = session_.document.study().demand_of(question);
    const QString whom = plain(counted(question, demand));
    {
        const QSignalBlocker quiet(goal_);
        for (std::size_t i = 0; i < kGoals.size(); ++i)
            goal_->setItemText(static_cast<int>(i), words(kGoals[i], elided(whom)));
    }
    const QString of = keep_->isChecked() ? tr("of the candidate %1,") : tr("of the open and candidate %1,");
    of_->setText(of.arg(elided(plain(service::listed(question.sites)))));
    close_->setVisible(!keep_->isChecked());
    const Goal goal = kGoals[static_cast<std::size_t>(std::max(0, goal_->currentIndex()))];
    const bool by_budget = budget_->value() > 0;
    choose_->setEnabled(goal != Goal::fewest && !by_budget);
    busy_->setVisible(goal == Goal::expected);
    budget_->setEnabled(goal != Goal::fewest);
    room_->setEnabled(goal == Goal::cover);
    apart_->setSuffix(" " + long_unit());
    QStringList must, never;
    if (const auto answer = session_.answers.shown())
        for (const auto& s : answer->outcome.sites) {
            const Role role = role_of(s.planned);
            if (role == Role::may) continue;
            (role == Role::must ? must : never) << elided(plain(service::label(s.planned.site)));
        }
    QStringList roles;
    if (!must.isEmpty()) roles << tr("Must be among them: %1.").arg(must.join(", "));
    if (!never.isEmpty()) roles << tr("Never chosen: %1.").arg(never.join(", "));
    roles_said_->setText(roles.isEmpty() ? tr("Press a site on the map with the right button to say that it must be "
                                              "chosen, or never.")
                                         : roles.join(" "));
    clear_roles_->setVisible(!roles.isEmpty());
    // Rules hold whether they are in sight or not: how many do is.
    const int in_force = static_cast<int>(must.size() + never.size()) + (by_budget && goal != Goal::fewest ? 1 : 0) +
                         (apart_->value() > 0 ? 1 : 0) + (room_->isChecked() && goal == Goal::cover ? 1 : 0);
    const QString arrow = QString::fromUtf8(rules_->isChecked() ? "\u25be " : "\u25b8 ");
    rules_->setText(arrow + (in_force == 0 ? tr("Rules") : tr("Rules (%1)").arg(in_force)));
    for (QWidget* w : std::initializer_list<QWidget*>{limit_, unit_}) w->setVisible(has_limit(goal));
    find_->setText(finder_.busy() ? tr("Stop") : tr("Find"));
    find_->setEnabled(finder_.busy() || session_.answers.up_to_date());
    leave_off_->setVisible(finder_.busy() && finder_.so_far());
    const auto now = finder_.busy() ? finder_.so_far() : finder_.found();
    plan_->setVisible(!finder_.busy() && now && now->set.any);
    plan_->setEnabled(finder_.up_to_date());
    more_->follow(plan_->isVisibleTo(this) && finder_.up_to_date() ? finder_.found() : nullptr);
    std::vector<geo::LonLat> where;
    if (now)
        for (const SiteIndex s : now->set.chosen)
            if (const auto& p = now->sites[s.value()].planned.site.position) where.push_back(*p);
    if (now || finder_.busy()) {
        if (!now) {
            result_->setText(tr("Looking\u2026"));
        } else {
            const auto& r = *now->answer->ready;
            const std::string of = counted(r.question, r.inputs.demand);
            const auto named = [&](const std::vector<SiteIndex>& sites) {
                QStringList names;
                constexpr int kMostNames = 12;
                for (const SiteIndex s : sites) {
                    if (names.size() == kMostNames) {
                        names << QString::fromUtf8("\u2026");
                        break;
                    }
                    names << elided(plain(service::label(now->sites[s.value()].planned.site))).toHtmlEscaped();
                }
                return names.empty() ? tr("none") : names.join(", ");
            };
            // Where open ones may be chosen too, what changes.
            QString changes;
            const auto opened = opened_by(now->sites, now->set), closed = closed_by(now->sites, now->set);
            if (opened.size() < now->set.chosen.size() || !closed.empty())
                changes = "<br>" + tr("It opens %1 and closes %2.").arg(named(opened), named(closed));
            const QString proof = finder_.busy()
                                      ? tr("best so far; at most %1")
                                            .arg(plain(value_words(now->set, now->set.bound, of)).toHtmlEscaped())
                                      : plain(files::bound_words(now->set, of)).toHtmlEscaped();
            if (now->set.spare > 0) changes += "<br>" + plain(files::enough_words(now->set, now->asked)) + ".";
            result_->setText(
                tr("<b>%1</b>%4<br>%2; %3.")
                    .arg(now->set.chosen.empty() ? tr("none more") : named(now->set.chosen),
                         (plain(value_words(now->set, now->set.value, of)) + share_words(now->set)).toHtmlEscaped(),
                         proof, changes) +
                (!finder_.busy() && !finder_.up_to_date() ? "<br>" + tr("The question or the plan has changed since.")
                                                          : QString()));
        }
        emit marked(where);
    }
}

void BestSetPanel::make_plan(const service::BestSet& set) {
    const auto f = finder_.found();
    if (!f || !finder_.up_to_date()) return;
    const std::size_t n = set.chosen.size();
    const QString name = n == 1   ? tr("Best one")
                         : n == 2 ? tr("Best two")
                         : n == 3 ? tr("Best three")
                                  : tr("Best %1").arg(n);
    const auto& r = *f->answer->ready;
    const std::string of = counted(r.question, r.inputs.demand);
    const double worse = worse_by(f->set, set);
    // Of a set that is nearly as good its own bound is that of its part alone.
    const std::string proof = n == f->set.chosen.size() && set.chosen != f->set.chosen
                                  ? tr("%1 % worse than the best such set").arg(decimal(100 * worse, 2)).toStdString()
                                  : files::bound_words(set, of);
    service::Plan plan = plan_with(f->answer->outcome.plan, f->sites, set, name.toStdString());
    auto asked = f->asked;
    if (asked.goal != service::Goal::fewest && !asked.budget) asked.choose = static_cast<std::uint32_t>(n);
    plan.note = sentence(r.inputs, r.question, asked) + " " + value_words(set, set.value, of) + "; " + proof + ".";
    finder_.forget();
    emit marked({});
    hide();
    session_.document.add_plan(std::move(plan));
}

}  // namespace otoro::desktop
