#include "desktop/parts/plan_table.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/parts/quiet_table.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

/// What a cell may say of a plan under a question.
enum class Shown { share, mean, ninety, worst, sites, cost };

QString with_unit(double value, routing::Measure measure) {
    return decimal(value / counts_per_unit(measure), 1) + " " + unit_of(measure);
}

QString signed_points(double points) {
    if (std::abs(points) < 0.05) return {};
    return QString(points > 0 ? "+" : "\u2212") + decimal(std::abs(points), 1);
}

/// A full mark: met; an empty one: not met; none where nobody is. Told apart without colour.
QString mark(const service::PlanFigures& f) {
    if (!f.verdict || f.verdict->judged() == service::Judged::nobody) return {};
    return f.verdict->met ? QString::fromUtf8("\u25cf ") : QString::fromUtf8("\u25cb ");
}

/// Whether the step that is shown first has nobody to reach.
bool is_for_nobody(const service::PlanFigures& f) {
    return f.verdict->steps.front().judged() == service::Judged::nobody;
}

QString cell_text(const service::PlanFigures& f, const service::PlanFigures& today, Shown shown) {
    const auto of = [&](auto&& value) {
        return f.figures ? with_unit(static_cast<double>(value(*f.figures)), f.measure) : QString::fromUtf8("\u2013");
    };
    switch (shown) {
        case Shown::share: {
            if (!f.verdict) return PlanTable::tr("no standard");
            if (is_for_nobody(f)) return mark(f) + judged_words(service::Judged::nobody);
            const QString by = signed_points(f.verdict->share.percent() - today.verdict->share.percent());
            return mark(f) + plain(describe(f.verdict->share)) + (by.isEmpty() ? QString() : "  " + by);
        }
        case Shown::mean:
            return of([](const auto& s) { return s.mean; });
        case Shown::ninety:
            return of([](const auto& s) { return s.p90; });
        case Shown::worst:
            return of([](const auto& s) { return s.worst; });
        case Shown::sites:
            return number(f.sites_open);
        case Shown::cost:
            return f.cost ? plain(describe(*f.cost)) : QString::fromUtf8("\u2013");
    }
    return {};
}

QString tip(const service::PlanFigures& f) {
    QStringList lines{PlanTable::tr("%1 under %2").arg(plain(f.question), plain(f.plan))};
    for (std::size_t k = 0; f.verdict && k < f.verdict->steps.size(); ++k) {
        const auto& step = f.verdict->steps[k];
        const QString share = plain(describe(step.share)), judged = judged_words(step.judged());
        if (step.judged() == service::Judged::nobody)
            lines << PlanTable::tr("%1: %2").arg(plain(describe(step.step)), judged);
        else if (k == 0)
            lines << PlanTable::tr("%1 within %2, %3 wanted: %4")
                         .arg(share, plain(describe(f.verdict->standard.limit)),
                              plain(describe(f.verdict->standard.share)), judged);
        else
            lines << PlanTable::tr("%1: %2, %3").arg(plain(describe(step.step)), share, judged);
    }
    if (f.figures)
        lines << PlanTable::tr("mean %1, nine in ten within %2, worst %3")
                     .arg(with_unit(f.figures->mean, f.measure),
                          with_unit(static_cast<double>(f.figures->p90), f.measure),
                          with_unit(static_cast<double>(f.figures->worst), f.measure));
    lines << PlanTable::tr("%1 in use").arg(counted(f.sites_open, PlanTable::tr("site"), PlanTable::tr("sites")));
    return lines.join("\n");
}

QString heading(const service::Question& q) {
    const QString name = plain(q.name);
    if (!q.standard) return name;
    const QString first =
        PlanTable::tr("%1\n%2 in %3").arg(name, plain(describe(q.standard->share)), plain(describe(q.standard->limit)));
    const auto further = static_cast<qlonglong>(q.standard->further.size());
    return further == 0
               ? first
               : PlanTable::tr("%1 +%2").arg(first, counted(further, PlanTable::tr("step"), PlanTable::tr("steps")));
}

}  // namespace

