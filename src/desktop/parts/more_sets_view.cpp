#include "desktop/parts/more_sets_view.h"

#include <QLabel>
#include <QMouseEvent>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <chrono>

#include "desktop/parts/elided.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/parts/quiet_plot.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "files/best_set_file.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

using service::BestSet;
using service::Goal;

constexpr int kNumber = Qt::UserRole;  // of the set, or of the site
constexpr std::uint32_t kSteps = 8;    // so many at least, where there are so many candidates
constexpr std::size_t kMostNear = 12;
constexpr double kNear = 0.02;
constexpr std::chrono::seconds kMostTime{60};  // for all of a kind; what is known by then counts

std::string counted_of(const MoreSetsView::Found& f) {
    const auto& ready = *f.best->answer->ready;
    return service::counted(ready.question, ready.inputs.demand);
}

std::shared_ptr<const MoreSetsView::Found> worked_out(const MoreSetsView::BestFound& best, MoreSetsView::Kind kind,
                                                      std::stop_token enough, const Task& whole) {
    auto out = std::make_shared<MoreSetsView::Found>(MoreSetsView::Found{best, kind, {}, true, 0, {}});
    const auto& ready = best->answer->ready;
    const auto& plan = best->answer->outcome.plan;
    const service::BestSetLimits limits;
    service::SetChooser chooser(ready, plan, whole);
    const Task task = whole.leaving_off(Task::Clock::now() + kMostTime, std::move(enough));
    service::BestSetAsked asked = best->asked;
    switch (kind) {
        case MoreSetsView::Kind::price: {
            std::uint32_t candidates = 0;
            for (std::uint32_t i = 0; i < chooser.sites().size(); ++i)
                candidates +=
                    chooser.in_question(SiteIndex(i)) && !(asked.keep_open && chooser.is_open(SiteIndex(i))) ? 1 : 0;
            asked.choose = std::min(candidates, std::max(asked.choose, kSteps));
            auto steps = price_of_steps(chooser, asked, limits, task);
            out->sets = std::move(steps.sets);
            out->complete = steps.left_off_from == 0;
            out->enough = steps.enough;
            break;
        }
        case MoreSetsView::Kind::near: {
            auto near = nearly_as_good(chooser, asked, best->set, kNear, kMostNear, limits, task);
            out->sets = std::move(near.sets);
            out->complete = near.complete;
        } break;
        case MoreSetsView::Kind::sure:
            out->sure = how_sure(chooser, ready, plan, asked, best->set, service::kUsualSpeeds, limits, task);
            break;
    }
    return out;
}

}  // namespace

MoreSetsView::MoreSetsView(QWidget* parent) : QWidget(parent), work_(this) {
    auto* row = new QWidget(this);
    auto* flow = new FlowLayout(row, 4, 2);
    flow->setContentsMargins(0, 0, 0, 0);
    const std::array<std::pair<QString, QString>, 3> asked{
        std::pair{tr("Price of every step"), tr("The best for one site, for two, and so on")},
        std::pair{tr("Nearly as good"), tr("Other sets that are worse by two in a hundred at most")},
        std::pair{tr("How sure"), tr("How many sets are as good, and what this one loses when speeds are 10 and 20 % "
                                     "lower or higher, when each place counts once, and with the busiest road of each "
                                     "chosen site shut, of five at most")}};
    for (std::size_t i = 0; i < asked.size(); ++i) {
        auto* b = new QPushButton(asked[i].first, this);
        b->setObjectName("flat");
        b->setStyleSheet("QPushButton:checked { background: #EEE0EC; border-color: #6B2A62; }");
        b->setCheckable(true);
        b->setAccessibleName(asked[i].first);
        b->setToolTip(asked[i].second);
        connect(b, &QPushButton::clicked, this, [this, i] { ask(static_cast<Kind>(i)); });
        buttons_[i] = b;
        flow->addWidget(b);
    }
    note_ = new QLabel(this);
    note_->setWordWrap(true);
    note_->setProperty("role", "soft");
    stop_ = new QPushButton(tr("Take what there is"), this);
    stop_->setAccessibleName(tr("Leave off working out more sets, and take what there is"));
    plot_ = new QCustomPlot(this);
    make_quiet(*plot_);
    plot_->setFixedHeight(theme::scaled(130));
    plot_->setAccessibleName(tr("The best value by how many sites are chosen. Press a point to see its sites"));
    for (QCPAxis* axis : {plot_->xAxis, plot_->yAxis}) {
        axis->setNumberFormat("f");
        axis->setNumberPrecision(0);
    }
    plot_->xAxis->setLabel(tr("sites chosen"));
    bounds_ = plot_->addGraph();
    bounds_->setPen(QPen(theme::kFaintInk, 1.2, Qt::DashLine));
    values_ = plot_->addGraph();
    values_->setPen(QPen(theme::kInk, 1.6));
    values_->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, QPen(theme::kAccent, 2), QBrush(theme::kPaper), 8));
    list_ = quiet_table({QString(), QString(), QString()}, tr("More sets"), this);
    plan_ = new QPushButton(tr("Make it a plan"), this);
    plan_->setAccessibleName(tr("Make a plan of the set that is picked"));
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 4, 0, 0);
    box->setSpacing(4);
    box->addWidget(row);
    box->addWidget(note_);
    box->addWidget(stop_, 0, Qt::AlignLeft);
    box->addWidget(plot_);
    box->addWidget(list_);
    box->addWidget(plan_, 0, Qt::AlignLeft);
    hide();
    connect(stop_, &QPushButton::clicked, this, [this] { enough_.request_stop(); });
    connect(list_, &QTableWidget::currentCellChanged, this, [this](int at) { pick(at); });
    connect(plan_, &QPushButton::clicked, this, [this] {
        if (const BestSet* set = set_of(list_->currentRow())) emit plan_wanted(BestSet(*set));
    });
    connect(plot_, &QCustomPlot::mousePress, this, [this](QMouseEvent* e) {
        // The nearest point, wherever along the step it was pressed.
        const int at = static_cast<int>(std::lround(plot_->xAxis->pixelToCoord(e->position().x())));
        for (int r = 0; r < list_->rowCount(); ++r)
            if (const BestSet* set = set_of(r); set && static_cast<int>(set->chosen.size()) == at)
                list_->setCurrentCell(r, 0);
    });
    connect(&work_, &WorkedOutSignals::changed, this, &MoreSetsView::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &MoreSetsView::trouble);
    connect(&work_, &WorkedOutSignals::progressed, this, [this](const QString& step, double done) {
        note_->setText(tr("%1: %2 %").arg(step).arg(static_cast<int>(100 * done)));
    });
}

