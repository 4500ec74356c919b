#include "desktop/parts/difference_view.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QTableWidget>
#include <QVBoxLayout>
#include <array>
#include <cmath>

#include "desktop/parts/curve_view.h"
#include "desktop/parts/elided.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

using service::Difference;

const QString kNone = QString::fromUtf8("\u2013");

/// Whole ones with their thousands apart, as everywhere.
QString said_so(double v, int decimals) {
    return decimals == 0 && v >= 0 ? number(static_cast<std::uint64_t>(std::llround(v))) : decimal(v, decimals);
}

QString minus(double v, int decimals) {
    QString text = said_so(std::abs(v), decimals);
    if (text == said_so(0, decimals)) return text;
    return QString(v < 0 ? "\u2212" : "+") + text;
}

constexpr std::array kShownKinds{Difference::newly_within, Difference::newly_reached, Difference::nearer,
                                 Difference::same,         Difference::farther,       Difference::cut_off,
                                 Difference::newly_beyond};
QString words(Difference d, bool has_standard) {
    switch (d) {
        case Difference::newly_within:
            return has_standard ? DifferenceView::tr("newly within the standard") : DifferenceView::tr("newly served");
        case Difference::newly_beyond:
            return has_standard ? DifferenceView::tr("no longer within it") : DifferenceView::tr("no longer served");
        case Difference::nearer:
            return DifferenceView::tr("nearer");
        case Difference::farther:
            return DifferenceView::tr("farther");
        case Difference::newly_reached:
            return DifferenceView::tr("newly reached");
        case Difference::cut_off:
            return DifferenceView::tr("cut off");
        case Difference::same:
            return DifferenceView::tr("as before");
    }
    return {};
}

/// In per cent, as shares are said: no miss becomes a met one.
double rounded_down(Share share) { return std::floor(share.percent() * 10) / 10; }

/// A line of the table of numbers: what it was, what it is, and by how much that differs.
struct Line {
    QString what;
    std::optional<double> was, is;
    int decimals;
};

}  // namespace

