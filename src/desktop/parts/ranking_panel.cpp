#include "desktop/parts/ranking_panel.h"

#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSpinBox>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/parts/elided.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/parts/panel_top.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

using service::Criterion;

constexpr int kRankedSite = Qt::UserRole;

QString words(Criterion c) {
    switch (c) {
        case Criterion::newly_within:
            return RankingPanel::tr("newly within");
        case Criterion::mean:
            return RankingPanel::tr("mean");
        case Criterion::worst:
            return RankingPanel::tr("worst");
        case Criterion::load:
            return RankingPanel::tr("load");
        case Criterion::cost:
            return RankingPanel::tr("cost");
    }
    return {};
}

QString tip(Criterion c) {
    switch (c) {
        case Criterion::newly_within:
            return RankingPanel::tr("How much weight comes within the standard; much is good");
        case Criterion::mean:
            return RankingPanel::tr("Mean travel of all who are served then; little is good");
        case Criterion::worst:
            return RankingPanel::tr("The farthest that anybody served travels then; little is good");
        case Criterion::load:
            return RankingPanel::tr("How much weight it would serve; much is good");
        case Criterion::cost:
            return RankingPanel::tr("Its cost, where its record states one; little is good");
    }
    return {};
}

}  // namespace

RankingPanel::RankingPanel(Session& session, QWidget* parent) : QWidget(parent), session_(session), work_(this) {
    auto* top = panel_top(*this, tr("EACH CANDIDATE ALONE"), tr("Close the candidates"), [this] {
        work_.forget();
        emit looked_at({});
    });
    auto* row = new QWidget(this);
    auto* flow = new FlowLayout(row, 8, 3);
    flow->setContentsMargins(0, 0, 0, 0);
    for (const Criterion c : service::kAllCriteria) {
        auto* weight = new QSpinBox(this);
        weight->setRange(0, 9);
        weight->setPrefix(words(c) + " ");
        weight->setAccessibleName(tr("Weight of the criterion %1").arg(words(c)));
        weight->setToolTip(tip(c) + tr(". The number says how much it counts against the others."));
        weight->setValue(static_cast<int>(service::kCoverAlone[static_cast<std::size_t>(c)]));
        weights_[static_cast<std::size_t>(c)] = weight;
        flow->addWidget(weight);
        connect(weight, &QSpinBox::valueChanged, this, &RankingPanel::rank);
    }
    note_ = new QLabel(this);
    note_->setWordWrap(true);
    note_->setProperty("role", "soft");
    list_ = quiet_table({tr("site"), tr("score"), tr("within"), tr("mean"), tr("cost")}, tr("Candidates ranked alone"),
                        this);
    again_ = new QPushButton(tr("Rank again"), this);
    plan_ = new QPushButton(tr("Make it a plan"), this);
    plan_->setAccessibleName(tr("Make a plan that opens the candidate"));
    auto* out = new QPushButton(tr("Export\u2026"), this);
    out->setAccessibleName(tr("Export the ranking of candidates"));
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(again_);
    buttons->addWidget(plan_);
    buttons->addWidget(out);
    buttons->addStretch(1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    box->setSpacing(4);
    box->addLayout(top);
    box->addWidget(row);
    box->addWidget(note_);
    box->addWidget(list_);
    box->addLayout(buttons);
    hide();
    connect(again_, &QPushButton::clicked, this, [this] { work_.busy() ? work_.stop() : ask(); });
    connect(plan_, &QPushButton::clicked, this, &RankingPanel::make_plan);
    connect(out, &QPushButton::clicked, this, &RankingPanel::export_wanted);
    connect(list_, &QTableWidget::currentCellChanged, this, [this](int at) { pick(at); });
    connect(&work_, &WorkedOutSignals::changed, this, &RankingPanel::rank);
    connect(&work_, &WorkedOutSignals::progressed, this, [this](const QString&, double done) {
        done_ = done;
        refresh();
    });
    connect(&work_, &WorkedOutSignals::failed, this, &RankingPanel::trouble);
    connect(&session_.answers, &Answers::changed, this, &RankingPanel::follow);
}

service::CriterionWeights RankingPanel::weights() const {
    service::CriterionWeights out{};
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = weights_[i]->value();
    return out;
}

void RankingPanel::open() {
    show();
    ask();
    weights_.front()->setFocus();
}

void RankingPanel::follow() {
    if (isHidden()) return;
    if (session_.document.study().empty()) {
        work_.forget();
        hide();
        return;
    }
    refresh();
}

void RankingPanel::ask() {
    const auto answer = session_.answers.shown();
    if (!answer || !session_.answers.up_to_date() || session_.answers.trying_out()) return refresh();
    done_ = 0;
    // Judged by the standard as it is now.
    work_.ask([answer, question = session_.document.question()](const Task& task) {
        auto base = std::make_shared<service::Outcome>(answer->outcome);
        base->question = question;
        return std::make_shared<const Found>(
            Found{answer, rank_candidates(answer->ready, base, service::kCoverAlone, task)});
    });
}

void RankingPanel::rank() {
    ranked_.clear();
    if (!work_.busy() && work_.found()) {
        ranked_ = work_.found()->all;
        rank_anew(ranked_, weights());
    }
    refresh();
}

void RankingPanel::refresh() {
    if (isHidden()) return;
    const auto answer = session_.answers.shown();
    const bool current = work_.found() && work_.found()->answer == answer && session_.answers.up_to_date();
    again_->setText(work_.busy() ? tr("Stop") : tr("Rank again"));
    again_->setAccessibleName(work_.busy() ? tr("Stop ranking candidates") : tr("Rank the candidates again"));
    again_->setVisible(work_.busy() || !current);
    again_->setEnabled(work_.busy() || (answer && session_.answers.up_to_date()));
    note_->setText(!answer           ? tr("Nothing worked out yet.")
                   : work_.busy()    ? tr("Trying each candidate\u2026 %1 %").arg(static_cast<int>(100 * done_))
                   : !work_.found()  ? tr("Not worked out.")
                   : ranked_.empty() ? tr("No candidate is left that is not in use.")
                   : current         ? tr("%1, each as if it alone were opened; the best first.")
                                   .arg(counted(ranked_.size(), tr("candidate"), tr("candidates")))
                             : tr("The question or the plan has changed since."));
    if (current && !work_.busy())
        for (const Criterion c : unknown_to_all(ranked_, weights()))
            note_->setText(note_->text() + " " + tr("None has a value for \u2018%1\u2019.").arg(words(c)));
    list_->setVisible(!ranked_.empty());
    plan_->setEnabled(current && list_->currentRow() >= 0);
    if (ranked_.empty()) return;
    const auto& o = work_.found()->answer->outcome;
    const routing::Measure m = o.question.measure();
    const double unit = counts_per_unit(m);
    list_->horizontalHeaderItem(3)->setToolTip(
        tr("in %1").arg(m == routing::Measure::time ? tr("minutes") : long_unit()));
    list_->setColumnHidden(
        4, std::none_of(ranked_.begin(), ranked_.end(), [](const auto& r) { return r.cost.has_value(); }));
    constexpr std::size_t kMostRows = 1'000;
    const int rows = static_cast<int>(std::min(ranked_.size(), kMostRows));
    const QString none = QString::fromUtf8("\u2013");
    {
        const QSignalBlocker quiet_list(list_);
        const QuietChange quiet(*list_, rows);
        for (int i = 0; i < rows; ++i) {
            const auto& r = ranked_[static_cast<std::size_t>(i)];
            const auto& site = o.sites[r.site.value()].planned.site;
            put_cell(*list_, i, 0, plain(service::label(site)), false).setData(kRankedSite, r.site.value());
            put_cell(*list_, i, 1, decimal(100 * r.score, 0), true);
            const auto within = r.newly_within.weight.count();
            put_cell(*list_, i, 2,
                     (within > 0   ? QString("+")
                      : within < 0 ? QString::fromUtf8("\u2212")
                                   : QString()) +
                         plain(describe(Weight(std::abs(within)))),
                     true);
            put_cell(*list_, i, 3, r.mean ? decimal(*r.mean / unit, 1) : none, true);
            put_cell(*list_, i, 4, r.cost ? plain(describe(*r.cost)) : none, true);
            const QString more =
                !r.attached ? tr("Serves nobody: no road that this traveller may use is near it")
                            : tr("%1 would have %2; the worst travels %3 %4%5")
                                  .arg(plain(service::label(site)), plain(describe(r.served.weight)),
                                       r.worst ? decimal(static_cast<double>(*r.worst) / unit, 1) : none, unit_of(m),
                                       r.verdict ? tr("; %1 within the standard").arg(plain(describe(r.verdict->share)))
                                                 : QString());
            for (int c = 0; c < 5; ++c) list_->item(i, c)->setToolTip(more);
        }
    }
    fit_height(*list_, 8);
}

void RankingPanel::pick(int row) {
    const auto found = work_.found();
    if (row < 0 || !found || row >= static_cast<int>(ranked_.size())) return;
    plan_->setEnabled(found->answer == session_.answers.shown() && session_.answers.up_to_date());
    const SiteIndex site = ranked_[static_cast<std::size_t>(row)].site;
    session_.selection.pick({{}, site});
    if (const auto& p = found->answer->outcome.sites[site.value()].planned.site.position) emit looked_at({*p});
}

void RankingPanel::make_plan() {
    const int row = list_->currentRow();
    const auto found = work_.found();
    if (row < 0 || !found || found->answer != session_.answers.shown() || !session_.answers.up_to_date()) return;
    const auto& r = ranked_[static_cast<std::size_t>(row)];
    const auto& planned = found->answer->outcome.sites[r.site.value()].planned;
    service::Plan plan = session_.document.plan();
    plan.changes.push_back(change_of(planned, service::Change::open));
    plan.name = tr("%1 opens").arg(plain(service::label(planned.site))).toStdString();
    plan.note = {};
    emit looked_at({});
    session_.document.add_plan(std::move(plan));
}

}  // namespace otoro::desktop
