#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <numeric>
#include <string_view>
#include <unordered_map>

#include "geo/edge_index.h"
#include "geo/ellipsoid.h"
#include "geo/local_frame.h"
#include "service/telling.h"

namespace otoro::service {
void tell_flaws(std::vector<Finding>& out, const Origin& origin, const SetName& about, const View* demand) {
    Finding aside, flawed;
    aside.kind = FindingKind::records_set_aside;
    flawed.kind = FindingKind::records_flawed;
    for (const Flaw& f : origin.flaws) {
        if (f.kind == FlawKind::id_missing || f.kind == FlawKind::id_duplicate || f.kind == FlawKind::weight ||
            f.kind == FlawKind::word || f.kind == FlawKind::no_time || f.kind == FlawKind::doubtful_time)
            continue;  // told on their own, below
        Finding& to = f.set_aside ? aside : flawed;
        to.count += static_cast<std::uint32_t>(records_of(f));
        const Weight w = demand && f.place && *f.place < demand->count() ? demand->weight(*f.place) : Weight();
        if (f.place && demand) {
            ++to.places;
            to.weight += w;
        }
        to.items.push_back(
            {fmt::format("record {}{}: {}", f.record + 1, f.id.empty() ? "" : " (" + f.id + ")", f.wrong), std::nullopt,
             f.place, w, std::nullopt});
        if (f.more > 0)
            to.items.push_back({fmt::format("... and {} later ones of the same kind",
                                            plural(static_cast<std::uint64_t>(f.more), "record", "records")),
                                std::nullopt,
                                std::nullopt,
                                {},
                                std::nullopt});
    }
    for (Finding* f : {&aside, &flawed}) {
        if (f->count == 0) continue;
        f->about = about.kind == SetKind::roads ? "roads" : about.name;
        f->of = about.kind;
        f->sentence = fmt::format("{} of {} {}", plural(f->count, "record", "records"),
                                  about.kind == SetKind::roads ? "the roads" : about.name,
                                  f == &aside ? "skipped" : "kept, with something put right");
        sort_items(*f);
        out.push_back(std::move(*f));
    }
}

/// Words of the roads that mean nothing here.
void tell_road_words(std::vector<Finding>& out, const Origin& origin) {
    Finding f;
    f.kind = FindingKind::road_words;
    f.about = "roads";
    std::uint64_t records = 0;
    for (const Flaw& flaw : origin.flaws) {
        if (flaw.kind != FlawKind::word) continue;
        records += static_cast<std::uint64_t>(records_of(flaw));
        f.items.push_back({flaw.wrong, std::nullopt, std::nullopt, {}, std::nullopt});
    }
    f.count = static_cast<std::uint32_t>(f.items.size());
    if (f.count == 0) return;
    // What it comes to, without what can be done about it.
    const std::string& first = f.items.front().text;
    f.sentence =
        f.items.size() == 1
            ? first.substr(0, first.find(':'))
            : fmt::format(
                  "{} have a class, a one-way rule or something else that is missing or not known here, in {} words",
                  plural(records, "road", "roads"), f.items.size());
    out.push_back(std::move(f));
}

void tell_weights(std::vector<Finding>& out, const View& v) {
    std::vector<std::uint32_t> which;
    std::map<std::uint32_t, std::string> why;
    std::uint64_t more = 0;
    for (const Flaw& f : v.origin->flaws) {
        if (f.kind != FlawKind::weight || !f.place || *f.place >= v.count()) continue;
        which.push_back(*f.place);
        why[*f.place] = f.wrong;
        more += static_cast<std::uint64_t>(f.more);
    }
    if (which.empty()) return;
    auto f = of_places(
        FindingKind::weights, v, which,
        fmt::format("{} of the {} {} no usable weight and {} as 0", plural(which.size() + more, "place", "places"),
                    v.name, which.size() == 1 ? "has" : "have", which.size() == 1 ? "counts" : "count"),
        [&](std::uint32_t i) { return why[i]; });
    f.fix = GiveWeight{v.set_name(), which, Weight::one()};
    f.count += static_cast<std::uint32_t>(more);
    f.fix_label = more > 0 ? fmt::format("Count the first {} as 1",
                                         describe(Weight(static_cast<std::int64_t>(which.size()) * 1'000'000)))
                           : std::string("Count as 1");
    out.push_back(std::move(f));
}

void tell_ids(std::vector<Finding>& out, const View& v) {
    std::unordered_map<std::string_view, std::uint32_t> first;
    first.reserve(v.count());
    std::vector<std::uint32_t> which;
    for (std::uint32_t i = 0; i < v.count(); ++i)
        if (v.id(i).empty() || !first.try_emplace(v.id(i), i).second) which.push_back(i);
    if (which.empty()) return;
    auto f = of_places(FindingKind::ids, v, which,
                       fmt::format("{} of the {} {} no id of {} own", plural(which.size(), "record", "records"), v.name,
                                   which.size() == 1 ? "has" : "have", which.size() == 1 ? "its" : "their"),
                       [&](std::uint32_t i) {
                           return v.id(i).empty()
                                      ? std::string("its id is empty")
                                      : fmt::format("its id is also that of record {}", first.at(v.id(i)) + 1);
                       });
    f.fix = MakeIdsDistinct{v.set_name()};
    f.fix_label = "Make ids distinct";
    out.push_back(std::move(f));
}

}  // namespace otoro::service