DifferenceView::DifferenceView(Session& session, QWidget* parent) : QWidget(parent), session_(session), work_(this) {
    title_ = new QLabel(this);
    title_->setFont(theme::type(1.1, QFont::DemiBold));
    against_ = new QComboBox(this);
    against_->setAccessibleName(tr("The plan that it is held against"));
    note_ = new QLabel(this);
    note_->setProperty("role", "soft");
    auto* row = new QHBoxLayout;
    row->addWidget(title_);
    row->addWidget(against_);
    on_map_ = new QPushButton(tr("Show on the map"), this);
    on_map_->setAccessibleName(tr("Show on the map what changes"));
    row->addWidget(note_, 1);
    row->addWidget(on_map_);
    connect(on_map_, &QPushButton::clicked, this,
            [this] { emit change_wanted(session_.document.study().plans[base()].name); });
    numbers_ = quiet_table({QString(), QString(), QString(), tr("differs by")}, tr("Numbers side by side"), this);
    kinds_ = quiet_table({tr("who gains, who loses"), tr("places"), tr("weight")}, tr("Who gains and who loses"), this);
    parts_ = quiet_table({tr("zone or group"), tr("newly within"), tr("no longer"), tr("mean")},
                         tr("Who gains and who loses by zone and group"), this);
    kinds_->setToolTip(tr("Press a row to see who they are"));
    curve_ = new CurveView(session_, this);
    curve_->setMaximumHeight(QWIDGETSIZE_MAX);
    auto* left = new QVBoxLayout;
    left->addWidget(numbers_);
    left->addWidget(kinds_);
    left->addStretch(1);
    auto* right = new QVBoxLayout;
    right->addWidget(curve_, 1);
    right->addWidget(parts_);
    auto* across = new QHBoxLayout;
    across->setSpacing(18);
    across->addLayout(left, 1);
    across->addLayout(right, 1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->addLayout(row);
    box->addLayout(across, 1);
    connect(against_, &QComboBox::activated, this, [this](int i) {
        const auto& plans = session_.document.study().plans;
        question_ = against_->itemData(i).toString().toStdString();
        if (question_.empty() && static_cast<std::size_t>(i) < plans.size())
            base_name_ = plans[static_cast<std::size_t>(i)].name;
        ask();
        refresh();
    });
    connect(&work_, &WorkedOutSignals::changed, this, &DifferenceView::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &DifferenceView::trouble);
    connect(&session_.answers, &Answers::changed, this, &DifferenceView::ask);
    connect(&session_.answers, &Answers::verdicts_changed, this, &DifferenceView::ask);
    connect(&session_.document, &Document::plans_changed, this, &DifferenceView::refresh_plans);
    connect(&session_.document, &Document::plan_chosen, this, &DifferenceView::refresh_plans);
    connect(&session_.document, &Document::questions_changed, this, &DifferenceView::refresh_plans);
    connect(&session_.document, &Document::study_replaced, this, [this] {
        base_name_.clear();
        question_.clear();
    });
    connect(kinds_, &QTableWidget::cellClicked, this, [this](int r) {
        if (!found() || r < 0) return;
        const bool sites = r >= static_cast<int>(kShownKinds.size());
        pick([&](std::uint32_t i) {
            return sites ? found()->all[i].changes_site
                         : found()->all[i].kind == kShownKinds[static_cast<std::size_t>(r)];
        });
    });
    refresh_plans();
    refresh();
}

QString DifferenceView::note() const { return note_->text(); }

std::size_t DifferenceView::base() const {
    const auto& plans = session_.document.study().plans;
    for (std::size_t i = 0; i < plans.size(); ++i)
        if (plans[i].name == base_name_) return i;
    return 0;
}

void DifferenceView::refresh_plans() {
    const QSignalBlocker quiet(against_);
    against_->clear();
    for (const auto& p : session_.document.study().plans) against_->addItem(elided(plain(p.name)));
    against_->setCurrentIndex(static_cast<int>(base()));
    // Under another question the same plan shows what another traveller, or another rule, makes of it.
    for (const auto& q : session_.document.study().questions) {
        if (!comparable(q)) continue;
        against_->addItem(tr("itself as \u2018%1\u2019 asks").arg(elided(plain(q.name))), plain(q.name));
        if (q.name == question_) against_->setCurrentIndex(against_->count() - 1);
    }
    title_->setText(tr("\u2018%1\u2019 against").arg(elided(plain(session_.document.plan().name))));
    ask();
}

bool DifferenceView::comparable(const service::Question& other) const {
    const auto& now = session_.document.question();
    return other.name != now.name && other.demand == now.demand && other.by_weight == now.by_weight &&
           other.measure() == now.measure();
}

const service::Question* DifferenceView::other_question() const {
    if (question_.empty()) return nullptr;
    const auto* other = session_.document.study().find_question(question_);
    return other != nullptr && comparable(*other) ? other : nullptr;
}

namespace {

std::shared_ptr<const DifferenceView::Found> compared(const PlanAnswerPtr& before, const PlanAnswerPtr& after,
                                                      const service::Question& question,
                                                      std::optional<service::Question> as_asked) {
    // The standard may be another than when they were answered; of another question the one in sight is meant.
    service::Outcome was = before->outcome, is = after->outcome;
    is.question = question;
    was.question.standard = question.standard;
    DifferenceView::Found f{before, after, differences(was, is), {}, figures_of(was), figures_of(is),
                            {},     {},    std::move(as_asked)};
    f.sums = sum_up(is, f.all);
    f.zones = sum_up(*after->ready, is, f.all, service::SummedBy::zone);
    f.groups = sum_up(*after->ready, is, f.all, service::SummedBy::group);
    return std::make_shared<const DifferenceView::Found>(std::move(f));
}

}  // namespace

void DifferenceView::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    ask();
}

