#include "desktop/parts/detour_panel.h"

#include <QLabel>
#include <QPaintEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/parts/quiet_table.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

constexpr std::size_t kWorst = 12;

/// "1.3 to 1.6".
QString step_words(std::size_t step) {
    const auto at = [](std::size_t i) { return decimal(service::kDetourSteps[i], 1); };
    if (step == 0) return DetourPanel::tr("under %1").arg(at(0));
    if (step == service::kDetourSteps.size()) return DetourPanel::tr("%1 and more").arg(at(step - 1));
    return DetourPanel::tr("%1 to %2").arg(at(step - 1), at(step));
}

/// A bar for each step, as long as the weight that is in it.
class DetourBars : public QWidget {
public:
    DetourBars(const DetourPanel& panel, QWidget* parent) : QWidget(parent), panel_(panel) {
        setAccessibleName(DetourPanel::tr("Weight by how many times as far as the straight line"));
        setFixedHeight(row() * static_cast<int>(service::kDetourSteps.size() + 1) + 4);
    }

protected:
    void paintEvent(QPaintEvent*) override {
        const auto& found = panel_.found();
        if (!found) return;
        QPainter p(this);
        p.setFont(theme::type(0.9));
        const QFontMetrics metrics(p.font());
        std::int64_t most = 1, all = 0;
        for (const auto& t : found->detours.steps) {
            most = std::max(most, t.weight.count());
            all += t.weight.count();
        }
        const auto colours = detour_look().place_colours(found->answer->outcome);
        int names = 0;
        for (std::size_t i = 0; i < found->detours.steps.size(); ++i)
            names = std::max(names, metrics.horizontalAdvance(step_words(i)) + 10);
        const int numbers = metrics.horizontalAdvance("100.0 %") + 8;
        for (std::size_t i = 0; i < found->detours.steps.size(); ++i) {
            const auto& t = found->detours.steps[i];
            const int top = row() * static_cast<int>(i);
            p.setPen(theme::kInk);
            p.drawText(QRect(0, top, names - 8, row()), Qt::AlignRight | Qt::AlignVCenter, step_words(i));
            const double part = static_cast<double>(t.weight.count()) / static_cast<double>(most);
            p.setPen(Qt::NoPen);
            p.setBrush(colours[i]);
            p.drawRect(QRectF(names, top + 3, std::max(0, width() - names - numbers) * part, row() - 6));
            p.setPen(theme::kInk);
            if (all > 0)
                p.drawText(QRect(width() - numbers, top, numbers, row()), Qt::AlignRight | Qt::AlignVCenter,
                           percent(t.weight, Weight(all)));
        }
    }

private:
    static int row() { return QFontMetrics(theme::type(0.9)).height() + 5; }
    const DetourPanel& panel_;
};

}  // namespace

DetourPanel::DetourPanel(Session& session, MapView& map, QWidget* parent)
    : QWidget(parent), session_(session), map_(map), work_(this) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    box->setSpacing(4);
    auto* heading = new QLabel(tr("BY ROAD AGAINST THE STRAIGHT LINE"), this);
    heading->setProperty("role", "heading");
    summary_ = new QLabel(this);
    summary_->setTextFormat(Qt::RichText);
    summary_->setWordWrap(true);
    histogram_ = new DetourBars(*this, this);
    worst_ = quiet_table({tr("farthest round"), tr("road"), tr("straight"), tr("times")},
                         tr("Places whose way is farthest beyond the straight line"), this);
    box->addWidget(heading);
    box->addWidget(summary_);
    box->addWidget(histogram_);
    box->addWidget(worst_);
    connect(&map_, &MapView::style_changed, this, &DetourPanel::follow);
    connect(&session_.answers, &Answers::changed, this, &DetourPanel::follow);
    connect(&work_, &WorkedOutSignals::changed, this, &DetourPanel::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &DetourPanel::trouble);
    connect(worst_, &QTableWidget::cellClicked, this, [this](int row) { pick(row); });
    connect(worst_, &QTableWidget::cellActivated, this, [this](int row) { pick(row); });
    follow();
}

QString DetourPanel::summary() const { return summary_->text(); }

bool DetourPanel::up_to_date() const { return found() && !work_.busy() && found()->answer == session_.answers.shown(); }

void DetourPanel::follow() {
    const auto answer = session_.answers.shown();
    const bool shown = map_.style_now().look == &detour_look() && answer;
    setVisible(shown);
    if (!shown) return work_.forget();
    if (up_to_date() || session_.answers.trying_out() || !session_.answers.up_to_date()) return refresh();
    work_.ask([answer](const Task& task) {
        auto found = std::make_shared<Found>();
        found->answer = answer;
        found->detours = service::detours_of(*answer->ready, answer->outcome, kWorst);
        for (const auto& d : found->detours.worst) {
            task.check();
            found->journeys.push_back(service::read_place(*answer->ready, answer->outcome, d.place).route);
        }
        return found;
    });
}

void DetourPanel::refresh() {
    const auto& found = this->found();
    if (!found) {
        summary_->clear();
        worst_->setRowCount(0);
        return map_.set_journeys({});
    }
    map_.set_journeys(found->journeys);
    const auto& d = found->detours;
    const bool any = d.straight > 0;
    summary_->setText(any ? tr("In all <b>%1 times</b> as far as the straight line.").arg(decimal(d.times(), 2))
                          : tr("Nobody is served from elsewhere."));
    summary_->setEnabled(up_to_date());
    histogram_->update();
    const auto& demand = found->answer->ready->inputs.demand;
    {
        const QuietChange quiet(*worst_, static_cast<int>(d.worst.size()));
        for (int row = 0; row < static_cast<int>(d.worst.size()); ++row) {
            const auto& w = d.worst[static_cast<std::size_t>(row)];
            const QString site = plain(service::label(found->answer->outcome.sites[w.site.value()].planned.site));
            put_cell(*worst_, row, 0, plain(demand.at(w.place).id), false).setToolTip(tr("served by %1").arg(site));
            put_cell(*worst_, row, 1, long_length(w.road, 1), true);
            put_cell(*worst_, row, 2, long_length(w.straight, 1), true);
            put_cell(*worst_, row, 3, decimal(w.times(), 1), true);
        }
    }
    fit_height(*worst_, 6);
}

void DetourPanel::pick(int row) {
    if (!up_to_date() || row < 0 || static_cast<std::size_t>(row) >= found()->detours.worst.size()) return;
    session_.selection.pick({{found()->detours.worst[static_cast<std::size_t>(row)].place.value()}, std::nullopt});
    const auto& journey = found()->journeys[static_cast<std::size_t>(row)];
    if (!journey.empty()) map_.go_to_all(journey);
}

}  // namespace otoro::desktop
