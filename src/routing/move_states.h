#pragma once
/// \file
/// What must be remembered of the roads travelled to know which may come next.
///
/// \par Problem
/// Where turning costs, a graph's nodes are ways of links: the last road alone decides what a turn costs. Where a path
/// over several roads is forbidden as a whole (a restriction over a way), it does not: who came onto the middle road
/// from elsewhere may go on as they like.
///
/// \par Method
/// The ways of forbidden paths form a tree of prefixes. Every way has its plain state, which is also that of a path's
/// first way; each longer prefix that is not yet the whole path is a further state of its last way. Going on leads to
/// the longest prefix that what was travelled ends in (Aho, Corasick 1975); to the end of a path nobody goes.
///
/// \par Cost
/// Nothing where there are no such paths; else one further state a way inside a path, and a look into a map for moves
/// from ways that are part of one.
#include <cstdint>
#include <map>
#include <span>
#include <unordered_map>
#include <vector>

#include "roads/network.h"
#include "routing/graph.h"

namespace otoro::routing {

class MoveStates {
public:
    MoveStates() = default;
    explicit MoveStates(const roads::Network& network);
    /// Those of a traveller who heeds no forbidden paths.
    static MoveStates plain(const roads::Network& network) {
        MoveStates out;
        out.plain_ = 2 * network.link_count();
        return out;
    }

    /// Plain states, numbered as ways are (`LinkWay::bits`), and behind them the further ones.
    [[nodiscard]] std::uint32_t count() const { return plain_ + static_cast<std::uint32_t>(further_.size()); }
    [[nodiscard]] bool only_plain() const { return further_.empty(); }
    [[nodiscard]] LinkWay way_of(std::uint32_t state) const {
        return state < plain_ || further_.empty() ? LinkWay{state} : further_[state - plain_].back();
    }
    /// The state after going on from one onto a way; `kNowhere` where that would complete a forbidden path. \pre `next`
    /// starts where the state's way ends
    [[nodiscard]] std::uint32_t after(std::uint32_t state, LinkWay next) const;
    /// The further states of a way; none for nearly all.
    [[nodiscard]] std::span<const std::uint32_t> further(LinkWay way) const;
    /// Calls `use(state)` for every state of a way, the plain one first.
    template <class Use>
    void each_of(LinkWay way, Use&& use) const {
        use(way.bits);
        for (const std::uint32_t s : further(way)) use(s);
    }
    /// Links that have further states, ascending.
    [[nodiscard]] const std::vector<LinkId>& links() const { return links_; }

    static constexpr std::uint32_t kNowhere = 0xffffffff;

private:
    std::uint32_t plain_ = 0;
    std::vector<std::vector<LinkWay>> further_;  ///< the prefix of each further state
    std::map<std::vector<std::uint32_t>, std::uint32_t>
        prefixes_;              ///< of two ways and more: their state, `kNowhere` where a path is complete
    std::vector<bool> begins_;  ///< ways that a path begins with
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> of_way_;
    std::vector<LinkId> links_;
};

}  // namespace otoro::routing