void DifferenceView::ask() {
    if (!isVisible()) return;  // nobody looks
    const auto after = session_.answers.of_plan(session_.document.plan_index());
    const auto& question = session_.document.question();
    const auto is_found = [&](const PlanAnswerPtr& before, const std::optional<service::Question>& as_asked) {
        return found() && !work_.busy() && (!before || found()->before == before) && found()->after == after &&
               found()->as_asked == as_asked &&
               (found()->is.verdict ? std::optional(found()->is.verdict->standard) : std::nullopt) == question.standard;
    };
    if (const auto* other = other_question()) {
        const auto inputs = session_.document.study().inputs(*other);
        if (!after || !inputs) return work_.forget();
        service::Question asked = *other;
        asked.standard = question.standard;
        if (is_found(nullptr, asked)) return;
        const std::pair wanted{after, std::optional(asked)};
        if (work_.busy() && under_way_ == wanted) return;
        under_way_ = wanted;
        work_.ask([after, inputs = *inputs, asked, question](const Task& task) {
            auto before = std::make_shared<PlanAnswer>();
            before->ready = service::prepare(inputs, asked, after->ready.get(), task);
            before->outcome = service::answer(*before->ready, after->outcome.plan, task);
            return compared(before, after, question, asked);
        });
        return;
    }
    under_way_ = {};
    curve_->set_base(base());
    const auto before = session_.answers.of_plan(base());
    if (!before) session_.answers.want(base());
    if (!before || !after) return work_.forget();
    if (is_found(before, std::nullopt)) return;
    work_.ask([before, after, question](const Task&) { return compared(before, after, question, std::nullopt); });
}

void DifferenceView::refresh() {
    const auto& f = found();
    const auto* other = other_question();
    const bool same = other == nullptr && base() == session_.document.plan_index();
    on_map_->setVisible(f && !same && other == nullptr);
    if (f && f->as_asked) curve_->set_base(f->before);
    note_->setText(same ? tr("the same plan; choose another above or here")
                   : !f ? tr("not worked out yet")
                   : f->sums.of(Difference::same).places == f->sums.all.places && f->sums.changes_site.places == 0
                       ? tr("under %1: nothing changes").arg(plain(session_.document.question().name))
                       : tr("under %1").arg(plain(session_.document.question().name)));
    for (QTableWidget* t : {numbers_, kinds_, parts_}) t->setVisible(f && !same);
    curve_->setVisible(f && !same);
    if (!f || same) return;
    fill_numbers(*f);
    fill_kinds(*f);
    fill_parts(*f);
}

void DifferenceView::fill_numbers(const Found& f) {
    const routing::Measure m = f.is.measure;
    std::vector<Line> lines;
    if (f.was.verdict && f.is.verdict) {
        const auto share = [](const service::Verdict& v) {
            return v.judged() == service::Judged::nobody ? std::nullopt : std::optional(rounded_down(v.share));
        };
        lines.push_back({tr("% within %1").arg(plain(describe(f.is.verdict->standard.limit))), share(*f.was.verdict),
                         share(*f.is.verdict), 1});
        const auto& demand = f.after->ready->inputs.demand;
        lines.push_back({tr("%1 within").arg(elided(plain(service::counted(session_.document.question(), demand)))),
                         f.was.verdict->inside.weight.value(), f.is.verdict->inside.weight.value(), 0});
    }
    const auto add = [&](const QString& what, auto&& of) {
        const auto value = [&](const std::optional<service::Statistics>& s) {
            return s ? std::optional(static_cast<double>(of(*s)) / counts_per_unit(m)) : std::nullopt;
        };
        lines.push_back({what + ", " + unit_of(m), value(f.was.figures), value(f.is.figures), 1});
    };
    add(tr("mean"), [](const auto& s) { return s.mean; });
    add(tr("median"), [](const auto& s) { return s.median; });
    add(tr("nine in ten within"), [](const auto& s) { return s.p90; });
    add(tr("worst"), [](const auto& s) { return s.worst; });
    lines.push_back({tr("sites in use"), f.was.sites_open, f.is.sites_open, 0});
    if (f.was.cost && f.is.cost) lines.push_back({tr("cost"), f.was.cost->value(), f.is.cost->value(), 0});
    numbers_->horizontalHeaderItem(1)->setText(elided(plain(f.as_asked ? f.as_asked->name : f.was.plan)));
    numbers_->horizontalHeaderItem(2)->setText(
        elided(plain(f.as_asked ? session_.document.question().name : session_.document.plan().name)));
    const QuietChange quiet(*numbers_, static_cast<int>(lines.size()));
    for (int r = 0; r < static_cast<int>(lines.size()); ++r) {
        const Line& line = lines[static_cast<std::size_t>(r)];
        put_cell(*numbers_, r, 0, line.what, false);
        put_cell(*numbers_, r, 1, line.was ? said_so(*line.was, line.decimals) : kNone, true);
        put_cell(*numbers_, r, 2, line.is ? said_so(*line.is, line.decimals) : kNone, true);
        put_cell(*numbers_, r, 3, line.was && line.is ? minus(*line.is - *line.was, line.decimals) : kNone, true);
    }
    fit_height(*numbers_, 9);
}

