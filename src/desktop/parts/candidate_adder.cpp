#include "desktop/parts/candidate_adder.h"

#include <QMenu>

#include "desktop/words.h"
#include "geo/error.h"
#include "service/candidate_spots.h"

namespace otoro::desktop {
namespace {

/// As many as can be seen and gone through; the command line takes more.
constexpr std::size_t kMostInTheWindow = 5'000;

}  // namespace

CandidateAdder::CandidateAdder(Session& session, QObject* parent) : QObject(parent), session_(session), work_(this) {
    connect(&work_, &WorkedOutSignals::changed, this, [this] {
        if (!work_.busy() && work_.found()) take();
        emit changed();
    });
    connect(&work_, &WorkedOutSignals::failed, this, &CandidateAdder::trouble);
    // What was wanted of a study is not put into another.
    connect(&session_.document, &Document::settled, this, [this](Changes changes) {
        if (changes.document) work_.forget();
    });
}

void CandidateAdder::add_actions_to(QMenu& menu) {
    for (const double metres : {250.0, 500.0, 1'000.0, 2'000.0}) {
        const auto spacing = Millimetres::metres(metres);
        menu.addAction(tr("On a grid of %1").arg(long_length(spacing)), this,
                       [this, spacing] { add(Where::grid, spacing); });
    }
    menu.addAction(tr("At every junction"), this, [this] { add(Where::junctions); });
    menu.addAction(tr("Wherever demand stands"), this, [this] { add(Where::demand); });
}

void CandidateAdder::add(Where where, Millimetres spacing) {
    const auto inputs = session_.document.study().inputs();
    if (!inputs) return;
    work_.ask([inputs = *inputs, where, spacing](const Task& task) {
        task.at("finding spots", 0);
        auto spots = where == Where::grid        ? service::grid_candidates(inputs.demand, spacing)
                     : where == Where::junctions ? service::junction_candidates(*inputs.network)
                                                 : service::demand_candidates(inputs.demand);
        task.check();
        if (spots.sites.size() > kMostInTheWindow)
            throw InputError({"", std::nullopt,
                              QString("%1 spots are more than can be gone through here")
                                  .arg(number(spots.sites.size()))
                                  .toStdString(),
                              "Choose a wider grid, or ask otoro-batch locate"});
        // Attached as the sites are that there are.
        if (!inputs.sites.sets().empty()) spots.attaching.rule = inputs.sites.sets().front()->attaching.rule;
        return std::make_shared<const places::SiteSet>(std::move(spots));
    });
}

void CandidateAdder::take() {
    const auto spots = work_.found();
    const std::size_t count = spots->sites.size();
    session_.document.edit(tr("%1 candidates").arg(number(count)), [&](service::Study& s) {
        service::SitesIn in;
        in.set = spots;
        in.origin.description = "made here";
        in = renamed(std::move(in), set_names(s, service::SetKind::sites));
        const std::string name = in.set->name;
        s = with_sites(std::move(s), std::move(in));
        auto& asked = s.question().sites;
        if (std::find(asked.begin(), asked.end(), name) == asked.end()) asked.push_back(name);
    });
    work_.forget();
}

}  // namespace otoro::desktop
