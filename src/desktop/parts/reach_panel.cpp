#include "desktop/parts/reach_panel.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "desktop/parts/elided.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

constexpr int kReachNumber = Qt::UserRole;

QString square_km(double square_metres) {
    const double km = square_metres / 1e6;
    if (km == 0) return "0";
    return decimal(km, km < 1 ? 3 : km < 10 ? 2 : 1);
}
using service::ReachArea;
/// "4 min", or "4-8 min" of a band.
QString range_of(const ReachArea& a) {
    return service::count_of(a.from) > 0 ? said_limits({a.from, a.to}).replace(", ", QString::fromUtf8("\u2013"))
                                         : plain(describe(a.to));
}
/// To a tenth of a minute, or ten metres: enough for what is left, or too far.
QString roughly(const Amount& a) {
    if (const auto* const time = std::get_if<Millis>(&a))
        return plain(describe(Millis((time->count() + 3'000) / 6'000 * 6'000)));
    return plain(describe(Millimetres((std::get<Millimetres>(a).count() + 5'000) / 10'000 * 10'000)));
}

}  // namespace

ReachPanel::ReachPanel(Session& session, MapView& map, QWidget* parent)
    : QWidget(parent), session_(session), map_(map), asker_(this) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 6);
    box->setSpacing(4);
    heading_ = new QLabel(this);
    heading_->setProperty("role", "heading");
    summary_ = new QLabel(this);
    summary_->setProperty("role", "soft");
    summary_->setWordWrap(true);
    stop_ = new QPushButton(tr("Stop"), this);
    stop_->setObjectName("flat");
    list_ = quiet_table({QString(), QString(), QString(), QString()}, tr("Reached or uncovered ground"), this);
    list_->setMinimumHeight(150);
    list_->setColumnHidden(2, theme::is_large());  // square kilometres are in the tips too
    auto* row = new QHBoxLayout;
    row->addWidget(summary_, 1);
    row->addWidget(stop_, 0, Qt::AlignTop);
    box->addWidget(heading_);
    box->addLayout(row);
    box->addWidget(list_);
    soon_.setSingleShot(true);
    soon_.setInterval(250);
    connect(&soon_, &QTimer::timeout, this, &ReachPanel::ask);
    connect(stop_, &QPushButton::clicked, &asker_, &ReachAsker::stop);
    connect(&map_, &MapView::style_changed, this, &ReachPanel::follow);
    connect(&session_.answers, &Answers::changed, this, &ReachPanel::follow);
    connect(&asker_, &ReachAsker::changed, this, &ReachPanel::refresh);
    connect(&asker_, &ReachAsker::progressed, this, [this](const QString& step, double done) {
        if (asker_.busy()) summary_->setText(tr("%1, %2 %").arg(step).arg(static_cast<int>(done * 100)));
    });
    connect(&asker_, &ReachAsker::failed, this,
            [this](const QString& why) { emit trouble(tr("Ground could not be worked out. %1").arg(why)); });
    connect(list_, &QTableWidget::cellClicked, this, [this](int at) { go_to(at); });
    connect(list_, &QTableWidget::cellActivated, this, [this](int at) { go_to(at); });
    follow();
}

QString ReachPanel::summary() const { return summary_->text(); }

QString ReachPanel::note_on(const service::SpotReading& reading) const {
    const auto answer = session_.answers.shown();
    if (!listed_ || !listed_->areas || listed_->asked.answer != answer || map_.reach_from() || !reading.outcome.site)
        return {};
    const auto& areas = *listed_->areas;
    // Whose own limits count is not told from the reading.
    if (areas.request.overlap == service::Overlap::count || areas.request.limits.empty()) return {};
    const ReachArea* smallest = nullptr;
    for (const auto& a : areas.areas) {
        const bool same_site = !a.site || a.site == reading.outcome.site;
        if (same_site && is_within(reading.outcome, a.to) &&
            (smallest == nullptr || service::count_of(a.to) < service::count_of(smallest->to)))
            smallest = &a;
    }
    if (smallest == nullptr) return {};
    const QString whose =
        smallest->site ? plain(service::label(areas.sites[smallest->site->value()].planned.site)) : tr("all sites");
    return tr("%1 within %2: %3 km\u00b2, %4, weight %5")
        .arg(whose, range_of(*smallest), square_km(smallest->square_metres),
             counted(smallest->inside.places, tr("place"), tr("places")), plain(describe(smallest->inside.weight)));
}

void ReachPanel::follow() {
    const bool shown = map_.ground_colours().has_value();
    setVisible(shown);
    if (!shown) {
        soon_.stop();
        asker_.forget();
        map_.set_found(nullptr, false);
        return;
    }
    const auto& style = map_.style_now();
    heading_->setText(style.look != &uncovered_look()                    ? tr("REACHED GROUND")
                      : style.reach.cover == service::CoverList::patches ? tr("UNCOVERED GROUND")
                                                                         : tr("ZONES COVERED"));
    const auto asked = map_.ground_asked();
    map_.set_found(asker_.found(), !asked || !asker_.has(*asked));
    soon_.start();
}

void ReachPanel::ask() {
    if (!session_.answers.up_to_date() || session_.answers.trying_out()) return;
    if (auto asked = map_.ground_asked()) asker_.ask(std::move(*asked));
}

void ReachPanel::refresh() {
    stop_->setVisible(asker_.busy());
    const auto asked = map_.ground_asked();
    map_.set_found(asker_.found(), asker_.busy() || !asked || !asker_.has(*asked));
    if (asker_.busy()) {
        summary_->setText(tr("Working out ground..."));
        return;
    }
    listed_ = asker_.found();
    list_->clearSelection();
    if (listed_ && listed_->areas) return list_areas(*listed_);
    if (listed_ && listed_->uncovered) return list_patches(*listed_->uncovered);
    if (listed_ && listed_->change) return list_change(*listed_);
    if (listed_) return list_zones(*listed_);
    list_->setRowCount(0);
    summary_->setText(tr("Not worked out."));
}

void ReachPanel::begin_list(const QStringList& heads, int rows) {
    list_->setHorizontalHeaderLabels(heads);
    list_->setRowCount(0);
    list_->setRowCount(rows);
}

void ReachPanel::put_row(int row, std::uint32_t number, const QStringList& cells, const QString& tip) {
    for (int c = 0; c < cells.size(); ++c) {
        auto& cell = put_cell(*list_, row, c, cells[c], c > 0);
        if (c == 0) cell.setData(kReachNumber, number);
        cell.setToolTip(tip);
    }
}

void ReachPanel::list_areas(const GroundFound& found) {
    const service::Reach& reach = *found.areas;
    const bool counts = reach.request.overlap == service::Overlap::count;
    std::vector<std::uint32_t> order(reach.areas.size());
    for (std::uint32_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        return reach.areas[a].inside.weight > reach.areas[b].inside.weight;
    });
    double ground = 0;
    std::uint32_t places = 0;
    Weight weight;
    begin_list({counts ? tr("sites") : tr("site"), tr("within"), tr("km\u00b2"), tr("weight")},
               static_cast<int>(order.size()));
    for (int row = 0; row < static_cast<int>(order.size()); ++row) {
        const std::uint32_t number = order[static_cast<std::size_t>(row)];
        const auto& a = reach.areas[number];
        const bool last = !reach.request.full || reach.request.limits.empty() || a.to == reach.request.limits.back();
        if (last) {
            ground += a.square_metres;
            places += a.inside.places;
            weight += a.inside.weight;
        }
        const QString whose = counts             ? counted(a.sites_reaching, tr("site"), tr("sites"))
                              : found.asked.from ? tr("this spot")
                              : a.site           ? plain(service::label(reach.sites[a.site->value()].planned.site))
                                                 : tr("all");
        put_row(row, number, {whose, range_of(a), square_km(a.square_metres), plain(describe(a.inside.weight))},
                tr("%1, %2 km\u00b2, %3 of road")
                    .arg(counted(a.inside.places, tr("place"), tr("places")), square_km(a.square_metres),
                         long_length(a.road, 1)));
    }
    QString text = tr("%1 km\u00b2, %2, weight %3")
                       .arg(square_km(ground), counted(places, tr("place"), tr("places")), plain(describe(weight)));
    if (reach.request.overlap == service::Overlap::each) text += tr(", where sites overlap more than once");
    if (!found.circles.empty()) {
        double promised = 0, more = 0;
        Weight promised_weight, more_weight;
        for (const auto& c : found.circles) {
            promised += c.promised_square_metres;
            more += c.unpromised_square_metres;
            promised_weight += c.promised.weight;
            more_weight += c.unpromised.weight;
        }
        text +=
            tr(". Circles, site by site, promise %1 km\u00b2 and weight %2 that roads deny; roads reach %3 km\u00b2 "
               "and weight %4 beyond them")
                .arg(square_km(promised), plain(describe(promised_weight)), square_km(more),
                     plain(describe(more_weight)));
    }
    if (!reach.rim.empty())
        text += tr(". Roads end before the limit does at %1, %2 left at the first")
                    .arg(counted(reach.rim.size(), tr("end"), tr("ends")), roughly(reach.rim.front().left));
    summary_->setText(reach.areas.empty() ? tr("Nothing is reached.") : text);
}

void ReachPanel::list_patches(const service::Uncovered& uncovered) {
    begin_list({tr("where"), tr("too far"), tr("km\u00b2"), tr("weight")}, static_cast<int>(uncovered.patches.size()));
    const auto& sites = listed_->asked.answer->outcome.sites;
    for (int row = 0; row < static_cast<int>(uncovered.patches.size()); ++row) {
        const auto& p = uncovered.patches[static_cast<std::size_t>(row)];
        QString tip = tr("%1; %2, %3 km\u00b2")
                          .arg(plain(p.name + (p.zone.empty() ? "" : " (" + p.zone + ")")),
                               counted(p.inside.places, tr("place"), tr("places")), square_km(p.square_metres));
        if (p.nearest && p.nearest->value() < sites.size())
            tip += tr("; the nearest site is %1").arg(plain(service::label(sites[p.nearest->value()].planned.site)));
        put_row(row, static_cast<std::uint32_t>(row),
                {elided(plain(p.name), 60), p.too_far ? roughly(*p.too_far) : tr("cut off"), square_km(p.square_metres),
                 plain(describe(p.inside.weight))},
                tip);
    }
    QString text = tr("%1 km\u00b2 near roads in %2")
                       .arg(square_km(uncovered.square_metres),
                            counted(uncovered.patches.size() + uncovered.left_out, tr("patch"), tr("patches")));
    if (uncovered.left_out > 0)
        text += tr("; %1 without places, smaller than 0.1 hectare, not listed").arg(number(uncovered.left_out));
    if (uncovered.patches.empty() && uncovered.left_out == 0) text = tr("All ground near roads is covered");
    if (uncovered.elsewhere.places > 0)
        text += tr("; %1, weight %2, too far off by a road of their own")
                    .arg(counted(uncovered.elsewhere.places, tr("place"), tr("places")),
                         plain(describe(uncovered.elsewhere.weight)));
    summary_->setText(text);
}

/// Those first that fail by the most weight, then by the most ground.
void ReachPanel::list_zones(const GroundFound& found) {
    const auto& zones = found.zones;
    std::vector<std::uint32_t> order(zones.size());
    for (std::uint32_t i = 0; i < order.size(); ++i) order[i] = i;
    const auto missed = [&](std::uint32_t i) { return zones[i].places.weight - zones[i].places_within.weight; };
    const auto bare = [&](std::uint32_t i) { return zones[i].square_metres - zones[i].square_metres_within; };
    std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        return missed(a) != missed(b) ? missed(a) > missed(b) : bare(a) > bare(b);
    });
    begin_list({tr("zone"), tr("ground"), tr("roads"), tr("missed")}, static_cast<int>(zones.size()));
    for (int row = 0; row < static_cast<int>(order.size()); ++row) {
        const std::uint32_t number = order[static_cast<std::size_t>(row)];
        const auto& z = zones[number];
        QString tip =
            tr("%1; %2 of %3 km\u00b2 near roads, %4 of %5 of road, %6 of %7 within")
                .arg(z.judged() == service::Judged::nobody ? judged_words(z.judged())
                     : z.covered                           ? tr("covered")
                                                           : tr("not covered"),
                     square_km(z.square_metres_within), square_km(z.square_metres), long_length(z.road_within, 1),
                     long_length(z.road, 1), desktop::number(z.places_within.places),
                     counted(z.places.places, tr("place"), tr("places")));
        if (z.square_metres_no_road > 0)
            tip += tr("; %1 km\u00b2 with no road near").arg(square_km(z.square_metres_no_road));
        put_row(row, number,
                {plain(found.asked.zones->zones[z.zone].label()), percent(z.square_metres_within, z.square_metres),
                 percent(z.road_within.kilometres(), z.road.kilometres()), plain(describe_lack(missed(number)))},
                tip);
    }
    summary_->setText(plain(covered_words(zones, found.asked.standard)));
}

void ReachPanel::list_change(const GroundFound& found) {
    const auto& change = *found.change;
    begin_list({tr("ground"), tr("places"), tr("km\u00b2"), tr("weight")}, 3);
    const auto row = [&](int at, const QString& what, double square_metres, const service::Tally& inside) {
        put_row(at, static_cast<std::uint32_t>(at),
                {what, number(inside.places), square_km(square_metres), plain(describe(inside.weight))},
                tr("%1 within %2 here; %3 within %4")
                    .arg(what, plain(describe(found.asked.view.limits.back())), plain(found.asked.against->said),
                         plain(describe(found.asked.against->limit))));
    };
    row(0, tr("gained"), change.gained_square_metres, change.gained_places);
    row(1, tr("lost"), change.lost_square_metres, change.lost_places);
    row(2, tr("kept"), change.kept_square_metres, change.kept_places);
    summary_->setText(tr("Within %1, against %2 within %3")
                          .arg(plain(describe(found.asked.view.limits.back())), plain(found.asked.against->said),
                               plain(describe(found.asked.against->limit))));
}

std::uint32_t ReachPanel::entries() const {
    if (!listed_) return 0;
    if (listed_->areas) return static_cast<std::uint32_t>(listed_->areas->areas.size());
    if (listed_->uncovered) return static_cast<std::uint32_t>(listed_->uncovered->patches.size());
    return listed_->change ? 3 : static_cast<std::uint32_t>(listed_->zones.size());
}

reach::Polygons ReachPanel::ground_of(std::uint32_t number) const {
    if (number >= entries()) return {};
    if (listed_->areas) return listed_->areas->areas[number].polygons;
    if (listed_->uncovered) return {listed_->uncovered->patches[number].polygon};
    if (const auto& c = listed_->change) return number == 0 ? c->gained : number == 1 ? c->lost : c->kept;
    return listed_->zones[number].failing;
}

double ReachPanel::square_metres_of(std::uint32_t number) const {
    if (listed_->areas) return listed_->areas->areas[number].square_metres;
    if (listed_->uncovered) return listed_->uncovered->patches[number].square_metres;
    if (const auto& c = listed_->change)
        return number == 0 ? c->gained_square_metres : number == 1 ? c->lost_square_metres : c->kept_square_metres;
    return listed_->zones[number].square_metres - listed_->zones[number].square_metres_within;
}

Picked ReachPanel::picked_of(std::uint32_t number) const {
    Picked out;
    if (number >= entries()) return out;
    const auto& places = listed_->asked.answer->outcome.places;
    if (listed_->uncovered) {
        for (const DemandIndex i : listed_->uncovered->patches[number].places) out.places.push_back(i.value());
    } else if (!listed_->areas && !listed_->change) {
        for (const DemandIndex i : listed_->zones[number].failing_places) out.places.push_back(i.value());
    } else if (listed_->change) {
        const auto& c = *listed_->change;
        for (const DemandIndex i : number == 0 ? c.gained_list : number == 1 ? c.lost_list : c.kept_list)
            out.places.push_back(i.value());
    } else {
        const auto& a = listed_->areas->areas[number];
        if (!listed_->asked.from) out.site = a.site;  // a spot is no site of the study
        for (const DemandIndex i : a.places) out.places.push_back(i.value());
    }
    std::erase_if(out.places, [&](std::uint32_t i) { return i >= places.size(); });
    return out;
}

void ReachPanel::go_to(int row) {
    const auto number = list_->item(row, 0)->data(kReachNumber).toUInt();
    if (!listed_ || session_.answers.shown() != listed_->asked.answer) return;
    const auto ground = ground_of(number);
    const geo::Box box = ground.empty() ? geo::Box() : reach::box_of(ground);
    if (!box.empty()) map_.go_to_all({{box.west, box.south}, {box.east, box.north}});
    session_.selection.pick(picked_of(number));
}

void ReachPanel::pick_at(geo::LonLat spot) {
    if (!listed_ || session_.answers.shown() != listed_->asked.answer) return session_.selection.pick({});
    spot = listed_->ready->inputs.network->near(spot);
    std::optional<std::uint32_t> best;
    double least = 0;
    for (std::uint32_t i = 0; i < entries(); ++i) {
        const double size = square_metres_of(i);
        if (best && size >= least) continue;
        if (reach::area_of(ground_of(i)).contains(spot)) {
            best = i;
            least = size;
        }
    }
    list_->clearSelection();
    if (!best) return session_.selection.pick({});
    for (int row = 0; row < list_->rowCount(); ++row)
        if (list_->item(row, 0)->data(kReachNumber).toUInt() == *best) {
            list_->selectRow(row);
            list_->scrollToItem(list_->item(row, 0));
        }
    session_.selection.pick(picked_of(*best));
}

}  // namespace otoro::desktop
