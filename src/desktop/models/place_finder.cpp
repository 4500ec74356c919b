#include "desktop/models/place_finder.h"

#include <algorithm>
#include <unordered_set>

#include "desktop/words.h"

namespace otoro::desktop {
namespace {

class Looking {
public:
    Looking(const FindIn& in, const QString& text) : answer_(in.answer), study_(in.study), text_(text) {}

    std::vector<Match> all() {
        sites();
        demand(true);
        if (out_.empty()) demand(false);
        roads();
        return std::move(out_);
    }

private:
    [[nodiscard]] bool part_of(const std::string& name) const {
        return plain(name).contains(text_, Qt::CaseInsensitive);
    }
    [[nodiscard]] bool whole(const std::string& id) const {
        return id.size() >= static_cast<std::size_t>(text_.size()) &&
               plain(id).compare(text_, Qt::CaseInsensitive) == 0;
    }
    void add(Match m) {
        if (out_.size() < kMostFound) out_.push_back(std::move(m));
    }

    void sites() {
        const auto& asked = study_.question().sites;
        if (answer_) {
            for (std::uint32_t i = 0; i < answer_->outcome.sites.size(); ++i) {
                const auto& s = answer_->outcome.sites[i].planned.site;
                if (s.position && (part_of(s.name) || whole(s.id)))
                    add({Match::Kind::site, *s.position, plain(service::label(s)),
                         plain(answer_->outcome.sites[i].planned.set), i, true});
            }
        }
        for (const auto& in : study_.sites) {
            if (answer_ && std::find(asked.begin(), asked.end(), in.set->name) != asked.end()) continue;
            for (const auto& s : in.set->sites)
                if (s.position && (part_of(s.name) || whole(s.id)))
                    add({Match::Kind::site, *s.position, plain(service::label(s)), plain(in.set->name), 0, false});
        }
    }

    void demand(bool exact) {
        const auto asked = study_.demand_of(study_.question());
        const auto of_set = [&](const places::DemandSet& set) {
            for (std::uint32_t i = 0; i < set.count() && out_.size() < kMostFound; ++i) {
                const auto& p = set.places[i];
                if (!p.position || !(exact ? whole(p.id) : part_of(p.id))) continue;
                const auto number = asked.number_of(set.name, i);
                add({Match::Kind::demand, *p.position, plain(p.id), plain(set.name), number.value_or(i),
                     number.has_value()});
            }
        };
        for (const auto& set : asked.sets()) of_set(*set);
        for (const auto& d : study_.demand)
            if (!asked.number_of(d.set->name, 0)) of_set(*d.set);
    }

    void roads() {
        if (!study_.roads) return;
        const auto& network = *study_.roads->network;
        const auto& names = network.lines().names;
        std::unordered_set<std::uint32_t> wanted;
        for (std::uint32_t n = 1; n < names.count(); ++n)
            if (part_of(names.at(n))) wanted.insert(n);
        for (std::uint32_t i = 0; i < network.link_count() && !wanted.empty(); ++i) {
            const std::uint32_t name = network.attributes(LinkId(i)).name;
            if (wanted.erase(name) == 0) continue;
            const auto shape = network.shape(LinkId(i));
            add({Match::Kind::road, shape[shape.size() / 2], plain(names.at(name)), {}, i, false});
        }
    }

    PlanAnswerPtr answer_;
    const service::Study& study_;
    QString text_;
    std::vector<Match> out_;
};

}  // namespace

std::vector<Match> find_places(const FindIn& in, const QString& text) {
    const QString wanted = text.trimmed();
    if (wanted.isEmpty()) return {};
    return Looking(in, wanted).all();
}

}  // namespace otoro::desktop
