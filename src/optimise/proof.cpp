#include "optimise/proof.h"

#include <algorithm>
#include <stdexcept>

#include "optimise/rule_book.h"

namespace otoro::optimise {

std::size_t Proof::add_plane(const GoalRows::Slope& plane) {
    bytes_ += plane.worth.size() * sizeof(Wide);
    complete_ = complete_ && bytes_ <= kMostBytes;
    if (complete_) planes_.push_back(plane);
    return planes_.size() - 1;
}

class ProofCheck {
public:
    ProofCheck(const Proof& proof, const Claim& claim)
        : proof_(proof), claim_(claim), rules_(claim.rules), bound_(claim.bound) {}

    bool run() {
        if (claim_.known && claim_.rows != nullptr && !planes_hold(*claim_.known)) return false;
        State all;
        all.fate.assign(rules_.n, Fate::open);
        for (std::uint32_t c = 0; c < rules_.n; ++c)
            if (rules_.never[c] != 0) all.fate[c] = Fate::out;
        for (std::uint32_t c = 0; c < rules_.n; ++c)
            if (rules_.required[c] != 0) put(all, c, Fate::chosen);
        return part(std::move(all)) && at_ == proof_.steps_.size();
    }

private:
    struct State {
        std::vector<Fate> fate;
        bool possible = true;
    };
    static void put(State& s, std::uint32_t c, Fate fate) {
        if (s.fate[c] != Fate::open && s.fate[c] != fate) s.possible = false;
        s.fate[c] = fate;
    }
    [[nodiscard]] Wide room_left(const State& s) const {
        Wide left = rules_.room;
        for (std::uint32_t c = 0; c < rules_.n; ++c)
            if (s.fate[c] == Fate::chosen) left -= rules_.cost[c];
        return left;
    }
    [[nodiscard]] static Wide wanted(const State& s, const Group& group) {
        Wide out = group.least;
        for (const std::uint32_t c : group.columns) out -= s.fate[c] == Fate::chosen ? 1 : 0;
        return std::max<Wide>(0, out);
    }
    /// What the rules say of columns that are open, again and again until they say nothing more.
    void follow(State& s) const {
        for (auto before = s.fate; s.possible; before = s.fate) {
            const Wide left = room_left(s);
            if (left < 0) s.possible = false;
            for (std::uint32_t c = 0; c < rules_.n; ++c) {
                if (s.fate[c] == Fate::open && rules_.cost[c] > left) s.fate[c] = Fate::out;
                if (s.fate[c] != Fate::chosen) continue;
                for (const std::uint32_t other : rules_.against[c]) put(s, other, Fate::out);
            }
            for (const Group& group : rules_.groups) {
                const Wide more = wanted(s, group);
                if (more == 0) continue;
                const auto open = std::count_if(group.columns.begin(), group.columns.end(),
                                                [&](std::uint32_t c) { return s.fate[c] == Fate::open; });
                if (open < more || (rules_.counting && room_left(s) < more)) s.possible = false;
                if (open == more)
                    for (const std::uint32_t c : group.columns)
                        if (s.fate[c] == Fate::open) s.fate[c] = Fate::chosen;
                if (rules_.counting && room_left(s) == wanted(s, group))
                    for (std::uint32_t c = 0; c < rules_.n; ++c)
                        if (s.fate[c] == Fate::open && !RuleBook::is_of(group, c)) s.fate[c] = Fate::out;
            }
            if (s.fate == before) return;
        }
    }

