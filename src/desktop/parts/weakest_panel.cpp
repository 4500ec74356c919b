#include "desktop/parts/weakest_panel.h"

#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/parts/elided.h"
#include "desktop/parts/panel_top.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

constexpr int kWeakestRow = Qt::UserRole;  // its number: sites first, then roads

/// "−1,203", "+5" where more are within than before, "0".
QString lost_words(Weight lost) {
    const auto count = lost.count();
    return (count > 0   ? QString::fromUtf8("\u2212")
            : count < 0 ? QString("+")
                        : QString()) +
           plain(describe(Weight(std::abs(count))));
}

QString road_name(const service::Ready& ready, LinkId link) {
    const QString name = elided(plain(ready.inputs.network->name(link)));
    return name.isEmpty() ? WeakestPanel::tr("road %1").arg(number(std::uint64_t{link.value()} + 1)) : name;
}

}  // namespace

WeakestPanel::WeakestPanel(Session& session, QWidget* parent) : QWidget(parent), session_(session), work_(this) {
    auto* top = panel_top(*this, tr("WHAT HURTS MOST"), tr("Close what hurts most"), [this] {
        work_.forget();
        emit looked_at({});
    });
    note_ = new QLabel(this);
    note_->setWordWrap(true);
    note_->setProperty("role", "soft");
    list_ = quiet_table({tr("if it closes"), tr("within"), tr("share")}, tr("What is lost if a site or a road closes"),
                        this);
    again_ = new QPushButton(tr("Work out again"), this);
    roads_ = new QPushButton(tr("Roads too"), this);
    roads_->setAccessibleName(tr("Work out the roads too"));
    roads_->setToolTip(tr("The roads whose closing costs most, exactly. On a large network this takes minutes."));
    plan_ = new QPushButton(tr("Make it a plan"), this);
    plan_->setAccessibleName(tr("Make a plan in which it is closed"));
    auto* buttons = new QHBoxLayout;
    for (auto* b : {again_, roads_, plan_}) buttons->addWidget(b);
    buttons->addStretch(1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    box->setSpacing(4);
    box->addLayout(top);
    box->addWidget(note_);
    box->addWidget(list_);
    box->addLayout(buttons);
    hide();
    connect(again_, &QPushButton::clicked, this, [this] { work_.busy() ? work_.stop() : ask(false); });
    connect(roads_, &QPushButton::clicked, this, [this] { ask(true); });
    connect(plan_, &QPushButton::clicked, this, &WeakestPanel::make_plan);
    connect(list_, &QTableWidget::currentCellChanged, this, [this](int at) { pick(at); });
    connect(&work_, &WorkedOutSignals::changed, this, &WeakestPanel::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &WeakestPanel::trouble);
    connect(&work_, &WorkedOutSignals::progressed, this, [this](const QString& step, double done) {
        note_->setText(tr("%1: %2 %").arg(step).arg(static_cast<int>(100 * done)));
    });
    connect(&session_.answers, &Answers::changed, this, &WeakestPanel::follow);
    connect(&session_.document, &Document::question_changed, this, &WeakestPanel::follow);
}

void WeakestPanel::open() {
    show();
    ask(false);
    list_->setFocus();
}

void WeakestPanel::follow() {
    if (isHidden()) return;
    if (session_.document.study().empty()) {
        work_.forget();
        hide();
        return;
    }
    refresh();
}

void WeakestPanel::ask(bool roads_too) {
    const auto answer = session_.answers.shown();
    const auto& standard = session_.document.question().standard;
    if (!answer || !session_.answers.up_to_date() || session_.answers.trying_out() || !standard) return refresh();
    constexpr std::size_t kMostRoads = 20;
    work_.ask([answer, standard = *standard, roads_too](const Task& task) {
        auto found = std::make_shared<Found>(Found{answer, standard, {}, {}, roads_too});
        found->sites = weakest_sites(*answer->ready, answer->outcome, standard, task);
        if (roads_too) found->roads = weakest_roads(*answer->ready, answer->outcome, standard, kMostRoads, task);
        return std::shared_ptr<const Found>(found);
    });
}

void WeakestPanel::refresh() {
    if (isHidden()) return;
    const auto answer = session_.answers.shown();
    const auto& standard = session_.document.question().standard;
    const auto& found = work_.found();
    const bool current =
        found && found->answer == answer && standard && found->standard == *standard && session_.answers.up_to_date();
    const bool can = answer && session_.answers.up_to_date() && standard.has_value();
    again_->setText(work_.busy() ? tr("Stop") : tr("Work out again"));
    again_->setAccessibleName(work_.busy() ? tr("Stop working out what hurts most")
                                           : tr("Work out again what hurts most"));
    again_->setVisible(work_.busy() || !current);
    again_->setEnabled(work_.busy() || can);
    roads_->setVisible(!work_.busy() && current && !found->roads_too);
    plan_->setVisible(!work_.busy() && found != nullptr);
    plan_->setEnabled(current && list_->currentRow() >= 0);
    const std::size_t sites = found ? found->sites.size() : 0, roads = found ? found->roads.size() : 0;
    if (!work_.busy())
        note_->setText(!answer     ? tr("Nothing worked out yet.")
                       : !standard ? tr("Without a standard there is no cover to lose: set one in the question.")
                       : !found    ? tr("Not worked out.")
                       : !current  ? tr("The question or the plan has changed since.")
                       : sites + roads == 0 ? tr("No site is in use.")
                                            : tr("What closing each alone costs; the worst first."));
    list_->setVisible(!work_.busy() && sites + roads > 0);
    if (work_.busy() || !found) return;
    struct Line {
        const service::Loss* loss;
        QString name;
        int number;
    };
    std::vector<Line> lines;
    const auto& o = found->answer->outcome;
    for (const auto& s : found->sites)
        lines.push_back(
            {&s, plain(service::label(o.sites[s.site.value()].planned.site)), static_cast<int>(lines.size())});
    for (const auto& r : found->roads)
        lines.push_back({&r, road_name(*found->answer->ready, r.link), static_cast<int>(lines.size())});
    std::stable_sort(lines.begin(), lines.end(),
                     [](const Line& a, const Line& b) { return a.loss->lost.weight > b.loss->lost.weight; });
    const routing::Measure m = o.question.measure();
    {
        const QSignalBlocker quiet_list(list_);
        const QuietChange quiet(*list_, static_cast<int>(lines.size()));
        for (int i = 0; i < static_cast<int>(lines.size()); ++i) {
            const Line& line = lines[static_cast<std::size_t>(i)];
            put_cell(*list_, i, 0, line.name, false).setData(kWeakestRow, line.number);
            put_cell(*list_, i, 1, lost_words(line.loss->lost.weight), true);
            put_cell(*list_, i, 2,
                     (line.loss->verdict.met ? QString::fromUtf8("\u2713 ") : QString::fromUtf8("\u2717 ")) +
                         plain(describe(line.loss->verdict.share)),
                     true);
            const QString mean =
                line.loss->mean
                    ? tr("; mean %1 %2 then").arg(decimal(*line.loss->mean / counts_per_unit(m), 1), unit_of(m))
                    : QString();
            for (int c = 0; c < 3; ++c) list_->item(i, c)->setToolTip(line.name + mean);
        }
    }
    fit_height(*list_, 8);
}

void WeakestPanel::pick(int row) {
    const auto& found = work_.found();
    if (row < 0 || !found || !list_->item(row, 0)) return;
    plan_->setEnabled(found->answer == session_.answers.shown() && session_.answers.up_to_date());
    const auto number = static_cast<std::size_t>(list_->item(row, 0)->data(kWeakestRow).toInt());
    if (number < found->sites.size()) {
        const SiteIndex site = found->sites[number].site;
        session_.selection.pick({{}, site});
        if (const auto& p = found->answer->outcome.sites[site.value()].planned.site.position) emit looked_at({*p});
        return;
    }
    emit looked_at({found->roads[number - found->sites.size()].middle});
}

void WeakestPanel::make_plan() {
    const int row = list_->currentRow();
    const auto& found = work_.found();
    if (row < 0 || !found || found->answer != session_.answers.shown() || !session_.answers.up_to_date()) return;
    const auto number = static_cast<std::size_t>(list_->item(row, 0)->data(kWeakestRow).toInt());
    service::Plan plan = session_.document.plan();
    plan.note = {};
    if (number < found->sites.size()) {
        const auto& planned = found->answer->outcome.sites[found->sites[number].site.value()].planned;
        plan.changes.push_back(change_of(planned, service::Change::close));
        plan.name = tr("%1 closes").arg(plain(service::label(planned.site))).toStdString();
    } else {
        const auto& road = found->roads[number - found->sites.size()];
        roads::Closure closure;
        closure.name = tr("%1 closed").arg(road_name(*found->answer->ready, road.link)).toStdString();
        closure.vertices = {road.middle};
        plan.name = closure.name;
        plan.closures.push_back(std::move(closure));
    }
    emit looked_at({});
    session_.document.add_plan(std::move(plan));
}

}  // namespace otoro::desktop
