#include "desktop/parts/reassign_panel.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "desktop/parts/flow_layout.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "files/write_answer.h"

namespace otoro::desktop {
namespace {

constexpr int kFlow = Qt::UserRole;  // the number of a row's flow

/// How many of those who move have no site in use on record, and so save nothing that is known.
QString none_on_record(const service::Reassignment& moved) {
    std::uint64_t n = 0;
    for (const auto& flow : moved.flows) n += flow.from ? 0 : flow.tally.places;
    return n == 0 ? QString() : " " + ReassignPanel::tr("%1 of them on record at no site in use.").arg(number(n));
}

}  // namespace

ReassignPanel::ReassignPanel(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), reassigner_(session.answers), adding_(this) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    box->setSpacing(4);
    auto* heading = new QLabel(tr("MOVING TO THE NEAREST"), this);
    heading->setProperty("role", "heading");
    who_ = new QComboBox(this);
    who_->setObjectName("who_moves");
    who_->setAccessibleName(tr("Who moves to the nearest site"));
    who_->addItems({tr("all who gain by it"), tr("who save more than")});
    who_->setItemData(0, tr("Also who has no site on record"), Qt::ToolTipRole);
    more_than_ = new NumberBox(this);
    more_than_->setObjectName("saves_more_than");
    more_than_->setAccessibleName(tr("What must be saved"));
    more_than_->setRange(0, 100'000);
    more_than_->setDecimals(1);
    more_than_->setKeyboardTracking(false);
    only_picked_ = new QCheckBox(this);
    only_picked_->setObjectName("only_picked");
    only_picked_->setAccessibleName(tr("Only of the places that are picked"));
    summary_ = new QLabel(this);
    summary_->setWordWrap(true);
    flows_ = quiet_table({tr("from, to"), tr("places, saves")}, tr("Flows between sites"), this);
    flows_->setWordWrap(false);
    flows_->verticalHeader()->setDefaultSectionSize(2 * flows_->fontMetrics().height() + 6);
    more_ = new QPushButton(tr("Do\u2026"), this);
    more_->setObjectName("flat");
    more_->setAccessibleName(tr("What can be done with those who move"));
    auto* menu = new QMenu(more_);
    auto* drawn = menu->addAction(tr("Flows on the map"));
    drawn->setCheckable(true);
    drawn->setChecked(true);
    connect(drawn, &QAction::toggled, this, [this](bool on) {
        draws_ = on;
        refresh();
    });
    menu->addAction(tr("Pick all who move"), this, &ReassignPanel::pick_all);
    menu->addAction(tr("Add as demand, with its own question"), this, &ReassignPanel::add_as_demand);
    menu->addAction(tr("Export places with their new site\u2026"), this, [this] { emit export_wanted(false); });
    menu->addAction(tr("Export the flows\u2026"), this, [this] { emit export_wanted(true); });
    more_->setMenu(menu);
    auto* row = new QWidget(this);
    auto* asked = new FlowLayout(row, 6, 2);
    asked->setContentsMargins(0, 0, 0, 0);
    for (QWidget* w : std::initializer_list<QWidget*>{who_, more_than_, more_}) asked->addWidget(w);
    box->addWidget(heading);
    box->addWidget(row);
    box->addWidget(only_picked_);
    box->addWidget(summary_);
    box->addWidget(flows_);
    connect(who_, &QComboBox::currentIndexChanged, this, &ReassignPanel::take_who);
    connect(more_than_, &QDoubleSpinBox::valueChanged, this, &ReassignPanel::take_who);
    connect(only_picked_, &QCheckBox::clicked, this, &ReassignPanel::take_who);
    connect(&reassigner_, &Reassigner::changed, this, &ReassignPanel::refresh);
    connect(&reassigner_, &Reassigner::failed, this, &ReassignPanel::trouble);
    connect(&adding_, &WorkedOutSignals::changed, this, &ReassignPanel::take_added);
    connect(&adding_, &WorkedOutSignals::failed, this, &ReassignPanel::trouble);
    connect(&session_.selection, &Selection::changed, this, &ReassignPanel::refresh);
    connect(flows_, &QTableWidget::cellClicked, this, [this](int row) { pick(row); });
    connect(flows_, &QTableWidget::cellActivated, this, [this](int row) { pick(row); });
    refresh();
}

QString ReassignPanel::summary() const { return summary_->text(); }

void ReassignPanel::take_who() {
    service::WhoMoves who;
    if (who_->currentIndex() == 1) {
        const bool by_time = session_.document.question().measure() == routing::Measure::time;
        who.saving_more_than = by_time ? Amount(Millis(std::llround(more_than_->value() * 60'000)))
                                       : Amount(Millimetres(std::llround(more_than_->value() * 1000)));
    }
    if (only_picked_->isChecked()) {
        // Those that were picked when it was asked for: looking at a flow picks others.
        who.places = reassigner_.who().places;
        if (!who.places) {
            who.places.emplace();
            for (const std::uint32_t i : session_.selection.picked().places) who.places->emplace_back(i);
        }
    }
    reassigner_.set_who(std::move(who));
}

void ReassignPanel::refresh() {
    const auto& found = reassigner_.found();
    setVisible(found != nullptr);
    if (!found) {
        flows_->setRowCount(0);
        return emit flows_drawn({});
    }
    const auto& o = found->answer->outcome;
    const bool by_time = o.question.measure() == routing::Measure::time;
    more_than_->setVisible(who_->currentIndex() == 1);
    more_than_->setSuffix(by_time ? tr(" min") : tr(" m"));
    const auto& only = reassigner_.who().places;
    const std::size_t picked = only ? only->size() : session_.selection.picked().places.size();
    only_picked_->setChecked(only.has_value());
    only_picked_->setText(tr("only of the %1 picked").arg(counted(picked, tr("place"), tr("places"))));
    only_picked_->setVisible(picked > 0);
    const auto& moved = found->moved;
    summary_->setText(moved.moved.places == 0 ? tr("Nobody moves.")
                                              : tr("%1, weight %2, would move and save %3 in all.")
                                                        .arg(counted(moved.moved.places, tr("place"), tr("places")),
                                                             plain(describe(moved.moved.weight)),
                                                             plain(files::travel_words(o, moved.saved))) +
                                                    none_on_record(moved));
    summary_->setEnabled(reassigner_.up_to_date());
    more_->setEnabled(moved.moved.places > 0 && reassigner_.up_to_date());
    const double unit = counts_per_unit(o.question.measure());
    const auto name = [&](SiteIndex site) { return plain(service::label(o.sites[site.value()].planned.site)); };
    {
        // The heaviest first; those of one weight as the sites stand.
        std::vector<std::size_t> order(moved.flows.size());
        std::iota(order.begin(), order.end(), std::size_t{0});
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
            return moved.flows[a].tally.weight > moved.flows[b].tally.weight;
        });
        const QuietChange quiet(*flows_, static_cast<int>(moved.flows.size()));
        for (int row = 0; row < static_cast<int>(moved.flows.size()); ++row) {
            const std::size_t number_of = order[static_cast<std::size_t>(row)];
            const auto& flow = moved.flows[number_of];
            const QString from = flow.from ? name(*flow.from) : tr("(none on record)");
            put_cell(*flows_, row, 0, tr("%1\n\u2192 %2").arg(from, name(flow.to)), false)
                .setData(kFlow, static_cast<qulonglong>(number_of));
            const QString saved = by_time ? tr("%1 min") : QString("%1 ") + long_unit();
            put_cell(*flows_, row, 1,
                     number(flow.tally.places) +
                         (flow.from ? "\n" + saved.arg(decimal(static_cast<double>(flow.saved) / 1e6 / unit, 1))
                                    : QString()),
                     true);
            const QString tip = tr("%1 to %2: weight %3").arg(from, name(flow.to), plain(describe(flow.tally.weight)));
            for (int c = 0; c < 2; ++c) flows_->item(row, c)->setToolTip(tip);
        }
    }
    fit_height(*flows_, 5);
    std::vector<FlowDrawn> drawn;
    for (const auto& flow : moved.flows) {
        if (!flow.from || !draws_) continue;
        const auto& from = o.sites[flow.from->value()].planned.site.position;
        const auto& to = o.sites[flow.to.value()].planned.site.position;
        if (from && to) drawn.push_back({*from, *to, flow.tally.weight.value()});
    }
    emit flows_drawn(drawn);
}

void ReassignPanel::pick(int row) {
    const auto& found = reassigner_.found();
    if (!reassigner_.up_to_date() || flows_->item(row, 0) == nullptr) return;
    const auto flow = flows_->item(row, 0)->data(kFlow).toULongLong();
    if (flow >= found->moved.flows.size()) return;
    session_.selection.pick(
        {places_of(*found->answer->ready, found->answer->outcome, found->moved, found->moved.flows[flow]),
         std::nullopt});
}

void ReassignPanel::pick_all() {
    const auto& found = reassigner_.found();
    if (reassigner_.up_to_date())
        session_.selection.pick({who_moves(*found->answer->ready, found->answer->outcome, found->moved), std::nullopt});
}

void ReassignPanel::add_as_demand() {
    const auto found = reassigner_.found();
    if (!reassigner_.up_to_date() || !session_.answers.up_to_date()) return;
    added_to_ = session_.document.point();
    adding_.ask([study = session_.document.study(), found](const Task&) {
        return std::make_shared<const service::Study>(
            with_reassigned(study, *found->answer->ready, found->answer->outcome, found->moved));
    });
}

void ReassignPanel::take_added() {
    const auto made = adding_.found();
    if (!made) return;
    if (session_.document.point() == added_to_)
        session_.document.edit(tr("reassign"), [&](service::Study& s) { s = *made; });
    else
        emit trouble(tr("The study was changed while demand was being reassigned, and it was not added. Do it again."));
    adding_.forget();
}

}  // namespace otoro::desktop
