/// What of reach is shown on the map: from where, how far, compared with what.
#include <QPainter>
#include <cmath>
#include <utility>

#include "desktop/map/map_view.h"
#include "desktop/theme.h"
#include "service/reach.h"

namespace otoro::desktop {
namespace {

constexpr double kSpotReach = 13;  // px

/// Half the standard's limit, and all of it.
std::vector<Amount> standard_limits(const Amount& limit) {
    std::vector<Amount> out;
    for (const double part : {0.5, 1.0}) {
        const Amount at = service::amount_of(service::count_of(limit) * part, service::measure_of(limit));
        if (out.empty() || out.back() < at) out.push_back(at);
    }
    return out;
}

}  // namespace

std::optional<GroundColours> MapView::ground_colours() const { return style_.look->ground(style_.reach, style_.limit); }

void MapView::set_reach_from(const std::optional<geo::LonLat>& spot) {
    if (spot == reach_from_) return;
    reach_from_ = spot;
    if (spot && style_.look != &reach_look()) style_.look = &reach_look();
    emit style_changed();
    wish();
    update();
}

bool MapView::on_spot(QPointF at) const {
    if (!reach_from_ || !scene_ || style_.look != &reach_look()) return false;
    const QPointF d = screen_of(*reach_from_) - at;
    return std::hypot(d.x(), d.y()) < kSpotReach;
}

/// A ring with a cross in it: where reach is asked from.
void MapView::paint_spot(QPainter& painter) const {
    if (!reach_from_ || style_.look != &reach_look()) return;
    const QPointF at = screen_of(*reach_from_);
    painter.setRenderHint(QPainter::Antialiasing);
    for (const QPen& pen : {QPen(theme::kPaper, 6), QPen(theme::kAccent, 2.4)}) {
        painter.setPen(pen);
        painter.setBrush(pen.widthF() > 5 ? QBrush(theme::kPaper) : QBrush(Qt::NoBrush));
        painter.drawEllipse(at, 9, 9);
        painter.drawLine(at - QPointF(9, 0), at + QPointF(9, 0));
        painter.drawLine(at - QPointF(0, 9), at + QPointF(0, 9));
    }
}

void MapView::set_reach(const ReachStyle& reach) {
    if (reach == style_.reach) return;
    reach_held_ = true;
    style_.reach = reach;
    emit style_changed();
    wish();
    update();
}

void MapView::keep_reach() {
    if (!std::exchange(reach_held_, false)) return;
    service::ReachView view = style_.reach;
    if (view.limits == standard_limits(style_.limit)) view.limits.clear();  // they follow the standard
    session_.document.edit(tr("how reach is looked at"), [&](service::Study& s) { s.question().reach = view; });
}

void MapView::change_reach(const std::function<void(ReachStyle&)>& change) {
    ReachStyle style = style_.reach;
    change(style);
    set_reach(style);
    keep_reach();
}

void MapView::compare_reach(const std::optional<Compared>& with) {
    compared_ = with;
    follow_reach();
    wish();
    update();
}

std::optional<Against> MapView::against() const {
    if (!compared_ || style_.reach.limits.empty()) return std::nullopt;
    const auto& study = session_.document.study();
    if (!compared_->question) {
        const auto* const plan = study.find_plan(compared_->name);
        const auto inputs = study.inputs();
        if (plan == nullptr || !inputs || plan->same_as(session_.document.plan())) return std::nullopt;
        return Against{plan->name, *inputs, study.question(), *plan, style_.reach.limits.back()};
    }
    const auto* const question = study.find_question(compared_->name);
    if (question == nullptr || question == &study.question()) return std::nullopt;
    const auto inputs = study.inputs(*question);
    const bool has_limit = !question->reach.limits.empty() || question->standard;
    if (!inputs || !has_limit || question->demand != study.question().demand) return std::nullopt;
    return Against{question->name, *inputs, *question, session_.document.plan(),
                   question->reach.limits.empty() ? question->standard->limit : question->reach.limits.back()};
}

void MapView::reach_of_site(const std::optional<std::string>& id) {
    one_site_ = id;
    reach_from_.reset();
    if (id) style_.look = &reach_look();
    follow_reach();
    emit style_changed();
    wish();
    update();
}

/// The site that reach is of alone; nothing while it is not in use.
std::optional<SiteIndex> MapView::one_site() const {
    const auto answer = session_.answers.shown();
    if (!one_site_ || !answer) return std::nullopt;
    const auto& sites = answer->outcome.sites;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].planned.site.id == *one_site_) return SiteIndex(i);
    return std::nullopt;
}

std::optional<MapView::Compared> MapView::compared() const { return against() ? compared_ : std::nullopt; }

/// Reach is looked at as the question says, unless a hand is at it.
void MapView::follow_reach() {
    const auto& view = session_.document.question().reach;
    if (!(view == reach_kept_)) reach_held_ = false;
    reach_kept_ = view;
    ReachStyle next = style_.reach;
    if (!reach_held_) {
        static_cast<service::ReachView&>(next) = view;
        if (next.limits.empty()) next.limits = standard_limits(style_.limit);
    }
    next.comparing = against().has_value();
    next.one_site = !next.comparing && one_site().has_value();
    if (next == style_.reach) return;
    style_.reach = next;
    emit style_changed();
}

std::optional<GroundAsked> MapView::ground_asked(bool in_any_look) const {
    const auto answer = session_.answers.shown();
    if (!answer || !answer->ready->ground || style_.reach.limits.empty()) return std::nullopt;
    if (!in_any_look && !ground_colours()) return std::nullopt;
    const auto& study = session_.document.study();
    GroundAsked asked;
    asked.answer = answer;
    asked.uncovered = style_.look == &uncovered_look();
    asked.view = style_.reach;
    asked.standard = style_.limit;
    asked.from = reach_from();
    if (!asked.from) asked.against = against();
    if (const auto site = one_site(); site && style_.reach.one_site && !asked.from) asked.sites = {*site};
    if (study.water) asked.water = study.water->areas;
    asked.zones = study.zones_of(session_.document.question());
    return asked;
}

void MapView::set_found(const GroundFoundPtr& found, bool stale) {
    drawn_found_ = found;
    found_is_stale_ = stale;
    overlay_.set_found(ground_colours() ? found : nullptr, style_, scene_ ? scene_->world() : FlatWorld(), stale);
}

}  // namespace otoro::desktop