PlanTable::PlanTable(Session& session, PlanFigures& figures, QWidget* parent)
    : QWidget(parent), session_(session), figures_(figures) {
    auto* title = new QLabel(tr("EVERY PLAN UNDER EVERY QUESTION"), this);
    title->setProperty("role", "heading");
    shown_ = new QComboBox(this);
    shown_->setAccessibleName(tr("What the table says"));
    shown_->addItems({tr("share within the standard"), tr("mean"), tr("nine in ten are within"), tr("worst"),
                      tr("sites in use"), tr("cost of the sites in use")});
    note_ = new QLabel(this);
    note_->setProperty("role", "soft");
    stop_ = new QPushButton(tr("Stop"), this);
    stop_->setAccessibleName(tr("Stop working out the table"));
    auto* out = new QPushButton(tr("Export\u2026"), this);
    out->setObjectName("flat");
    out->setAccessibleName(tr("Export the table of plans"));
    auto* row = new QHBoxLayout;
    row->addWidget(title);
    row->addSpacing(12);
    row->addWidget(shown_);
    row->addWidget(note_, 1);
    row->addWidget(stop_);
    row->addWidget(out);
    table_ = new QTableWidget(this);
    table_->setAccessibleName(tr("Plans by questions"));
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setTabKeyNavigation(false);
    table_->setWordWrap(false);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeader()->setMinimumSectionSize(theme::scaled(70));
    table_->verticalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->verticalHeader()->setDefaultSectionSize(table_->fontMetrics().height() + 9);
    table_->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    constexpr int kLeastRows = 4;
    table_->setMinimumHeight(2 * table_->fontMetrics().height() + 12 +
                             kLeastRows * table_->verticalHeader()->defaultSectionSize());
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->addLayout(row);
    box->addWidget(table_, 1);
    connect(shown_, &QComboBox::currentIndexChanged, this, &PlanTable::refresh);
    connect(stop_, &QPushButton::clicked, &figures_, &PlanFigures::stop);
    connect(out, &QPushButton::clicked, this, &PlanTable::export_wanted);
    connect(&figures_, &PlanFigures::changed, this, &PlanTable::refresh);
    connect(&figures_, &PlanFigures::progressed, this, [this](const QString&, double done) {
        note_->setText(tr("working it out, %1 %").arg(std::lround(100 * done)));
    });
    connect(&session_.document, &Document::plan_chosen, this, &PlanTable::refresh_choice);
    connect(&session_.document, &Document::question_changed, this, &PlanTable::refresh_choice);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int r, int c, int, int) { take_choice(r, c); });
    connect(table_, &QTableWidget::cellDoubleClicked, this, &PlanTable::open_wanted);
    connect(table_, &QTableWidget::cellActivated, this, &PlanTable::open_wanted);
    refresh();
}

QString PlanTable::note() const { return note_->text(); }

void PlanTable::refresh() {
    const QSignalBlocker quiet(table_);
    const auto& study = session_.document.study();
    const auto& found = figures_.found();
    const auto shown = static_cast<Shown>(std::max(0, shown_->currentIndex()));
    const bool now = figures_.up_to_date();
    stop_->setVisible(figures_.busy());
    if (!figures_.busy())
        note_->setText(now     ? QString()
                       : found ? tr("out of date: not all of it was worked out")
                               : tr("not worked out yet"));
    table_->setRowCount(static_cast<int>(study.plans.size()));
    table_->setColumnCount(static_cast<int>(study.questions.size()));
    QStringList rows, columns;
    for (const auto& p : study.plans) rows << plain(p.name);
    for (const auto& q : study.questions) columns << heading(q);
    table_->setVerticalHeaderLabels(rows);
    table_->setHorizontalHeaderLabels(columns);
    for (int c = 0; c < table_->columnCount(); ++c)
        for (int r = 0; r < table_->rowCount(); ++r) {
            const auto q = static_cast<std::size_t>(c), p = static_cast<std::size_t>(r);
            // What was worked out before a question or plan came, went or moved stays with its own.
            const bool known = found && q < found->figures.of.size() && p < found->figures.of[q].size() &&
                               found->figures.of[q][p].question == study.questions[q].name &&
                               found->figures.of[q][p].plan == study.plans[p].name;
            auto& cell = put_cell(*table_, r, c, QString::fromUtf8("\u2026"), false);
            if (!known) {
                cell.setForeground(theme::kSoftInk);
                const bool cannot = found && q < found->figures.why.size() && !found->figures.why[q].empty();
                cell.setText(cannot ? QString::fromUtf8("\u2013") : QString::fromUtf8("\u2026"));
                cell.setToolTip(cannot ? plain(found->figures.why[q]) : QString());
                continue;
            }
            const auto& f = found->figures.of[q][p];
            cell.setText(cell_text(f, found->figures.of[q].front(), shown));
            cell.setToolTip(tip(f));
            cell.setForeground(!now             ? theme::kFaintInk
                               : !f.verdict     ? theme::kInk
                               : f.verdict->met ? theme::kMet
                                                : theme::kNotMet);
            cell.setFont(theme::type(1.0, f.verdict && f.verdict->met ? QFont::DemiBold : QFont::Normal));
        }
    table_->resizeColumnsToContents();
    for (int c = 0; c < table_->columnCount(); ++c)
        table_->setColumnWidth(c, table_->columnWidth(c) + theme::scaled(14));
    refresh_choice();
}

void PlanTable::refresh_choice() {
    const QSignalBlocker quiet(table_);
    table_->setCurrentCell(static_cast<int>(session_.document.plan_index()),
                           static_cast<int>(session_.document.question_index()));
}

void PlanTable::take_choice(int row, int column) {
    if (row < 0 || column < 0) return;
    const auto& study = session_.document.study();
    if (static_cast<std::size_t>(column) < study.questions.size())
        session_.document.choose_question(static_cast<std::size_t>(column));
    if (static_cast<std::size_t>(row) < study.plans.size())
        session_.document.choose_plan(static_cast<std::size_t>(row));
}

}  // namespace otoro::desktop