void MoreSetsView::follow(const BestFound& best) {
    if (best == best_) return;
    best_ = best;
    work_.forget();
    for (auto* b : buttons_) b->setChecked(false);
    button(Kind::price).setEnabled(best && has_steps(best->asked));
    setVisible(best != nullptr);
    refresh();
}

void MoreSetsView::ask(Kind kind) {
    if (!best_) return;
    for (std::size_t i = 0; i < buttons_.size(); ++i) buttons_[i]->setChecked(i == static_cast<std::size_t>(kind));
    enough_ = std::stop_source();
    work_.ask([best = best_, kind, enough = enough_.get_token()](const Task& task) {
        return worked_out(best, kind, enough, task);
    });
}

const BestSet* MoreSetsView::set_of(int row) const {
    const auto& found = work_.found();
    if (work_.busy() || !found || row < 0 || !list_->item(row, 0) || found->kind == Kind::sure) return nullptr;
    const auto number = static_cast<std::size_t>(list_->item(row, 0)->data(kNumber).toInt());
    return number < found->sets.size() ? &found->sets[number] : nullptr;
}

void MoreSetsView::pick(int row) {
    const auto& found = work_.found();
    const BestSet* set = set_of(row);
    plan_->setEnabled(set != nullptr);
    std::vector<geo::LonLat> where;
    const auto add = [&](SiteIndex site) {
        if (const auto& p = found->best->sites[site.value()].planned.site.position) where.push_back(*p);
    };
    if (set != nullptr)
        for (const SiteIndex site : set->chosen) add(site);
    else if (found && found->kind == Kind::sure && row >= 0 && list_->item(row, 0))
        for (const SiteIndex site : found->sure.variants[list_->item(row, 0)->data(kNumber).toUInt()].set.chosen)
            add(site);
    if (!where.empty()) emit marked(where);
}

void MoreSetsView::refresh() {
    const auto& found = work_.found();
    const bool there = !work_.busy() && found;
    stop_->setVisible(work_.busy());
    plot_->setVisible(there && found->kind == Kind::price && found->sets.size() > 1);
    list_->setVisible(there);
    plan_->setVisible(there && found->kind != Kind::sure && !found->sets.empty());
    plan_->setEnabled(false);
    note_->setVisible(work_.busy() || there);
    if (!there) {
        if (!work_.busy())
            for (auto* b : buttons_) b->setChecked(false);
        return;
    }
    {
        const QSignalBlocker quiet(list_);
        list_->setCurrentCell(-1, -1);
        if (found->kind == Kind::price)
            fill_price(*found);
        else if (found->kind == Kind::near)
            fill_near(*found);
        else
            fill_sure(*found);
    }
    fit_height(*list_, 8);
}

