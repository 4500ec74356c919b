#include "desktop/parts/answer_panel.h"

#include <QHeaderView>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/map/map_painter.h"
#include "desktop/parts/access_view.h"
#include "desktop/parts/breakdown_view.h"
#include "desktop/parts/curve_view.h"
#include "desktop/parts/fairness_view.h"
#include "desktop/parts/firmness_view.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/parts/ranking_panel.h"
#include "desktop/parts/weakest_panel.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/wording.h"

namespace otoro::desktop {
namespace {

QLabel* heading(const QString& text, QWidget* parent) {
    auto* l = new QLabel(text, parent);
    l->setProperty("role", "heading");
    return l;
}

constexpr int kWhat = Qt::UserRole, kMark = Qt::UserRole + 1;  // what a row is of, and what its icon shows

QIcon mark_icon(const std::function<void(QPainter&, QPointF)>& draw) {
    QPixmap pix(40, 40);
    pix.setDevicePixelRatio(2);
    pix.fill(Qt::transparent);
    QPainter p(&pix);
    p.setRenderHint(QPainter::Antialiasing);
    draw(p, {10, 10});
    return pix;
}

}  // namespace

AnswerPanel::AnswerPanel(Session& session, QWidget* parent) : QScrollArea(parent), session_(session) {
    setObjectName("answer");
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFrameShape(QFrame::NoFrame);
    setMinimumWidth(theme::scaled_column(240));
    auto* page = new QWidget(this);
    page->setObjectName("page");
    setWidget(page);
    auto* box = new QVBoxLayout(page);
    box->setContentsMargins(8, 10, 10, 8);
    box->setSpacing(4);
    curve_ = new CurveView(session, page);
    statistics_ = new QLabel(page);
    statistics_->setProperty("role", "soft");
    statistics_->setWordWrap(true);
    statistics_->setToolTip(
        tr("Over the weight that is served. Median: half of it is no farther than this. 90th percentile: nine "
           "tenths are no farther. Weight is what each place counts, such as its residents."));
    statuses_ = quiet_table({tr("status"), tr("places"), tr("weight")}, tr("Places by status"), page);
    loads_ = quiet_table({tr("site"), tr("load"), tr("%"), tr("worst")}, tr("Loads per site"), page);
    breakdown_ = new BreakdownView(session.answers, session.selection, page);
    box->addWidget(heading(tr("SHARE WITHIN"), page));
    box->addWidget(curve_, 2);
    box->addWidget(statistics_);
    box->addWidget(heading(tr("SERVED AND NOT"), page));
    box->addWidget(statuses_);
    box->addWidget(breakdown_);
    firmness_ = new FirmnessView(session, page);
    box->addWidget(firmness_);
    fairness_ = new FairnessView(session, page);
    box->addWidget(fairness_);
    access_ = new AccessView(session, page);
    box->addWidget(access_);
    auto* sites = new QHBoxLayout;
    sites->setSpacing(2);
    sites->addWidget(heading(tr("SITES"), page), 1);
    rank_ = new QPushButton(tr("Rank candidates"), page);
    rank_->setToolTip(tr("What each candidate would do if it alone were opened"));
    hurts_ = new QPushButton(tr("What hurts most"), page);
    hurts_->setToolTip(tr("What closing each open site, or each road, would cost"));
    for (auto* b : {rank_, hurts_}) {
        b->setObjectName("flat");
        b->setAccessibleName(b->text());
        sites->addWidget(b);
    }
    ranking_ = new RankingPanel(session, page);
    weakest_ = new WeakestPanel(session, page);
    connect(rank_, &QPushButton::clicked, ranking_, &RankingPanel::open);
    connect(hurts_, &QPushButton::clicked, weakest_, &WeakestPanel::open);
    box->addLayout(sites);
    box->addWidget(ranking_);
    box->addWidget(weakest_);
    box->addWidget(loads_, 3);
    loads_->setMinimumHeight(120);
    connect(statuses_, &QTableWidget::cellClicked, this, [this](int row) { pick_status(row); });
    connect(statuses_, &QTableWidget::cellActivated, this, [this](int row) { pick_status(row); });
    connect(loads_, &QTableWidget::cellClicked, this, [this](int row) { pick_site(row); });
    connect(loads_, &QTableWidget::cellActivated, this, [this](int row) { pick_site(row); });
    connect(&session_.answers, &Answers::changed, this, &AnswerPanel::refresh);
    refresh();
}

void AnswerPanel::put_first(QWidget* part) { qobject_cast<QVBoxLayout*>(widget()->layout())->insertWidget(0, part); }

namespace {

/// Weight times cost, as minutes or kilometres of a weight of one.
QString travel_words(const service::Outcome& o, Wide travel) {
    const double whole = static_cast<double>(travel) / 1e6;
    const bool timed = o.question.measure() == routing::Measure::time;
    const double unit = timed ? 60'000 : static_cast<double>(from_long_units(1).count());
    return plain(said_whole(std::llround(whole / unit))) + " " + (timed ? AnswerPanel::tr("min") : long_unit());
}

/// What the rule costs against sending everybody to the nearest; nothing where that is the rule.
QString against_nearest(const service::Outcome& o) {
    if (!o.by_nearest || o.journeys) return {};
    const auto displaced = service::displaced(o);
    QString text = AnswerPanel::tr("\n%1 not at the nearest site, weight %2: %3 more in all")
                       .arg(counted(displaced.tally.places, AnswerPanel::tr("place"), AnswerPanel::tr("places")),
                            plain(describe(displaced.tally.weight)), travel_words(o, displaced.extra));
    if (!o.capacity) return text;
    const auto& c = *o.capacity;
    if (c.proven)
        text += AnswerPanel::tr("\nproven: no other way to fill the sites as far takes less travel in all");
    else if (c.bound > 0 && !leaves_least(o))
        text += AnswerPanel::tr(
                    "\ntravel in all %1; no way to fill the sites leaves less than %2 without room%3, and none "
                    "that does as well takes less than %4")
                    .arg(travel_words(o, c.travel), plain(describe(c.least_no_room)),
                         short_of_least(o).of > 0 ? AnswerPanel::tr(", or sites less than %1 short of their least")
                                                        .arg(plain(describe(c.least_short)))
                                                  : QString(),
                         travel_words(o, c.bound));
    else if (c.bound > 0)
        text += AnswerPanel::tr("\ntravel in all %1; no way to fill the sites takes less than %2")
                    .arg(travel_words(o, c.travel), travel_words(o, c.bound));
    return text;
}

}  // namespace

void AnswerPanel::refresh() {
    const auto answer = session_.answers.shown();
    QString text = tr("Nothing worked out yet.");
    if (answer) {
        const auto time = statistics(answer->outcome, routing::Measure::time);
        const auto distance = statistics(answer->outcome, routing::Measure::distance);
        const auto n = [](double v, double unit) { return decimal(v / unit, 1); };
        const double lengths = static_cast<double>(from_long_units(1).count());
        if (time && distance) {
            text = tr("mean %1 min \u00b7 median %2 \u00b7 90th %3 \u00b7 worst %4\nmean %5 %9 \u00b7 median %6 "
                      "\u00b7 90th %7 \u00b7 worst %8")
                       .arg(n(time->mean, 6e4), n(static_cast<double>(time->median), 6e4),
                            n(static_cast<double>(time->p90), 6e4), n(static_cast<double>(time->worst), 6e4),
                            n(distance->mean, lengths), n(static_cast<double>(distance->median), lengths),
                            n(static_cast<double>(distance->p90), lengths),
                            n(static_cast<double>(distance->worst), lengths), long_unit());
        } else {
            text = tr("Nobody is served.");
        }
        text += against_nearest(answer->outcome);
        if (const auto lacking = short_of_least(answer->outcome); lacking.of > 0)
            text += lacking.sites == 0
                        ? tr("\nevery site has the least that it should")
                        : tr("\n%1 of %2 short of the least they should have, %3 in all")
                              .arg(lacking.sites)
                              .arg(counted(lacking.of, tr("site"), tr("sites")), plain(describe(lacking.weight)));
    }
    statistics_->setText(text);
    refresh_statuses();
    refresh_loads();
}

void AnswerPanel::refresh_statuses() {
    const auto answer = session_.answers.shown();
    if (!answer) {
        statuses_->setRowCount(0);
        return fit_height(*statuses_, 1);
    }
    int row = 0;
    for (const auto status : service::kAllStatuses) {
        const auto& tally = answer->outcome.tally(status);
        if (tally.places == 0 && status != service::Status::served) continue;
        if (row == statuses_->rowCount()) statuses_->insertRow(row);
        auto& first = put_cell(*statuses_, row, 0, words(status), false);
        first.setData(kWhat, static_cast<int>(status));
        if (first.data(kMark) != static_cast<int>(status)) {
            first.setData(kMark, static_cast<int>(status));
            first.setIcon(mark_icon([status](QPainter& p, QPointF at) {
                if (status != service::Status::served) return paint_unserved_mark(p, at, 5, status);
                p.setPen(Qt::NoPen);
                p.setBrush(theme::ramp(0.7));
                p.drawEllipse(at, 4.5, 4.5);
            }));
        }
        put_cell(*statuses_, row, 1, plain(describe(Weight(std::int64_t{tally.places} * 1'000'000))), true);
        put_cell(*statuses_, row, 2, plain(describe(tally.weight)), true);
        ++row;
    }
    statuses_->setRowCount(row);
    fit_height(*statuses_, 6);
}

void AnswerPanel::refresh_loads() {
    const auto answer = session_.answers.shown();
    if (!answer) return loads_->setRowCount(0);
    const auto& o = answer->outcome;
    const auto colours = who_serves_look().site_colours(o.sites);
    const auto used = std::count_if(o.sites.begin(), o.sites.end(), [](const auto& s) { return s.planned.in_use; });
    const QuietChange quiet(*loads_, static_cast<int>(used));
    int row = 0;
    for (std::uint32_t i = 0; i < o.sites.size(); ++i) {
        const auto& s = o.sites[i];
        if (!s.planned.in_use) continue;
        auto& first = put_cell(*loads_, row, 0, plain(service::label(s.planned.site)), false);
        first.setData(kWhat, i);
        const QColor& colour = colours[i];
        const QString mark = QString("%1 %2").arg(colour.name()).arg(static_cast<int>(s.planned.site.state));
        if (first.data(kMark) != mark) {
            first.setData(kMark, mark);
            first.setIcon(mark_icon(
                [&](QPainter& p, QPointF at) { paint_site_mark(p, at, 6, s.planned.site.state, true, colour); }));
        }
        const QString capacity =
            s.planned.site.capacity ? tr(" of %1").arg(plain(describe(*s.planned.site.capacity))) : QString();
        const auto& least = s.planned.site.least;
        const Weight lacks = s.short_of_least();
        const QString of_least =
            !least ? QString()
            : lacks.count() > 0
                ? tr("; %1 short of its least of %2").arg(plain(describe(lacks)), plain(describe(*least)))
                : tr("; at least %1").arg(plain(describe(*least)));
        put_cell(*loads_, row, 1,
                 plain(describe(s.load)) + capacity +
                     (lacks.count() > 0 ? tr(", %1 short").arg(plain(describe(lacks))) : QString()),
                 true);
        put_cell(*loads_, row, 2, percent(s.load, o.all.weight), true);
        put_cell(*loads_, row, 3, s.load > Weight() ? decimal(s.worst_time.minutes(), 1) : QString::fromUtf8("\u2013"),
                 true);
        const QString tip = s.attachment ? counted(s.places, tr("place"), tr("places")) + of_least
                                         : tr("Serves nobody: no road that this traveller may use is near it");
        for (int c = 0; c < 4; ++c)
            if (loads_->item(row, c)->toolTip() != tip) loads_->item(row, c)->setToolTip(tip);
        ++row;
    }
}

void AnswerPanel::pick_status(int row) {
    const auto answer = session_.answers.shown();
    if (!answer) return;
    const auto status = static_cast<service::Status>(statuses_->item(row, 0)->data(kWhat).toInt());
    Picked s;
    for (std::uint32_t i = 0; i < answer->outcome.places.size(); ++i)
        if (answer->outcome.places[i].status == status) s.places.push_back(i);
    session_.selection.pick(std::move(s));
}

void AnswerPanel::pick_site(int row) {
    const auto answer = session_.answers.shown();
    if (!answer) return;
    const SiteIndex site(loads_->item(row, 0)->data(kWhat).toUInt());
    Picked s;
    s.site = site;
    for (std::uint32_t i = 0; i < answer->outcome.places.size(); ++i)
        if (answer->outcome.places[i].served() && answer->outcome.places[i].site == site) s.places.push_back(i);
    session_.selection.pick(std::move(s));
}

}  // namespace otoro::desktop