void DifferenceView::fill_kinds(const Found& f) {
    const bool has_standard = f.is.verdict.has_value();
    const QuietChange quiet(*kinds_, static_cast<int>(kShownKinds.size()) + 1);
    int r = 0;
    const auto put = [&](const QString& what, const service::Tally& tally, const QColor& colour) {
        put_cell(*kinds_, r, 0, what, false).setForeground(colour);
        put_cell(*kinds_, r, 1, number(tally.places), true);
        put_cell(*kinds_, r, 2, plain(describe(tally.weight)), true);
        ++r;
    };
    for (const Difference d : kShownKinds)
        put(words(d, has_standard), f.sums.of(d),
            d == Difference::newly_within || d == Difference::newly_reached || d == Difference::nearer ? theme::kMet
            : d == Difference::same                                                                    ? theme::kSoftInk
                                    : theme::kNotMet);
    put(tr("go to another site"), f.sums.changes_site, theme::kInk);
    fit_height(*kinds_, 8);
}

void DifferenceView::fill_parts(const Found& f) {
    std::vector<const service::DifferenceRow*> rows;
    for (const auto* list : {&f.zones, &f.groups})
        for (const auto& row : *list) rows.push_back(&row);
    const routing::Measure m = f.is.measure;
    parts_->horizontalHeaderItem(1)->setText(f.is.verdict ? tr("newly within") : tr("newly served"));
    parts_->horizontalHeaderItem(3)->setText(tr("%1 a head").arg(unit_of(m)));
    const QuietChange quiet(*parts_, static_cast<int>(rows.size()));
    for (int r = 0; r < static_cast<int>(rows.size()); ++r) {
        const auto& row = *rows[static_cast<std::size_t>(r)];
        const bool zone = static_cast<std::size_t>(r) < f.zones.size();
        put_cell(*parts_, r, 0, !row.row.none ? plain(row.row.name) : zone ? tr("no zone") : tr("no group"), false);
        put_cell(*parts_, r, 1, plain(describe(row.sums.of(Difference::newly_within).weight)), true);
        put_cell(*parts_, r, 2, plain(describe(row.sums.of(Difference::newly_beyond).weight)), true);
        const auto weight = static_cast<double>(row.sums.all.weight.count());
        const double net = static_cast<double>(row.sums.added) - static_cast<double>(row.sums.saved);
        put_cell(*parts_, r, 3, weight > 0 ? minus(net / weight / counts_per_unit(m), 2) : kNone, true);
    }
    parts_->horizontalHeaderItem(0)->setText(f.groups.empty()  ? tr("zone")
                                             : f.zones.empty() ? tr("group")
                                                               : tr("zone, group"));
    fit_height(*parts_, 8);
    parts_->setVisible(!rows.empty());
}

void DifferenceView::pick(const std::function<bool(std::uint32_t)>& wanted) {
    const auto f = found();
    if (!f || f->after != session_.answers.shown()) return;
    Picked picked;
    for (std::uint32_t i = 0; i < f->all.size(); ++i)
        if (wanted(i)) picked.places.push_back(i);
    if (picked.places.empty()) return;
    session_.selection.pick(std::move(picked));
    emit show_wanted();
}

}  // namespace otoro::desktop