void MoreSetsView::fill_price(const Found& found) {
    const std::string whom = counted_of(found);
    note_->setText(tr("The best set of each size; press one to see its sites.") +
                   (found.enough == 0 ? QString() : " " + tr("More than %1 bring nothing.").arg(found.enough)) +
                   (found.complete ? QString() : " " + tr("Larger ones were left off.")));
    list_->horizontalHeaderItem(0)->setText(tr("sites"));
    list_->horizontalHeaderItem(1)->setText(tr("value"));
    list_->horizontalHeaderItem(2)->setText(tr("one more brings"));
    QVector<double> x, y, bound;
    const QuietChange quiet(*list_, static_cast<int>(found.sets.size()));
    for (int i = 0; i < static_cast<int>(found.sets.size()); ++i) {
        const BestSet& set = found.sets[static_cast<std::size_t>(i)];
        const QString names = elided(plain(files::chosen_names(found.best->sites, set)), 60);
        put_cell(*list_, i, 0, QString::number(set.chosen.size()), false).setData(kNumber, i);
        put_cell(*list_, i, 1, plain(value_words(set, set.value, whom)), true);
        const Wide before = i == 0 ? set.value : found.sets[static_cast<std::size_t>(i) - 1].value;
        const Wide more = set.value > before ? set.value - before : before - set.value;
        put_cell(*list_, i, 2, i == 0 ? QString() : plain(value_words(set, more, whom)), true);
        const QString tip = names + "\n" + plain(files::bound_words(set, whom));
        for (int c = 0; c < 3; ++c) list_->item(i, c)->setToolTip(tip);
        x << static_cast<double>(set.chosen.size());
        y << shown_value(set, set.value);
        bound << shown_value(set, set.bound);
    }
    values_->setData(x, y, true);
    bounds_->setData(x, bound, true);
    if (!x.isEmpty()) {
        const auto [least, most] = std::minmax_element(y.begin(), y.end());
        const auto [least_bound, most_bound] = std::minmax_element(bound.begin(), bound.end());
        const double low = std::min(*least, *least_bound), high = std::max(*most, *most_bound);
        const double room = std::max(1e-9, 0.08 * (high - low));
        plot_->yAxis->setRange(low - room, high + room);
        plot_->xAxis->setRange(x.front() - 0.5, x.back() + 0.5);
        auto ticker = QSharedPointer<QCPAxisTickerFixed>::create();
        ticker->setTickStep(1);
        ticker->setScaleStrategy(QCPAxisTickerFixed::ssMultiples);
        plot_->xAxis->setTicker(ticker);
    }
    plot_->replot(QCustomPlot::rpQueuedReplot);
}

void MoreSetsView::fill_near(const Found& found) {
    const std::string whom = counted_of(found);
    note_->setText((found.sets.empty() ? tr("No other set is worse by less than two in a hundred.")
                                       : tr("Other sets, worse by two in a hundred at most; the best first.")) +
                   (found.complete ? QString() : " " + tr("There may be more.")));
    list_->horizontalHeaderItem(0)->setText(tr("sites"));
    list_->horizontalHeaderItem(1)->setText(tr("value"));
    list_->horizontalHeaderItem(2)->setText(tr("worse by"));
    const QuietChange quiet(*list_, static_cast<int>(found.sets.size()));
    for (int i = 0; i < static_cast<int>(found.sets.size()); ++i) {
        const BestSet& set = found.sets[static_cast<std::size_t>(i)];
        const QString names = plain(files::chosen_names(found.best->sites, set));
        put_cell(*list_, i, 0, elided(names, 60), false).setData(kNumber, i);
        put_cell(*list_, i, 1, plain(value_words(set, set.value, whom)), true);
        put_cell(*list_, i, 2, tr("%1 %").arg(decimal(100 * worse_by(found.best->set, set), 2)), true);
        for (int c = 0; c < 3; ++c) list_->item(i, c)->setToolTip(names);
    }
}

void MoreSetsView::fill_sure(const Found& found) {
    const auto& sure = found.sure;
    const std::string whom = counted_of(found);
    note_->setText(tr("As asked, %1.").arg(plain(files::as_good_words(sure))) + " " +
                   tr("What these sites lose against the best of then; press a row to see that.") +
                   (sure.left_off == 0 ? QString() : " " + tr("%n more were left off.", nullptr, int(sure.left_off))));
    list_->horizontalHeaderItem(0)->setText(tr("if"));
    list_->horizontalHeaderItem(1)->setText(tr("these sites"));
    list_->horizontalHeaderItem(2)->setText(tr("worse by"));
    const QuietChange quiet(*list_, static_cast<int>(sure.variants.size()));
    for (int i = 0; i < static_cast<int>(sure.variants.size()); ++i) {
        const service::Variant& v = sure.variants[static_cast<std::size_t>(i)];
        put_cell(*list_, i, 0, elided(plain(v.what)), false).setData(kNumber, i);
        put_cell(*list_, i, 1, v.chosen.any ? plain(value_words(v.chosen, v.chosen.value, "")).trimmed() : tr("no set"),
                 true);
        put_cell(*list_, i, 2,
                 v.set.any && v.chosen.any ? tr("%1 %").arg(decimal(100 * worse_by(v.set, v.chosen), 2)) : QString(),
                 true);
        const QString tip = plain(files::loss_words(v, whom)) +
                            (v.set.any ? "\n" + plain(files::chosen_names(found.best->sites, v.set)) : QString());
        for (int c = 0; c < 3; ++c) list_->item(i, c)->setToolTip(tip);
    }
}

}  // namespace otoro::desktop
