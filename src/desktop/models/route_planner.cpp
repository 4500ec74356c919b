#include "desktop/models/route_planner.h"

#include <algorithm>
#include <utility>

namespace otoro::desktop {

RoutePlanner::RoutePlanner(Document& document, Answers& answers) : document_(document), answers_(answers) {
    connect(&document_, &Document::route_changed, this, [this] {
        tried_.reset();
        const auto document = document_.point().document;
        shown_ = std::exchange(of_document_, document) == document;
        emit stops_changed();
    });
    connect(&document_, &Document::edited, this, &RoutePlanner::give_up_trial);  // the hand is empty then
    connect(&document_, &Document::settled, this, &RoutePlanner::follow);
}

RoutePlanner::Asked RoutePlanner::asked() const {
    const auto& study = document_.study();
    Asked a{route(), study.roads ? study.roads->network : nullptr, document_.question(), document_.plan(), nullptr};
    a.plan.changes.clear();
    a.plan.name.clear();
    // Of the question only how one travels matters, and from stop to stop nobody travels the other way.
    a.question.towards = service::Towards::demand;
    a.question.demand.clear();
    a.question.sites.clear();
    a.question.serving = service::Nearest{a.question.measure()};
    a.question.name.clear();
    a.question.standard.reset();
    a.question.reach = {};
    a.question.zones.clear();
    a.question.limit.reset();
    a.question.own_limits = false;
    return a;
}

void RoutePlanner::follow() {
    const Asked now = asked();
    if (last_ && last_->route == now.route && last_->network == now.network && last_->question == now.question &&
        last_->plan == now.plan)
        return;
    ask();
}

void RoutePlanner::set_shown(bool shown) {
    if (shown == shown_) return;
    shown_ = shown;
    emit stops_changed();
    ask();
}

void RoutePlanner::ask() {
    last_ = asked();
    if (!this->shown() || last_->route.stops.size() < 2 || !last_->network) {
        again_ = false;
        found_.reset();
        trouble_.clear();
        emit changed();
        return;
    }
    if (busy_) {
        again_ = true;  // when what is under way has ended
        return;
    }
    run(*last_);
}

std::shared_ptr<const service::Ready> RoutePlanner::make_ready(const Asked& a, Kept& kept, const Task& task) {
    if (kept.ready && kept.network == a.network && kept.question == a.question && kept.closures == a.plan.closures)
        return kept.ready;
    const service::Ready* earlier = a.base && a.base->inputs.network == a.network ? a.base.get() : nullptr;
    const auto today =
        prepare({a.network, std::make_shared<const places::DemandSet>(), std::make_shared<const places::SiteSet>()},
                a.question, earlier, task);
    kept = {a.network, a.question, a.plan.closures, under_closures(*today, a.plan, task), nullptr};
    return kept.ready;
}

void RoutePlanner::run(const Asked& wanted) {
    busy_ = true;
    again_ = false;
    Asked a = wanted;
    if (const auto shown = answers_.shown()) a.base = shown->ready;
    work_.run(
        [this, a = std::move(a), kept = kept_](const Task& task) -> Background::Then {
            const auto ready = make_ready(a, *kept, task);
            // What answers were prepared with serves ways as well, as long as it is of the same roads.
            if (a.base && a.base->graph == ready->graph) kept->prepared = a.base->prepared;
            std::vector<geo::LonLat> at;
            for (const auto& s : a.route.stops) at.push_back(s.at);
            auto found = std::make_shared<Found>();
            found->route = a.route;
            found->way = itinerary(*ready, kept->prepared.get(), at, {a.best, a.route.round}, task);
            return [this, found, best = a.best, network = a.network] {
                if (best && found->route == document_.study().route) {
                    auto order = found->way.order;
                    if (found->route.round) order.pop_back();
                    set_order(order);
                } else if (!best && shown() && route().stops.size() > 1 && last_ && last_->network == network) {
                    found_ = found;
                    trouble_.clear();
                }
                ended();
            };
        },
        [this, best = wanted.best](const QString& why) {
            if (best) {
                if (!why.isEmpty()) emit failed(why);
            } else if (!again_) {
                found_.reset();
                trouble_ = why.isEmpty() ? tr("The way was not found: it was stopped.") : why;
            }
            ended();
        });
    emit changed();
}

void RoutePlanner::ended() {
    busy_ = false;
    if (again_) ask();
    emit changed();
}

void RoutePlanner::edit(const QString& what, const std::function<void(service::Route&)>& change) {
    tried_.reset();
    document_.edit(what, [&](service::Study& s) { change(s.route); });
}

void RoutePlanner::add(const std::vector<service::Stop>& stops) {
    edit(tr("add stops"), [&](service::Route& r) { r.stops.insert(r.stops.end(), stops.begin(), stops.end()); });
}

void RoutePlanner::take_out(std::size_t stop) {
    edit(tr("remove a stop"), [&](service::Route& r) {
        if (stop < r.stops.size()) r.stops.erase(r.stops.begin() + static_cast<std::ptrdiff_t>(stop));
    });
}

void RoutePlanner::move_to(std::size_t stop, geo::LonLat at) {
    edit(tr("move a stop"), [&](service::Route& r) {
        if (stop < r.stops.size()) r.stops[stop].at = at;
    });
}

void RoutePlanner::reorder(std::size_t from, std::size_t to) {
    edit(tr("order of stops"), [&](service::Route& r) {
        if (from >= r.stops.size() || to >= r.stops.size()) return;
        auto moved = r.stops[from];
        r.stops.erase(r.stops.begin() + static_cast<std::ptrdiff_t>(from));
        r.stops.insert(r.stops.begin() + static_cast<std::ptrdiff_t>(to), std::move(moved));
    });
}

void RoutePlanner::set_order(const std::vector<std::size_t>& order) {
    edit(tr("order of stops"), [&](service::Route& r) {
        if (order.size() != r.stops.size()) return;
        std::vector<service::Stop> stops;
        for (const std::size_t i : order) stops.push_back(r.stops[i]);
        r.stops = std::move(stops);
    });
}

void RoutePlanner::set_round(bool round) {
    edit(tr("round"), [&](service::Route& r) { r.round = round; });
}

void RoutePlanner::clear() {
    edit(tr("remove the route"), [](service::Route& r) { r = {}; });
}

void RoutePlanner::put_in_best_order() {
    if (busy_ || route().stops.size() < 2) return;
    Asked a = asked();
    if (!a.network) return;
    a.best = true;
    run(a);
}

void RoutePlanner::try_out(std::size_t stop, geo::LonLat at) {
    service::Route r = document_.study().route;
    if (stop >= r.stops.size()) return;
    r.stops[stop].at = at;
    tried_ = std::move(r);
    emit stops_changed();
    ask();
}

void RoutePlanner::give_up_trial() {
    if (!tried_) return;
    tried_.reset();
    emit stops_changed();
    ask();
}

void RoutePlanner::stop_working() {
    again_ = false;
    work_.stop();
}

}  // namespace otoro::desktop
