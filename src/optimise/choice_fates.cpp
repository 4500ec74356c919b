#include "optimise/choice_fates.h"

#include <algorithm>

namespace otoro::optimise {

ChoiceFates::ChoiceFates(const RuleBook& rules) : rules_(rules), fate_(rules.n, Fate::open) {
    for (std::uint32_t c = 0; c < rules.n; ++c)
        if (rules.never[c] != 0) fate_[c] = Fate::out;
}

bool ChoiceFates::decide(std::uint32_t c, Fate fate, Columns& decided) {
    if (fate_[c] == fate) return true;
    if (fate_[c] != Fate::open) return false;
    fate_[c] = fate;
    decided.push_back(c);
    if (fate != Fate::chosen) return true;
    spent_ += rules_.cost[c];
    if (spent_ > rules_.room) return false;
    return std::all_of(rules_.against[c].begin(), rules_.against[c].end(),
                       [&](std::uint32_t other) { return decide(other, Fate::out, decided); });
}

void ChoiceFates::undo(const Columns& decided) {
    for (const std::uint32_t c : decided) {
        if (fate_[c] == Fate::chosen) spent_ -= rules_.cost[c];
        fate_[c] = Fate::open;
    }
}

bool ChoiceFates::follow_up(Columns& decided) {
    for (bool again = true; again;) {
        again = false;
        for (std::uint32_t c = 0; c < rules_.n; ++c)
            if (fate_[c] == Fate::open && spent_ + rules_.cost[c] > rules_.room) decide(c, Fate::out, decided);
        for (const Group& group : rules_.groups) {
            const Wide wanted = still_wanted(group);
            if (wanted == 0) continue;
            Columns open;
            for (const std::uint32_t c : group.columns)
                if (fate_[c] == Fate::open) open.push_back(c);
            if (static_cast<Wide>(open.size()) < wanted || (rules_.counting && rules_.room - spent_ < wanted))
                return false;
            if (static_cast<Wide>(open.size()) == wanted) {
                for (const std::uint32_t c : open)
                    if (!decide(c, Fate::chosen, decided)) return false;
                again = true;
            } else if (rules_.counting && rules_.room - spent_ == wanted) {
                for (std::uint32_t c = 0; c < rules_.n; ++c) {
                    if (fate_[c] != Fate::open || RuleBook::is_of(group, c)) continue;
                    decide(c, Fate::out, decided);
                    again = true;
                }
            }
        }
    }
    return true;
}

Wide ChoiceFates::still_wanted(const Group& group) const {
    const auto has = std::count_if(group.columns.begin(), group.columns.end(),
                                   [&](std::uint32_t c) { return fate_[c] == Fate::chosen; });
    return std::max<Wide>(0, static_cast<Wide>(group.least) - static_cast<Wide>(has));
}

const Group* ChoiceFates::leading() const {
    const Group* out = nullptr;
    Wide most = 0;
    if (rules_.counting)
        for (const Group& group : rules_.groups)
            if (const Wide wanted = still_wanted(group); wanted > most) {
                most = wanted;
                out = &group;
            }
    return out;
}

bool ChoiceFates::any_open() const { return std::find(fate_.begin(), fate_.end(), Fate::open) != fate_.end(); }
Columns ChoiceFates::open() const {
    Columns out;
    for (std::uint32_t c = 0; c < rules_.n; ++c)
        if (fate_[c] == Fate::open) out.push_back(c);
    return out;
}

Columns ChoiceFates::chosen() const {
    Columns out;
    for (std::uint32_t c = 0; c < rules_.n; ++c)
        if (fate_[c] == Fate::chosen) out.push_back(c);
    return out;
}

}  // namespace otoro::optimise
