#include "desktop/models/fixer.h"

#include <algorithm>

#include "files/add_data.h"
#include "files/read_heights.h"
#include "service/network_summary.h"

namespace otoro::desktop {

namespace {

const std::vector<places::DemandPlace>& records_of(const places::DemandSet& set) { return set.places; }
const std::vector<places::Site>& records_of(const places::SiteSet& set) { return set.sites; }

/// Whether a set is as it was but for places added at its end: what is known by number still holds.
template <class In>
bool same_records(const std::vector<In>& then, const std::vector<In>& now, const std::string& name) {
    const auto find = [&](const std::vector<In>& all) {
        return std::find_if(all.begin(), all.end(), [&](const In& in) { return in.set->name == name; });
    };
    const auto a = find(then), b = find(now);
    if (a == then.end() || b == now.end()) return a == then.end() && b == now.end();
    const auto& x = records_of(*a->set);
    const auto& y = records_of(*b->set);
    return x.size() <= y.size() &&
           std::equal(x.begin(), x.end(), y.begin(), [](const auto& p, const auto& q) { return p.id == q.id; });
}

/// Puts the parts of `after` that differ from `before` into `now`. False if one of them was changed there too.
template <class In>
bool merge_sets(std::vector<In>& now, const std::vector<In>& before, const std::vector<In>& after) {
    const auto find = [](auto& all, const std::string& name) {
        return std::find_if(all.begin(), all.end(), [&](const In& in) { return in.set->name == name; });
    };
    for (const In& changed : after) {
        const auto was = find(before, changed.set->name);
        if (was != before.end() && was->set == changed.set) continue;
        const auto is = find(now, changed.set->name);
        if (was == before.end() || is == now.end() || is->set != was->set) return false;
        *is = changed;
    }
    return true;
}

const roads::Network* network_of(const service::Study& s) { return s.roads ? s.roads->network.get() : nullptr; }
const roads::Lines* lines_of(const service::Study& s) { return s.roads ? s.roads->lines.get() : nullptr; }

/// Whether what a fix names by number is still the same.
bool still_fits(const service::Fix& fix, const service::Study& then, const service::Study& now) {
    if (std::holds_alternative<service::CloseGaps>(fix) || std::holds_alternative<service::UseSpeeds>(fix))
        return lines_of(then) == lines_of(now);
    return std::visit(
        [&](const auto& m) {
            if constexpr (requires { m.set; })
                return m.set.kind == service::SetKind::demand ? same_records(then.demand, now.demand, m.set.name)
                                                              : same_records(then.sites, now.sites, m.set.name);
            else
                return true;
        },
        fix);
}

}  // namespace

Fixer::Fixer(Session& session, Jobs& jobs, QObject* parent)
    : QObject(parent), session_(session), fixing_(jobs.fixing), checks_(this) {
    connect(&session_.document, &Document::data_changed, this, &Fixer::look_again);
    connect(&session_.document, &Document::question_changed, this, &Fixer::look_again);
    connect(&session_.document, &Document::notes_changed, this, &Fixer::look_again);
    // A gap is told as closed before the roads follow; if they do not, it is open after all.
    connect(&fixing_, &Background::failed, this, &Fixer::look_again);
    connect(&fixing_, &Background::stopped, this, &Fixer::look_again);
}

void Fixer::look_again() {
    checks_.stop();
    up_to_date_ = false;
    evidence_.clear();
    const auto study = session_.document.study();
    checks_.run([this, study, looked = ++looked_](const Task& task) -> Background::Then {
        const auto checked = service::check_study(study, task);
        auto findings = service::findings_of(study, *checked);
        files::suggest_crs(findings, study);
        return [this, looked, checked, findings = std::move(findings)] {
            if (looked != looked_) return;  // something newer is being looked at
            checked_ = checked;
            findings_ = findings;
            up_to_date_ = true;
            emit findings_changed();
        };
    });
}

void Fixer::change(const QString& what, Work work, Still still) {
    fixing_.run([this, what, document = session_.document.point().document, before = session_.document.study(),
                 work = std::move(work), still = std::move(still)](const Task& task) -> Background::Then {
        auto after = std::make_shared<const service::Study>(work(before, task));
        return [this, what, document, before, after, work, still] {
            if (document == session_.document.point().document)
                take_over(what, work, still, before, *after);  // another study's fix is nobody's
        };
    });
}

void Fixer::take_over(const QString& what, const Work& work, const Still& still, const service::Study& before,
                      const service::Study& after) {
    service::Study merged = session_.document.study();
    bool fits = true;
    if (network_of(before) != network_of(after)) {
        fits = network_of(merged) == network_of(before);
        merged.roads = after.roads;
    }
    fits = fits && merge_sets(merged.demand, before.demand, after.demand) &&
           merge_sets(merged.sites, before.sites, after.sites);
    if (fits) {
        session_.document.edit(what, [&](service::Study& s) {
            s.roads = merged.roads;
            s.demand = merged.demand;
            s.sites = merged.sites;
        });
    } else if (session_.document.study().roads && (!still || still(before, session_.document.study()))) {
        change(what, work, still);
    } else {
        emit outdated(what);
        look_again();
    }
}

void Fixer::fix(service::Fix fix, const QString& what) {
    if (const auto* close = std::get_if<service::CloseGaps>(&fix);
        close && close->gaps.size() == 1 && checked_ && up_to_date_) {
        const auto gap = std::find_if(checked_->gaps.begin(), checked_->gaps.end(),
                                      [&](const roads::Gap& g) { return g.closing == close->gaps[0]; });
        if (gap != checked_->gaps.end()) {
            checks_.run([this, before = checked_, study = session_.document.study(), gap = *gap,
                         looked = ++looked_](const Task&) -> Background::Then {
                const auto checked = service::after_closing(*before, study, gap);
                auto findings = service::findings_of(study, *checked);
                files::suggest_crs(findings, study);
                return [this, looked, checked, findings = std::move(findings)] {
                    if (looked != looked_) return;
                    checked_ = checked;
                    findings_ = findings;
                    emit findings_changed();
                };
            });
        }
    }
    change(
        what,
        [fix](service::Study s, const Task& task) {
            if (const auto* again = std::get_if<service::ReadAgain>(&fix))
                return files::read_again(std::move(s), *again, task);
            return service::fixed(std::move(s), fix, task);
        },
        [fix](const service::Study& then, const service::Study& now) { return still_fits(fix, then, now); });
}

void Fixer::accept(const service::Finding& finding, const QString& note) {
    session_.document.edit(tr("accept a finding"),
                           [&](service::Study& s) { s.accepted[finding.key()] = note.toStdString(); });
}

void Fixer::reopen(const service::Finding& finding) {
    session_.document.edit(tr("reopen a finding"), [&](service::Study& s) {
        s.accepted.erase(finding.key());
        s.accepted.erase(finding.earlier_key());
    });
}

void Fixer::set_join_rule(roads::JoinRule rule) {
    if (!session_.document.study().roads || session_.document.study().roads->preparation.rule == rule) return;
    change(tr("how roads join"), [rule](service::Study s, const Task& task) {
        auto preparation = s.roads->preparation;
        preparation.rule = rule;
        s.roads = service::roads_in(s.roads->lines, std::move(preparation), s.roads->origin, task);
        return s;
    });
}

void Fixer::take_heights(const QString& path) {
    if (!session_.document.study().roads) return;
    change(tr("heights"), [path = path.toStdString()](service::Study s, const Task& task) {
        s.roads = service::roads_in(files::with_heights(*s.roads->lines, path, task), s.roads->preparation,
                                    s.roads->origin, task);
        return s;
    });
}

void Fixer::reopen_gap(const roads::ClosedGap& gap) {
    if (!session_.document.study().roads) return;
    change(
        tr("open a gap again"),
        [gap](service::Study s, const Task& task) {
            auto preparation = s.roads->preparation;
            std::erase(preparation.closed, gap);
            s.roads = service::roads_in(s.roads->lines, std::move(preparation), s.roads->origin, task);
            return s;
        },
        [](const service::Study& then, const service::Study& now) { return lines_of(then) == lines_of(now); });
}

void Fixer::set_gap_tolerance(Millimetres tolerance) {
    session_.document.edit(tr("tolerance for gaps"), [&](service::Study& s) { s.gap_tolerance = tolerance; });
}

void Fixer::compare_rules() {
    if (!session_.document.study().roads || !evidence_.empty()) return;
    const auto study = session_.document.study();
    checks_.run([this, study](const Task& task) -> Background::Then {
        auto evidence = service::compare_join_rules(study, task);
        return [this, study, evidence = std::move(evidence)] {
            if (!session_.document.study().roads || session_.document.study().roads->network != study.roads->network)
                return;
            evidence_ = evidence;
            emit evidence_changed();
        };
    });
}

QString Fixer::summary() const {
    return checked_ ? QString::fromStdString(service::network_summary(session_.document.study(), *checked_))
                    : QString();
}

}  // namespace otoro::desktop
