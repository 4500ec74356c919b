#include "desktop/models/findings.h"

#include <QCoreApplication>
#include <algorithm>

#include "geo/amounts.h"
#include "service/check.h"

namespace otoro::desktop {
namespace {

QString tr(const char* text) { return QCoreApplication::translate("Findings", text); }
QString plain(const std::string& s) { return QString::fromStdString(s); }

void add_flaws(std::vector<Finding>& out, const service::Origin& origin, const QString& what) {
    Finding aside;
    Finding kept;
    for (const auto& f : origin.flaws) {
        const QString id = f.id.empty() ? QString() : QString(" (%1)").arg(plain(f.id));
        (f.set_aside ? aside : kept).records.push_back(tr("record %1%2: %3").arg(f.record).arg(id, plain(f.wrong)));
    }
    if (!aside.records.empty()) {
        aside.sentence = tr("Records of %1 set aside: %2").arg(what).arg(aside.records.size());
        out.push_back(std::move(aside));
    }
    if (!kept.records.empty()) {
        kept.sentence = tr("Records of %1 kept with a flaw: %2").arg(what).arg(kept.records.size());
        out.push_back(std::move(kept));
    }
}

Finding of_places(const places::DemandSet& set, const std::vector<std::uint32_t>& which, const QString& sentence, const QString& reason) {
    Finding f;
    f.sentence = sentence;
    f.which = which;
    f.places = static_cast<std::uint32_t>(which.size());
    for (const auto i : which) {
        f.weight += set.places[i].weight;
        f.records.push_back(tr("%1: %2").arg(plain(set.places[i].id), reason));
    }
    if (!which.empty()) f.where = set.places[which.front()].position;
    return f;
}

void add_roads(std::vector<Finding>& out, const service::Study& study, const service::RoadReport& roads) {
    if (roads.pieces.size() < 2) return;
    Finding f;
    const auto& network = *study.roads->network;
    f.sentence = tr("The roads are in %1 pieces; all but the largest are cut off").arg(roads.pieces.size());
    for (std::size_t i = 0; i < std::min<std::size_t>(roads.pieces.size(), 50); ++i)
        f.records.push_back(tr("piece %1: %2 roads, %3").arg(i + 1).arg(roads.pieces[i].links).arg(plain(describe(roads.pieces[i].length))));
    const auto second = std::find(roads.piece_of_link.begin(), roads.piece_of_link.end(), 1U);
    if (second != roads.piece_of_link.end()) f.where = network.shape(LinkId(static_cast<std::size_t>(second - roads.piece_of_link.begin()))).front();
    out.push_back(std::move(f));
}

}  // namespace

std::vector<Finding> find_trouble(const service::Study& study, const Task& task) {
    std::vector<Finding> out;
    if (study.roads) {
        add_flaws(out, study.roads->origin, tr("the roads"));
        const auto roads = service::check_roads(*study.roads->network, study.question.profile, task);
        add_roads(out, study, roads);
        const QString limit = plain(describe(study.question.attach_limit));
        if (const auto* d = study.find_demand(study.question.demand)) {
            const auto r = service::check_places(*study.roads->network, roads, places::positions(*d->set), study.question.attach_limit, task);
            const QString name = plain(d->set->name);
            if (!r.not_near.empty())
                out.push_back(of_places(*d->set, r.not_near, tr("No road within %1 that this traveller may use: %2 of the %3").arg(limit).arg(r.not_near.size()).arg(name),
                                        tr("no road near")));
            if (!r.astray.empty())
                out.push_back(of_places(*d->set, r.astray, tr("On roads that are cut off from the rest: %1 of the %2").arg(r.astray.size()).arg(name),
                                        tr("on a piece that is cut off")));
        }
        if (const auto* s = study.find_sites(study.question.sites)) {
            const auto r = service::check_places(*study.roads->network, roads, places::positions(*s->set), study.question.attach_limit, task);
            for (const auto& [which, reason] : {std::pair{r.not_near, tr("no road near")}, std::pair{r.astray, tr("on a piece that is cut off")}}) {
                if (which.empty()) continue;
                Finding f;
                f.sentence = tr("Cannot serve, %1: %2 of the %3").arg(reason).arg(which.size()).arg(plain(s->set->name));
                for (const auto i : which) f.records.push_back(plain(service::label(s->set->sites[i])));
                f.where = s->set->sites[which.front()].position;
                out.push_back(std::move(f));
            }
        }
    }
    for (const auto& d : study.demand) add_flaws(out, d.origin, plain(d.set->name));
    for (const auto& s : study.sites) add_flaws(out, s.origin, plain(s.set->name));
    std::stable_sort(out.begin(), out.end(), [](const Finding& a, const Finding& b) { return a.weight > b.weight; });
    return out;
}

}  // namespace otoro::desktop
