#include "routing/move_states.h"

#include <algorithm>

namespace otoro::routing {

MoveStates::MoveStates(const roads::Network& network) : plain_(2 * network.link_count()) {
    const auto& paths = network.lines().banned_paths;
    if (paths.empty()) return;
    begins_.assign(plain_, false);
    for (const auto& path : paths) {
        begins_[path.front().bits] = true;
        std::vector<std::uint32_t> prefix{path.front().bits};
        for (std::size_t i = 1; i < path.size(); ++i) {
            prefix.push_back(path[i].bits);
            if (i + 1 == path.size())
                prefixes_[prefix] = kNowhere;
            else
                prefixes_.try_emplace(prefix, 0);
        }
    }
    for (auto& [prefix, state] : prefixes_) {
        if (state == kNowhere) continue;
        state = count();
        auto& ways = further_.emplace_back();
        for (const std::uint32_t bits : prefix) ways.push_back({bits});
        of_way_[prefix.back()].push_back(state);
        links_.push_back(LinkWay{prefix.back()}.link());
    }
    std::sort(links_.begin(), links_.end());
    links_.erase(std::unique(links_.begin(), links_.end()), links_.end());
}

std::uint32_t MoveStates::after(std::uint32_t state, LinkWay next) const {
    if (prefixes_.empty()) return next.bits;
    std::vector<std::uint32_t> travelled;
    if (state < plain_) {
        if (!begins_[state]) return next.bits;
        travelled.push_back(state);
    } else {
        for (const LinkWay way : further_[state - plain_]) travelled.push_back(way.bits);
    }
    travelled.push_back(next.bits);
    // The longest prefix that this ends in; and should any end of it complete a path, nowhere.
    std::uint32_t longest = next.bits;
    bool found = false;
    while (travelled.size() > 1) {
        if (const auto at = prefixes_.find(travelled); at != prefixes_.end()) {
            if (at->second == kNowhere) return kNowhere;
            if (!found) longest = at->second;
            found = true;
        }
        travelled.erase(travelled.begin());
    }
    return longest;
}

std::span<const std::uint32_t> MoveStates::further(LinkWay way) const {
    if (of_way_.empty()) return {};
    const auto at = of_way_.find(way.bits);
    return at == of_way_.end() ? std::span<const std::uint32_t>() : std::span(at->second);
}

}  // namespace otoro::routing