    /// The most that any set of this part can be worth under a plane.
    [[nodiscard]] Wide under(const GoalRows::Slope& plane, const State& s) const {
        Wide sum = plane.rest;
        Columns open;
        for (std::uint32_t c = 0; c < rules_.n; ++c) {
            if (s.fate[c] == Fate::chosen) sum += plane.worth[c];
            if (s.fate[c] == Fate::open) open.push_back(c);
        }
        const Wide left = room_left(s);
        if (rules_.counting && left < 0) return sum;
        Wide most =
            rules_.counting
                ? sums(plane, open)[static_cast<std::size_t>(std::min<Wide>(left, static_cast<Wide>(open.size())))]
                : for_money(plane, open, left);
        if (rules_.counting && left < static_cast<Wide>(open.size()))
            for (const Group& group : rules_.groups) most = std::min(most, with_group(plane, open, left, s, group));
        sum += most;
        const Wide over = sum % claim_.grain;
        return sum - (over < 0 ? over + claim_.grain : over);
    }
    /// No more of those outside of the group than leave it the room it wants.
    [[nodiscard]] Wide with_group(const GoalRows::Slope& plane, const Columns& open, Wide left, const State& s,
                                  const Group& group) const {
        Columns inside, outside;
        for (const std::uint32_t c : open) (RuleBook::is_of(group, c) ? inside : outside).push_back(c);
        const auto of_inside = sums(plane, inside), of_outside = sums(plane, outside);
        const auto first = [](const std::vector<Wide>& sum, Wide how_many) {
            return sum[static_cast<std::size_t>(std::min<Wide>(how_many, static_cast<Wide>(sum.size()) - 1))];
        };
        Wide most = 0;
        for (Wide others = 0; others <= left - wanted(s, group); ++others)
            most = std::max(most, first(of_outside, others) + first(of_inside, left - others));
        return most;
    }
    /// What the most valuable none, one, two, ... of some columns are worth.
    [[nodiscard]] static std::vector<Wide> sums(const GoalRows::Slope& plane, Columns of) {
        std::sort(of.begin(), of.end(), [&](auto a, auto b) { return plane.worth[a] > plane.worth[b]; });
        std::vector<Wide> out{0};
        for (const std::uint32_t c : of) out.push_back(out.back() + std::max<Wide>(0, plane.worth[c]));
        return out;
    }
    /// Whole columns by what they bring for their cost, and a part of the first that there is no room for.
    [[nodiscard]] Wide for_money(const GoalRows::Slope& plane, Columns of, Wide left) const {
        const auto cost = [&](std::uint32_t c) { return rules_.cost[c]; };
        std::sort(of.begin(), of.end(), [&](auto a, auto b) {
            if ((cost(a) == 0) != (cost(b) == 0)) return cost(a) == 0;
            return plane.worth[a] * cost(b) > plane.worth[b] * cost(a);
        });
        Wide sum = 0;
        for (const std::uint32_t c : of) {
            if (cost(c) > left) return sum + (plane.worth[c] * left + cost(c) - 1) / cost(c);
            sum += plane.worth[c];
            left -= cost(c);
        }
        return sum;
    }
    [[nodiscard]] Wide of_all_open(const State& s) const {
        std::vector<std::uint8_t> in(rules_.n, 0);
        for (std::uint32_t c = 0; c < rules_.n; ++c) in[c] = s.fate[c] != Fate::out ? 1 : 0;
        return claim_.rows->value_of(in);
    }
    [[nodiscard]] bool planes_hold(const Columns& known) const {
        std::vector<std::uint8_t> in(rules_.n, 0);
        for (const std::uint32_t c : known) in[c] = 1;
        const Wide value = claim_.rows->value_of(in);
        return std::all_of(proof_.planes_.begin(), proof_.planes_.end(), [&](const GoalRows::Slope& plane) {
            Wide sum = plane.rest;
            for (const std::uint32_t c : known) sum += plane.worth[c];
            return sum >= value;
        });
    }

    /// Reads one part to its end. \returns whether no set of it is better than the bound
    bool part(State s) {
        while (at_ < proof_.steps_.size()) {
            follow(s);
            const Proof::Step& step = proof_.steps_[at_++];
            switch (step.kind) {
                case Proof::Kind::settle: {
                    State other = s;
                    put(other, step.column, step.in ? Fate::out : Fate::chosen);
                    follow(other);
                    if (s.possible && other.possible && under(proof_.planes_[step.plane], other) > bound_) return false;
                    put(s, step.column, step.in ? Fate::chosen : Fate::out);
                    break;
                }
                case Proof::Kind::divide: {
                    State first = s;
                    put(first, step.column, step.in ? Fate::chosen : Fate::out);
                    put(s, step.column, step.in ? Fate::out : Fate::chosen);
                    if (!part(std::move(first))) return false;
                    break;  // the other part goes on from here
                }
                case Proof::Kind::plane:
                    return !s.possible || under(proof_.planes_[step.plane], s) <= bound_;
                case Proof::Kind::rules:
                    return !s.possible;
                case Proof::Kind::value:
                    return !s.possible || (claim_.rows != nullptr && of_all_open(s) <= bound_);
            }
        }
        return false;  // it has no end
    }

    const Proof& proof_;
    const Claim& claim_;
    const RuleBook rules_;
    Wide bound_;
    std::size_t at_ = 0;
};

bool shows(const Proof& proof, const Claim& claim) { return proof.complete() && ProofCheck(proof, claim).run(); }

void check(const Proof& proof, const Claim& claim) {
    if (proof.complete() && !ProofCheck(proof, claim).run())
        throw std::logic_error("a set is said to be the best, and the proof does not show it");
}

}  // namespace otoro::optimise
