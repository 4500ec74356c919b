#include "desktop/parts/access_view.h"

#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/parts/number_box.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/words.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

constexpr const char* kAccessOpen = "answer/access";
constexpr int kSite = Qt::UserRole;
constexpr double kThousand = 1'000;  // of demand: a place for one head is a small number

/// Small and large numbers with three figures that count.
QString figures(double v) {
    const int decimals = v <= 0 ? 0 : std::clamp(2 - static_cast<int>(std::floor(std::log10(v))), 0, 9);
    return decimal(v, decimals);
}

}  // namespace

AccessView::AccessView(Session& session, QWidget* parent)
    : Fold({tr("Access to places"), tr("Open access to places"), tr("Close access to places")}, kAccessOpen, parent),
      session_(session),
      work_(this) {
    within_ = new NumberBox(body());
    within_->setAccessibleName(tr("Catchment"));
    within_->setRange(0.1, 600);
    within_->setDecimals(1);
    within_->setToolTip(
        tr("Places of a site are shared by all who are within this of it, and everybody sums up what "
           "is within it of them (two-step floating catchment)"));
    map_ = new QPushButton(tr("Show on the map"), body());
    map_->setAccessibleName(tr("Show access on the map"));
    auto* out = new QPushButton(tr("Export\u2026"), body());
    out->setAccessibleName(tr("Export access by floating catchments"));
    words_ = new QLabel(body());
    words_->setWordWrap(true);
    words_->setProperty("role", "soft");
    table_ =
        quiet_table({tr("site"), tr("supply"), tr("demand"), tr("per 1,000")}, tr("Supply and demand by site"), body());
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(tr("catchment"), body()));
    row->addWidget(within_);
    row->addStretch(1);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(map_);
    buttons->addWidget(out);
    buttons->addStretch(1);
    inside().addLayout(row);
    inside().addWidget(words_);
    inside().addLayout(buttons);
    inside().addWidget(table_);
    connect(out, &QPushButton::clicked, this, &AccessView::export_wanted);
    connect(map_, &QPushButton::clicked, this, &AccessView::map_wanted);
    connect(within_, &QDoubleSpinBox::valueChanged, this, [this] {
        set_by_hand_ = true;
        work_.forget();
        later().start();
    });
    connect(table_, &QTableWidget::cellClicked, this, [this](int at) {
        session_.selection.pick({{}, SiteIndex(table_->item(at, 0)->data(kSite).toUInt())});
    });
    connect(&later(), &QTimer::timeout, this, &AccessView::ask);
    connect(&work_, &WorkedOutSignals::changed, this, &AccessView::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &AccessView::trouble);
    connect(&session_.answers, &Answers::changed, this, &AccessView::follow);
    connect(&session_.document, &Document::study_replaced, this, [this] { set_by_hand_ = false; });
    connect(&session_.document, &Document::question_changed, this, &AccessView::follow);
    recall();
}

QString AccessView::words() const { return words_->text(); }

void AccessView::follow() {
    if (!is_open()) return;
    const auto& question = session_.document.question();
    const bool by_time = question.measure() == routing::Measure::time;
    within_->setSuffix(" " + unit_of(question.measure()));
    const auto& standard = question.standard;
    if (!set_by_hand_) {
        const QSignalBlocker quiet(within_);
        const bool fits = standard && std::holds_alternative<Millis>(standard->limit) == by_time;
        within_->setValue(!fits     ? (by_time ? 15 : in_long_units(Millimetres::metres(2'000)))
                          : by_time ? std::get<Millis>(standard->limit).minutes()
                                    : in_long_units(std::get<Millimetres>(standard->limit)));
    }
    const auto answer = session_.answers.shown();
    if (!answer) {
        work_.forget();
        return refresh();
    }
    if (const auto& found = work_.found(); found && found->answer == answer) return refresh();
    later().start();
}

void AccessView::ask() {
    const auto answer = session_.answers.shown();
    if (!is_open() || !answer || !session_.answers.up_to_date()) return refresh();
    const bool by_time = answer->outcome.question.measure() == routing::Measure::time;
    const Amount within =
        by_time ? Amount(Millis(std::llround(within_->value() * 60'000))) : Amount(from_long_units(within_->value()));
    work_.ask([answer, within](const Task& task) {
        return std::make_shared<const Found>(
            Found{answer, floating_catchment(*answer->ready, answer->outcome, within, task)});
    });
}

void AccessView::refresh() {
    const auto& f = work_.found();
    const bool current = f && !work_.busy() && f->answer == session_.answers.shown();
    emit found(current ? std::shared_ptr<const service::FloatingCatchment>(f, &f->access) : nullptr);
    map_->setEnabled(current);
    table_->setVisible(current);
    if (!current) {
        words_->setText(work_.busy() ? tr("Being worked out\u2026") : tr("Nothing worked out yet."));
        return;
    }
    const auto& a = f->access;
    const auto& ready = *f->answer->ready;
    const QString whom = plain(service::counted(ready.question, ready.inputs.demand));
    words_->setText(
        (a.by_capacity ? tr("%1 places for every 1,000 %2 on average; %3 have none within %4.")
                       : tr("Some sites state no capacity, so each counts one: %1 for every 1,000 %2 on "
                            "average; %3 have none within %4."))
            .arg(figures(kThousand * a.mean), whom, plain(describe(a.none.weight)), plain(describe(a.within))));
    {
        const QuietChange quiet(*table_, static_cast<int>(a.sites.size()));
        for (int i = 0; i < static_cast<int>(a.sites.size()); ++i) {
            const auto& s = a.sites[static_cast<std::size_t>(i)];
            put_cell(*table_, i, 0, plain(service::label(f->answer->outcome.sites[s.site.value()].planned.site)), false)
                .setData(kSite, s.site.value());
            put_cell(*table_, i, 1, decimal(s.supply, s.supply == std::floor(s.supply) ? 0 : 1), true);
            put_cell(*table_, i, 2, plain(describe(s.demand)), true);
            put_cell(*table_, i, 3, figures(kThousand * s.a_head), true);
        }
    }
    fit_height(*table_, 6);
}

}  // namespace otoro::desktop
