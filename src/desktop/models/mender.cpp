#include "desktop/models/mender.h"

#include <algorithm>

#include "files/bring_in.h"
#include "files/read_heights.h"
#include "service/network_summary.h"

namespace otoro::desktop {

Mender::Mender(Session& session, Background& background, QObject* parent) : QObject(parent), session_(session), background_(background), checks_(this) {
    connect(&session_, &Session::data_changed, this, &Mender::look_again);
    connect(&session_, &Session::question_changed, this, &Mender::look_again);
    connect(&session_, &Session::notes_changed, this, &Mender::look_again);
    // A gap is told as closed before the roads follow; if they do not, it is open after all.
    connect(&background_, &Background::failed, this, &Mender::look_again);
    connect(&background_, &Background::stopped, this, &Mender::look_again);
}

void Mender::look_again() {
    checks_.stop();
    up_to_date_ = false;
    evidence_.clear();
    const auto study = session_.study();
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

void Mender::change(const QString& what, std::function<service::Study(service::Study, const Task&)> work) {
    const auto before = session_.study();
    background_.run([this, what, before, work = std::move(work)](const Task& task) -> Background::Then {
        auto after = std::make_shared<const service::Study>(work(before, task));
        return [this, what, before, after] {
            const auto& now = session_.study();
            const bool roads_kept = now.roads.has_value() == before.roads.has_value() && (!now.roads || now.roads->network == before.roads->network);
            if (!roads_kept || now.demand.size() != before.demand.size() || now.sites.size() != before.sites.size()) return;  // something newer came in between
            session_.edit(what, [&](service::Study& s) {
                s.roads = after->roads;
                s.demand = after->demand;
                s.sites = after->sites;
            });
        };
    });
}

void Mender::mend(service::Mend mend, const QString& what) {
    if (const auto* close = std::get_if<service::CloseGaps>(&mend); close && close->gaps.size() == 1 && checked_ && up_to_date_) {
        const auto gap = std::find_if(checked_->gaps.begin(), checked_->gaps.end(), [&](const roads::Gap& g) { return g.closing == close->gaps[0]; });
        if (gap != checked_->gaps.end()) {
            checks_.run([this, before = checked_, study = session_.study(), gap = *gap, looked = ++looked_](const Task&) -> Background::Then {
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
    change(what, [mend = std::move(mend)](service::Study s, const Task& task) {
        if (const auto* again = std::get_if<service::ReadAgain>(&mend)) return files::read_again(std::move(s), *again, task);
        return service::mended(std::move(s), mend, task);
    });
}

void Mender::accept(const service::Finding& finding, const QString& note) {
    session_.edit(tr("accept a finding"), [&](service::Study& s) { s.accepted[finding.key()] = note.toStdString(); });
}

void Mender::reopen(const service::Finding& finding) {
    session_.edit(tr("take a finding up again"), [&](service::Study& s) { s.accepted.erase(finding.key()); });
}

void Mender::set_join_rule(roads::JoinRule rule) {
    if (!session_.study().roads || session_.study().roads->preparation.rule == rule) return;
    change(tr("how roads join"), [rule](service::Study s, const Task& task) {
        auto preparation = s.roads->preparation;
        preparation.rule = rule;
        s.roads = service::roads_in(s.roads->lines, std::move(preparation), s.roads->origin, task);
        return s;
    });
}

void Mender::take_heights(const QString& path) {
    if (!session_.study().roads) return;
    change(tr("heights"), [path = path.toStdString()](service::Study s, const Task& task) {
        s.roads = service::roads_in(files::with_heights(*s.roads->lines, path, task), s.roads->preparation, s.roads->origin, task);
        return s;
    });
}

void Mender::reopen_gap(const roads::ClosedGap& gap) {
    change(tr("open a gap again"), [gap](service::Study s, const Task& task) {
        auto preparation = s.roads->preparation;
        std::erase(preparation.closed, gap);
        s.roads = service::roads_in(s.roads->lines, std::move(preparation), s.roads->origin, task);
        return s;
    });
}

void Mender::set_gap_tolerance(Millimetres tolerance) {
    session_.edit(tr("tolerance for gaps"), [&](service::Study& s) { s.gap_tolerance = tolerance; });
}

void Mender::compare_rules() {
    if (!session_.study().roads || !evidence_.empty()) return;
    const auto study = session_.study();
    checks_.run([this, study](const Task& task) -> Background::Then {
        auto evidence = service::compare_join_rules(study, task);
        return [this, study, evidence = std::move(evidence)] {
            if (!session_.study().roads || session_.study().roads->network != study.roads->network) return;
            evidence_ = evidence;
            emit evidence_changed();
        };
    });
}

QString Mender::summary() const {
    return checked_ ? QString::fromStdString(service::network_summary(session_.study(), *checked_)) : QString();
}

}  // namespace otoro::desktop
