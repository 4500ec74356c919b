/// Further steps of a standard, a row each.
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>
#include <memory>

#include "desktop/blanks/blank_editors.h"
#include "desktop/parts/number_box.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

using service::Step;

/// Names of zones and groups that a step may be for, as tables by zone and by group name them.
std::vector<std::string> parts_of(const service::Study& study, const service::Question& question) {
    constexpr std::size_t kMost = 200;  // of each, or nobody finds any
    std::vector<std::string> out;
    const auto add = [&](const std::string& name, std::size_t& left) {
        if (name.empty() || left == 0 || std::find(out.begin(), out.end(), name) != out.end()) return;
        out.push_back(name);
        --left;
    };
    std::size_t zones_left = kMost, groups_left = kMost;
    if (const auto zones = study.zones_of(question))
        for (const auto& zone : zones->zones) add(zone.label(), zones_left);
    for (const auto& set : study.demand_of(question).sets())
        for (const auto& group : set->group.values()) add(group, groups_left);
    return out;
}

/// The rows, and the steps that they show.
class StepRows : public QWidget {
public:
    StepRows(const BlankDesk& desk, QWidget& popup) : QWidget(&popup), desk_(desk) {
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 0, 0, 0);
        box->setSpacing(4);
        rows_ = new QVBoxLayout;
        rows_->setSpacing(4);
        box->addLayout(rows_);
        add_ = new QPushButton(Blanks::tr("Add a step"), this);
        add_->setObjectName("add_step");
        add_->setAccessibleName(Blanks::tr("Add a step to the standard"));
        box->addWidget(add_, 0, Qt::AlignLeft);
        QObject::connect(add_, &QPushButton::clicked, this, [this] { add(); });
        names_ = parts_of(desk.document.study(), desk.question());
        build();
    }

private:
    [[nodiscard]] std::vector<Step> steps() const {
        const auto& standard = desk_.question().standard;
        return standard ? standard->further : std::vector<Step>();
    }
    void set(const std::function<void(std::vector<Step>&)>& to,
             const QString& what = Blanks::tr("steps of the standard")) const {
        desk_.change(what, [&](auto& q) {
            if (q.standard) to(q.standard->further);
        });
    }
    void add() {
        const auto& standard = desk_.question().standard;
        if (!standard) return;
        // What committees add most often: nobody farther than somewhat more.
        const Amount limit = std::visit([](auto a) { return Amount(decltype(a)(2 * a.count())); }, standard->limit);
        set([&](auto& all) { all.push_back({Share::percent(100), limit, {}}); }, Blanks::tr("add a step"));
        build();
    }
    void build() {
        while (auto* item = rows_->takeAt(0)) {
            item->widget()->hide();
            item->widget()->deleteLater();  // one of its buttons may be what was pressed
            delete item;
        }
        const auto all = steps();
        for (std::size_t i = 0; i < all.size(); ++i) rows_->addWidget(row(i, all[i]));
        add_->setEnabled(all.size() < service::kMostFurtherSteps && desk_.question().standard.has_value());
        window()->adjustSize();
    }
    QWidget* row(std::size_t i, const Step& step) {
        auto* holder = new QWidget(this);
        auto* box = new QHBoxLayout(holder);
        box->setContentsMargins(0, 0, 0, 0);
        const QString number = Blanks::tr("step %1").arg(i + 2);
        auto* share = new NumberBox(holder);
        share->setObjectName("step_share");
        share->setAccessibleName(Blanks::tr("Share in per cent, %1").arg(number));
        share->setRange(0.1, 100);
        share->setDecimals(1);
        share->setSuffix(Blanks::tr(" %"));
        share->setValue(step.share.percent());
        QObject::connect(share, &QDoubleSpinBox::valueChanged, holder, [this, i](double v) {
            set([&](auto& all) {
                if (i < all.size()) all[i].share = Share::percent(v);
            });
        });
        box->addWidget(share);
        auto* who = new QComboBox(holder);
        who->setObjectName("step_part");
        who->setAccessibleName(Blanks::tr("For whom, %1").arg(number));
        who->addItem(Blanks::tr("of all"));
        for (const auto& name : names_) who->addItem(Blanks::tr("of %1").arg(plain(name)), plain(name));
        const QString part = plain(step.scope.part);
        if (!part.isEmpty() && who->findData(part) < 0) who->addItem(Blanks::tr("of %1 (not there)").arg(part), part);
        who->setCurrentIndex(part.isEmpty() ? 0 : who->findData(part));
        who->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        who->setMinimumContentsLength(14);
        QObject::connect(who, &QComboBox::currentIndexChanged, holder, [this, i, who] {
            set([&](auto& all) {
                if (i < all.size()) all[i].scope.part = who->currentData().toString().toStdString();
            });
        });
        box->addWidget(who);
        box->addWidget(new QLabel(Blanks::tr("within"), holder));
        auto* amount = new QVBoxLayout;
        add_amount(*amount, *holder, Blanks::tr("Limit, %1").arg(number), step.limit, true,
                   [this, i](const Amount& limit) {
                       set([&](auto& all) {
                           if (i < all.size()) all[i].limit = limit;
                       });
                   });
        auto* limit = holder->findChild<QDoubleSpinBox*>("amount");
        limit->setObjectName("step_amount");
        limit->findChild<QLineEdit*>()->deselect();  // one row after another would look chosen
        box->addLayout(amount);
        auto* sites = new QSpinBox(holder);
        sites->setObjectName("step_sites");
        sites->setAccessibleName(Blanks::tr("Sites that must be there, %1").arg(number));
        sites->setToolTip(Blanks::tr("2: the second site to arrive counts"));
        sites->setRange(1, static_cast<int>(service::kMostNearest));
        sites->setPrefix(Blanks::tr("by "));
        sites->setSuffix(step.scope.needed == 1 ? Blanks::tr(" site") : Blanks::tr(" sites"));
        sites->setValue(static_cast<int>(step.scope.needed));
        QObject::connect(sites, &QSpinBox::valueChanged, holder, [this, i, sites](int v) {
            sites->setSuffix(v == 1 ? Blanks::tr(" site") : Blanks::tr(" sites"));
            set([&](auto& all) {
                if (i < all.size()) all[i].scope.needed = static_cast<std::uint32_t>(v);
            });
        });
        box->addWidget(sites);
        auto* remove = new QPushButton(Blanks::tr("Remove"), holder);
        remove->setObjectName("flat");
        remove->setAccessibleName(Blanks::tr("Remove %1").arg(number));
        QObject::connect(remove, &QPushButton::clicked, holder, [this, i] {
            set(
                [&](auto& all) {
                    if (i < all.size()) all.erase(all.begin() + static_cast<std::ptrdiff_t>(i));
                },
                Blanks::tr("remove a step"));
            build();
        });
        box->addWidget(remove);
        return holder;
    }

    BlankDesk desk_;
    QVBoxLayout* rows_;
    QPushButton* add_;
    std::vector<std::string> names_;
};

}  // namespace

void edit_steps(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) { box.addWidget(new StepRows(desk, popup)); }

}  // namespace otoro::desktop
