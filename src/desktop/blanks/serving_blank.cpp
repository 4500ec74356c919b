#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QRadioButton>
#include <QSpinBox>
#include <QVBoxLayout>
#include <cmath>
#include <memory>

#include "desktop/blanks/blank_editors.h"
#include "service/serving_needs.h"

namespace otoro::desktop {
namespace {

using service::AsCapacityAllows;
using service::ByPairs;
using service::SeveralNearest;

/// One rule that can be chosen, and the widgets that refine it.
struct Rule {
    QString name;
    service::Serving serving;  ///< as it is chosen
    QWidget* refined = nullptr;
};

/// Changes the rule that the question has, if it is one of this kind.
template <class Kind>
void refine(const BlankDesk& desk, const std::function<void(Kind&)>& to) {
    if (!std::holds_alternative<Kind>(desk.question().serving)) return;
    desk.change(Blanks::tr("rule of serving"), [&](service::Question& q) { to(std::get<Kind>(q.serving)); });
}

QSpinBox* number_box(QWidget& parent, const QString& name, int least, int now) {
    auto* box = new QSpinBox(&parent);
    box->setAccessibleName(name);
    box->setRange(least, static_cast<int>(service::kMostNearest));
    box->setValue(now);
    return box;
}

QWidget* refine_several(const BlankDesk& desk, const SeveralNearest& rule, QWidget& popup) {
    auto* holder = new QWidget(&popup);
    auto* form = new QFormLayout(holder);
    form->setContentsMargins(18, 0, 0, 4);
    auto* count = number_box(*holder, Blanks::tr("How many nearest sites"), 0, static_cast<int>(rule.count));
    count->setObjectName("several_count");
    count->setSpecialValueText(Blanks::tr("all"));
    count->setToolTip(Blanks::tr("0 lists all sites that can be reached, within the limit if there is one."));
    auto* needed = number_box(*holder, Blanks::tr("How many of them are needed"), 1, static_cast<int>(rule.needed));
    needed->setObjectName("several_needed");
    needed->setToolTip(
        Blanks::tr("A place counts by the farthest of those that it needs: with 2, at least two sites must be within "
                   "the standard."));
    form->addRow(Blanks::tr("how many"), count);
    form->addRow(Blanks::tr("needed"), needed);
    const auto report = [desk, count, needed] {
        const int most = count->value() == 0 ? static_cast<int>(service::kMostNearest) : count->value();
        needed->setMaximum(most);
        refine<SeveralNearest>(desk, [&](SeveralNearest& r) {
            r.count = static_cast<std::uint32_t>(count->value());
            r.needed = static_cast<std::uint32_t>(needed->value());
        });
    };
    if (rule.count > 0) needed->setMaximum(static_cast<int>(rule.count));
    QObject::connect(count, &QSpinBox::valueChanged, holder, report);
    QObject::connect(needed, &QSpinBox::valueChanged, holder, report);
    return holder;
}

QWidget* refine_capacity(const BlankDesk& desk, const AsCapacityAllows& rule, QWidget& popup) {
    auto* holder = new QWidget(&popup);
    auto* box = new QVBoxLayout(holder);
    box->setContentsMargins(18, 0, 0, 4);
    auto* fill = new QComboBox(holder);
    fill->setObjectName("fill");
    fill->setAccessibleName(Blanks::tr("How sites are filled"));
    fill->addItems({Blanks::tr("least travel in all"), Blanks::tr("the nearest first")});
    fill->setCurrentIndex(rule.fill == AsCapacityAllows::Fill::least_travel ? 0 : 1);
    auto* priority = new QCheckBox(Blanks::tr("by priority before that"), holder);
    priority->setObjectName("by_priority");
    priority->setChecked(rule.by_priority);
    priority->setEnabled(fill->currentIndex() == 1);
    auto* split = new QCheckBox(Blanks::tr("part of a place may go elsewhere"), holder);
    split->setObjectName("split");
    split->setChecked(rule.split);
    box->addWidget(fill);
    box->addWidget(priority);
    box->addWidget(split);
    const auto report = [desk, fill, priority, split] {
        const bool first = fill->currentIndex() == 1;
        priority->setEnabled(first);
        refine<AsCapacityAllows>(desk, [&](AsCapacityAllows& r) {
            r.fill = first ? AsCapacityAllows::Fill::nearest_first : AsCapacityAllows::Fill::least_travel;
            r.by_priority = first && priority->isChecked();
            r.split = split->isChecked();
        });
    };
    QObject::connect(fill, &QComboBox::currentIndexChanged, holder, report);
    QObject::connect(priority, &QCheckBox::toggled, holder, report);
    QObject::connect(split, &QCheckBox::toggled, holder, report);
    return holder;
}

QWidget* refine_pairs(const BlankDesk& desk, const ByPairs& rule, QWidget& popup) {
    auto* holder = new QWidget(&popup);
    auto* form = new QFormLayout(holder);
    form->setContentsMargins(18, 0, 0, 4);
    auto* which = new QComboBox(holder);
    which->setObjectName("which_value");
    which->setAccessibleName(Blanks::tr("Which value is best"));
    which->addItems({Blanks::tr("the largest"), Blanks::tr("the smallest")});
    which->setCurrentIndex(rule.smallest ? 1 : 0);
    auto* share = new QSpinBox(holder);
    share->setObjectName("of_value");
    share->setAccessibleName(Blanks::tr("How much the value counts; the rest is nearness"));
    share->setToolTip(
        Blanks::tr("At 100 % the value alone decides and nearness breaks ties; at less, nearness counts "
                   "for the rest."));
    share->setRange(0, 100);
    share->setSuffix(Blanks::tr(" %"));
    share->setValue(static_cast<int>(std::lround(rule.of_value.percent())));
    form->addRow(Blanks::tr("best value"), which);
    form->addRow(Blanks::tr("value counts"), share);
    auto* otherwise = new QCheckBox(Blanks::tr("who has no value goes to the nearest"), holder);
    otherwise->setObjectName("else_nearest");
    otherwise->setToolTip(Blanks::tr("Places that the table gives no value with any site that there is a way to."));
    otherwise->setChecked(rule.else_nearest);
    form->addRow(otherwise);
    const auto report = [desk, which, share, otherwise] {
        refine<ByPairs>(desk, [&](ByPairs& r) {
            r.smallest = which->currentIndex() == 1;
            r.of_value = Share::percent(share->value());
            r.else_nearest = otherwise->isChecked();
        });
    };
    QObject::connect(which, &QComboBox::currentIndexChanged, holder, report);
    QObject::connect(share, &QSpinBox::valueChanged, holder, report);
    QObject::connect(otherwise, &QCheckBox::toggled, holder, report);
    return holder;
}

/// The question's own rule if it is of this kind, else the usual one.
template <class Kind>
Kind current_or_usual(const service::Serving& now) {
    if (const auto* rule = std::get_if<Kind>(&now)) return *rule;
    Kind usual;
    usual.measure = measure_of(now);
    return usual;
}

std::vector<Rule> rules(const BlankDesk& desk, QWidget& popup) {
    const auto& now = desk.question().serving;
    const auto several = current_or_usual<SeveralNearest>(now);
    const auto capacity = current_or_usual<AsCapacityAllows>(now);
    const auto pairs = current_or_usual<ByPairs>(now);
    return {{Blanks::tr("the nearest"), current_or_usual<service::Nearest>(now)},
            {Blanks::tr("several nearest, ranked"), several, refine_several(desk, several, popup)},
            {Blanks::tr("the nearest, as capacity allows"), capacity, refine_capacity(desk, capacity, popup)},
            {Blanks::tr("the site on record"), current_or_usual<service::AsRecorded>(now)},
            {Blanks::tr("the nearest, for each zone as a whole"), current_or_usual<service::WholeZones>(now)},
            {Blanks::tr("the one with the best value by pairs"), pairs, refine_pairs(desk, pairs, popup)}};
}

void add_measure(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    auto* measure = new QComboBox(&popup);
    measure->setObjectName("measure");
    measure->setAccessibleName(Blanks::tr("What near means"));
    measure->addItems({Blanks::tr("near by time"), Blanks::tr("near by distance")});
    measure->setCurrentIndex(desk.question().measure() == routing::Measure::time ? 0 : 1);
    box.addWidget(measure);
    QObject::connect(measure, &QComboBox::currentIndexChanged, &popup, [desk](int i) {
        desk.change(Blanks::tr("measure"), [&](service::Question& q) {
            std::visit([&](auto& rule) { rule.measure = i == 0 ? routing::Measure::time : routing::Measure::distance; },
                       q.serving);
        });
    });
}

}  // namespace

void edit_serving(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    add_measure(desk, box, popup);
    auto* group = new QButtonGroup(&popup);
    const auto all = std::make_shared<std::vector<Rule>>(rules(desk, popup));
    const auto& study = desk.document.study();
    const auto show_refined = [all, &popup](int chosen) {
        for (std::size_t i = 0; i < all->size(); ++i)
            if ((*all)[i].refined != nullptr) (*all)[i].refined->setVisible(static_cast<int>(i) == chosen);
        popup.adjustSize();
    };
    int current = 0;
    for (int i = 0; i < static_cast<int>(all->size()); ++i) {
        const Rule& rule = (*all)[static_cast<std::size_t>(i)];
        auto* button = new QRadioButton(rule.name, &popup);
        button->setAccessibleName(rule.name);
        const bool chosen = rule.serving.index() == desk.question().serving.index();
        auto probe = desk.question();
        probe.serving = rule.serving;
        // What the data does not say cannot be chosen; what was chosen before they changed can be left.
        if (const auto missing = what_is_missing(study, probe); missing && !chosen) {
            button->setEnabled(false);
            const QString why = QString::fromStdString(missing->wrong + ". " + missing->to_do + ".");
            button->setToolTip(why);
            button->setAccessibleDescription(why);
        }
        button->setChecked(chosen);
        if (chosen) {
            current = i;
            button->setFocus();
        }
        group->addButton(button, i);
        box.addWidget(button);
        if (rule.refined != nullptr) box.addWidget(rule.refined);
    }
    show_refined(current);
    QObject::connect(group, &QButtonGroup::idClicked, &popup, [desk, all, show_refined](int i) {
        const auto& chosen = (*all)[static_cast<std::size_t>(i)].serving;
        if (chosen.index() == desk.question().serving.index()) return;
        desk.change(Blanks::tr("rule of serving"), [&](service::Question& q) {
            const auto measure = q.measure();
            q.serving = chosen;
            std::visit([&](auto& rule) { rule.measure = measure; }, q.serving);
        });
        show_refined(i);
    });
}

}  // namespace otoro::desktop
