#include "desktop/parts/firmness_view.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/parts/flow_layout.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/words.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

constexpr const char* kFirmnessOpen = "answer/how_firm";

NumberBox* small_box(QWidget* parent, const QString& name, const QString& prefix, const QString& suffix, double most,
                     double value, int decimals) {
    auto* box = new NumberBox(parent);
    box->setAccessibleName(name);
    box->setPrefix(prefix);
    box->setSuffix(suffix);
    box->setDecimals(decimals);
    box->setRange(0, most);
    box->setValue(value);
    return box;
}

}  // namespace

FirmnessView::FirmnessView(Session& session, QWidget* parent)
    : Fold({tr("How firm"), tr("Open how firm the verdict is"), tr("Close how firm the verdict is")}, kFirmnessOpen,
           parent),
      session_(session),
      work_(this) {
    band_ =
        quiet_table({tr("all speeds"), tr("share"), tr("verdict")}, tr("The verdict when speeds fall or rise"), body());
    words_ = new QLabel(body());
    words_->setWordWrap(true);
    words_->setProperty("role", "soft");
    auto* row = new QWidget(body());
    auto* flow = new FlowLayout(row, 6, 3);
    flow->setContentsMargins(0, 0, 0, 0);
    busy_ = small_box(body(), tr("How much of the time each site is busy"), tr("each busy "), tr(" %"), 99, 30, 0);
    busy_->setToolTip(
        tr("What can be expected then: a place with several sites within the limit finds one that is free "
           "more often (Daskin 1983)"));
    calls_ = small_box(body(), tr("Calls an hour, all sites together"), QString(), tr(" calls/h"), 10'000, 0, 1);
    on_task_ = small_box(body(), tr("Minutes that a call takes"), tr("of "), tr(" min"), 1'440, 60, 0);
    for (auto* b : {calls_, on_task_})
        b->setToolTip(
            tr("From these follows how much of the time each site is busy, all sites sharing the work alike"));
    for (auto* b : {busy_, calls_, on_task_}) flow->addWidget(b);
    inside().addWidget(band_);
    inside().addWidget(row);
    inside().addWidget(words_);
    connect(&later(), &QTimer::timeout, this, &FirmnessView::ask);
    connect(busy_, &QDoubleSpinBox::valueChanged, this, &FirmnessView::follow);
    for (auto* b : {calls_, on_task_}) connect(b, &QDoubleSpinBox::valueChanged, this, &FirmnessView::busy_from_calls);
    connect(&work_, &WorkedOutSignals::changed, this, &FirmnessView::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &FirmnessView::trouble);
    connect(&session_.answers, &Answers::changed, this, &FirmnessView::follow);
    connect(&session_.document, &Document::question_changed, this, &FirmnessView::follow);
    recall();
}

QString FirmnessView::words() const { return words_->text(); }

void FirmnessView::busy_from_calls() {
    const auto answer = session_.answers.shown();
    if (!answer || calls_->value() <= 0) return;
    std::size_t sites = 0;
    for (const auto& s : answer->outcome.sites) sites += s.planned.in_use ? 1 : 0;
    busy_->setValue(
        service::busy_share(calls_->value(), Millis(std::llround(on_task_->value() * 60'000)), sites).percent());
}

void FirmnessView::follow() {
    if (!is_open()) return;
    const auto answer = session_.answers.shown();
    const auto& standard = session_.document.question().standard;
    if (!answer || !standard) {
        work_.forget();
        return refresh();
    }
    if (const auto& found = work_.found(); !work_.busy() && found && found->answer == answer &&
                                           found->standard == *standard &&
                                           found->busy == Share::percent(busy_->value()))
        return refresh();
    later().start();
}

void FirmnessView::ask() {
    const auto answer = session_.answers.shown();
    const auto& standard = session_.document.question().standard;
    if (!is_open() || !answer || !standard || !session_.answers.up_to_date() || session_.answers.trying_out())
        return refresh();
    work_.ask([answer, standard = *standard, busy = Share::percent(busy_->value())](const Task& task) {
        const std::vector<Share> speeds{Share::percent(80), Share::percent(90), Share::percent(100),
                                        Share::percent(110), Share::percent(120)};
        return std::make_shared<const Found>(
            Found{answer, standard, busy, firmness(answer->ready, answer->outcome, standard, speeds, busy, task)});
    });
}

void FirmnessView::refresh() {
    const auto& found = work_.found();
    const bool there = found && !work_.busy();
    band_->setVisible(there);
    if (!there) {
        words_->setText(work_.busy()                             ? tr("Being worked out\u2026")
                        : !session_.document.question().standard ? tr("Without a standard there is no verdict.")
                                                                 : tr("Nothing worked out yet."));
        return;
    }
    const auto& firm = found->firm;
    {
        const QuietChange quiet(*band_, static_cast<int>(firm.band.size()));
        for (int i = 0; i < static_cast<int>(firm.band.size()); ++i) {
            const auto& b = firm.band[static_cast<std::size_t>(i)];
            const double change = b.speed.percent() - 100;
            put_cell(*band_, i, 0,
                     change == 0  ? tr("as they are")
                     : change < 0 ? tr("%1 % lower").arg(decimal(-change, 0))
                                  : tr("%1 % higher").arg(decimal(change, 0)),
                     false);
            put_cell(*band_, i, 1, plain(describe(b.verdict.share)), true);
            put_cell(*band_, i, 2, marked_words(b.verdict.judged()), false);
        }
    }
    fit_height(*band_, 5);
    QStringList lines;
    if (firm.slack) {
        const bool timed = std::holds_alternative<Millis>(firm.first_to_break->limit);
        const routing::Measure m = timed ? routing::Measure::time : routing::Measure::distance;
        const QString amount =
            decimal(static_cast<double>(std::abs(*firm.slack)) / counts_per_unit(m), 2) + " " + unit_of(m);
        const QString step = plain(describe(*firm.first_to_break));
        lines << (*firm.slack >= 0 ? tr("It breaks when everybody is more than %1 farther (%2).").arg(amount, step)
                                   : tr("It would be met if everybody were %1 nearer (%2).").arg(amount, step));
    } else if (firm.first_to_break) {
        lines << tr("No limit would do for %1: too many are not served.").arg(plain(describe(*firm.first_to_break)));
    }
    if (firm.expected) {
        const auto& ready = *found->answer->ready;
        const double all = found->answer->outcome.all.weight.value();
        lines << tr("With each site busy %1 of the time, %2 %3 (%4) can be expected to find one that is free "
                    "within %5.")
                     .arg(plain(describe(found->busy)), number(static_cast<std::uint64_t>(std::floor(*firm.expected))),
                          plain(service::counted(ready.question, ready.inputs.demand)), percent(*firm.expected, all),
                          plain(describe(found->standard.limit)));
    }
    words_->setText(lines.join("\n"));
}

}  // namespace otoro::desktop
