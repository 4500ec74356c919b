#include "files/osm_turns.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <unordered_map>

#include "geo/error.h"

namespace otoro::files {
namespace {

using LineWays = std::vector<roads::LineWay>;

class TurnsForbidden {
public:
    TurnsForbidden(const std::vector<std::int64_t>& way_of_line, const std::vector<std::int64_t>& nodes,
                   const std::string& path, RoadsRead& out, const Task& task)
        : way_of_line_(way_of_line), nodes_(nodes), path_(path), out_(out), task_(task) {}

    void forbid(const std::vector<OsmRestriction>& all) {
        for (const auto& r : all) {
            for (const auto* ways : {&r.from, &r.to, &r.via_ways})
                for (const auto w : *ways) of_way_[w];
            if (r.via_node)
                if (const auto n = known_index(*r.via_node)) at_node_[*n];
        }
        for (std::uint32_t l = 0; l < out_.lines.count(); ++l)
            if (const auto w = of_way_.find(way_of_line_[l]); w != of_way_.end()) w->second.push_back(l);
        std::vector<std::optional<Over>> over(all.size());
        for (std::size_t i = 0; i < all.size(); ++i) {
            if (all[i].via_ways.empty()) continue;
            looks_left_ = std::min(kMostLooks, looks_of_file_);
            looks_of_file_ -= looks_left_;
            over[i] = over_ways(all[i]);
            if (over[i]) at_node_[over[i]->end];
            if (looks_left_ == 0) too_many_meetings(all[i]);
            looks_of_file_ += looks_left_;
        }
        for (std::uint32_t l = 0; l < out_.lines.count(); ++l) {
            const auto e = out_.lines.named_ends[l];
            for (const std::uint32_t n : {e.from, e.to})
                if (const auto at = at_node_.find(n);
                    at != at_node_.end() && (at->second.empty() || at->second.back() != l))
                    at->second.push_back(l);
        }
        for (std::size_t i = 0; i < all.size(); ++i) {
            const OsmRestriction& r = all[i];
            task_.check();
            if (r.via_ways.empty() ? forbid_at_node(r) : over[i] && forbid_over_ways(r, *over[i])) continue;
            if (!unclear_.contains(r.relation))
                not_obeyed(r, "it forbids a turn between ways that do not meet as it says, or are no roads");
        }
        auto& bans = out_.lines.bans;
        std::sort(bans.begin(), bans.end());
        bans.erase(std::unique(bans.begin(), bans.end()), bans.end());
        auto& paths = out_.lines.banned_paths;
        std::sort(paths.begin(), paths.end());
        paths.erase(std::unique(paths.begin(), paths.end()), paths.end());
    }

private:
    // A relation as people draw them needs some dozens of looks.
    static constexpr std::size_t kMostLooks = 10'000'000, kMostLooksOfAFile = 1'000'000'000, kMostBans = 20'000'000,
                                 kMostLinesOfPaths = 4'000'000;

    void not_obeyed(const OsmRestriction& r, std::string wrong) {
        out_.flaws.push_back({path_, r.record, fmt::format("relation {}", r.relation),
                              std::move(wrong) + "; it is not obeyed", false, FlawKind::restriction, std::nullopt});
    }
    void too_many_meetings(const OsmRestriction& r) {
        if (unclear_.insert(r.relation).second)
            not_obeyed(r, "it forbids a turn between ways that meet in too many places to tell which is meant");
    }

    /// Counts looks, and asks now and then whether to stop. False when a relation has had all of its.
    [[nodiscard]] bool look(std::size_t times = 1) {
        constexpr std::size_t kAsk = 1 << 16U;
        if (looks_left_ / kAsk != (looks_left_ - std::min(looks_left_, times)) / kAsk) task_.check();
        looks_left_ -= std::min(looks_left_, times);
        return looks_left_ > 0;
    }

    void check_forbidden(std::size_t more_bans, std::size_t more_lines) const {
        if (out_.lines.bans.size() + more_bans > kMostBans || lines_of_paths_ + more_lines > kMostLinesOfPaths)
            throw InputError({path_, std::nullopt, "it forbids more turns than any roads have",
                              "Ask for it again; this one was made to fill memory"});
    }

    /// All that leave a node but those.
    [[nodiscard]] LineWays others_from(std::uint32_t node, LineWays those) const {
        LineWays out;
        for (const std::uint32_t l : at_node_.at(node)) leaving_from(l, node, out);
        std::sort(those.begin(), those.end());
        std::erase_if(out, [&](roads::LineWay o) { return std::binary_search(those.begin(), those.end(), o); });
        return out;
    }

    bool forbid_at_node(const OsmRestriction& r) {
        const auto via = known_index(*r.via_node);
        if (!via) return false;
        bool any = false;
        for (const auto from_way : r.from) {
            task_.check();
            for (const auto to_way : r.to) {
                LineWays from, to;
                for (const std::uint32_t l : of_way_[from_way]) coming_to(l, *via, from);
                for (const std::uint32_t l : of_way_[to_way]) leaving_from(l, *via, to);
                any = any || (!from.empty() && !to.empty());
                if (r.only && !to.empty()) to = others_from(*via, std::move(to));
                check_forbidden(from.size() * to.size(), 0);
                for (const auto f : from)
                    for (const auto t : to) {
                        // On a way that runs through the node, turning back is onto the line that one came by, and not
                        // straight on.
                        const bool is_back = f.line() == t.line();
                        if (r.back && from_way == to_way && !is_back) continue;
                        out_.lines.bans.push_back({f, t});
                    }
            }
        }
        return any;
    }

    /// The lines of ways between the way one comes from and the one one goes to.
    struct Over {
        std::uint32_t begin = 0, end = 0;  // nodes
        LineWays lines;
    };

    /// The lines of a way from one of its nodes to another, the fewer of both directions; nothing if it does not lead
    /// there, or if there are no looks left.
    [[nodiscard]] std::optional<LineWays> along_way(std::int64_t way, std::uint32_t from, std::uint32_t to) {
        const auto& lines = of_way_.at(way);
        std::optional<LineWays> best;
        for (const bool against : {false, true})
            for (std::size_t start = 0; start < lines.size(); ++start) {
                LineWays path;
                std::uint32_t at = from;
                for (std::size_t step = 0; step < lines.size() && (step == 0 || at != to); ++step) {
                    if (!look()) return std::nullopt;
                    const std::size_t i =
                        against ? (start + lines.size() - step) % lines.size() : (start + step) % lines.size();
                    const auto e = out_.lines.named_ends[lines[i]];
                    if ((against ? e.to : e.from) != at) break;
                    path.push_back(against ? roads::LineWay::against(lines[i]) : roads::LineWay::along(lines[i]));
                    at = against ? e.from : e.to;
                }
                if (!path.empty() && at == to && (!best || path.size() < best->size())) best = std::move(path);
            }
        return best;
    }

    /// Nodes at which lines of both ways begin or end, as the first has them.
    [[nodiscard]] std::vector<std::uint32_t> common_nodes(std::int64_t a, std::int64_t b) {
        std::set<std::uint32_t> of_b;
        for (const auto l : of_way_.at(b)) of_b.insert({out_.lines.named_ends[l].from, out_.lines.named_ends[l].to});
        std::vector<std::uint32_t> out;
        for (const auto l : of_way_.at(a))
            for (const std::uint32_t n : {out_.lines.named_ends[l].from, out_.lines.named_ends[l].to})
                if (look() && of_b.erase(n) > 0) out.push_back(n);
        return out;
    }

    /// The way over a restriction's ways, the fewest lines if there are several. Of those that come to one node only
    /// the shortest is gone on from, so that ways which meet often do not multiply.
    [[nodiscard]] std::optional<Over> over_ways(const OsmRestriction& r) {
        std::vector<std::int64_t> chain{r.from.front()};
        chain.insert(chain.end(), r.via_ways.begin(), r.via_ways.end());
        chain.push_back(r.to.front());
        std::vector<Over> so_far;
        for (const auto n : common_nodes(chain[0], chain[1])) so_far.push_back({n, n, {}});
        for (std::size_t i = 1; i + 1 < chain.size(); ++i) {
            std::vector<Over> next;
            for (const auto n : common_nodes(chain[i], chain[i + 1])) {
                std::optional<Over> best;
                for (const Over& o : so_far) {
                    const auto lines = n == o.end ? std::nullopt : along_way(chain[i], o.end, n);
                    if (!lines || (best && o.lines.size() + lines->size() >= best->lines.size())) continue;
                    if (!look(o.lines.size() + lines->size())) return std::nullopt;
                    best = Over{o.begin, n, o.lines};
                    best->lines.insert(best->lines.end(), lines->begin(), lines->end());
                }
                if (best) next.push_back(std::move(*best));
            }
            so_far = std::move(next);
        }
        if (so_far.empty() || looks_left_ == 0) return std::nullopt;
        return *std::min_element(so_far.begin(), so_far.end(),
                                 [](const Over& a, const Over& b) { return a.lines.size() < b.lines.size(); });
    }

    bool forbid_over_ways(const OsmRestriction& r, const Over& over) {
        LineWays from, to;
        for (const std::uint32_t l : of_way_[r.from.front()]) coming_to(l, over.begin, from);
        for (const std::uint32_t l : of_way_[r.to.front()]) leaving_from(l, over.end, to);
        if (from.empty() || to.empty()) return false;
        if (r.only) to = others_from(over.end, std::move(to));
        const std::size_t lines = from.size() * to.size() * (over.lines.size() + 2);
        check_forbidden(0, lines);
        lines_of_paths_ += lines;
        for (const auto f : from)
            for (const auto t : to) {
                LineWays path{f};
                path.insert(path.end(), over.lines.begin(), over.lines.end());
                path.push_back(t);
                out_.lines.banned_paths.push_back(std::move(path));
            }
        return true;
    }

    [[nodiscard]] std::optional<std::uint32_t> known_index(std::int64_t ref) const {
        const auto at = std::lower_bound(nodes_.begin(), nodes_.end(), ref);
        return at != nodes_.end() && *at == ref ? std::optional(static_cast<std::uint32_t>(at - nodes_.begin()))
                                                : std::nullopt;
    }
    /// The ways of travelling a line that end at a node, and those that start there.
    void coming_to(std::uint32_t line, std::uint32_t node, std::vector<roads::LineWay>& out) const {
        const auto e = out_.lines.named_ends[line];
        if (e.to == node) out.push_back(roads::LineWay::along(line));
        if (e.from == node) out.push_back(roads::LineWay::against(line));
    }
    void leaving_from(std::uint32_t line, std::uint32_t node, std::vector<roads::LineWay>& out) const {
        const auto e = out_.lines.named_ends[line];
        if (e.from == node) out.push_back(roads::LineWay::along(line));
        if (e.to == node) out.push_back(roads::LineWay::against(line));
    }

    const std::vector<std::int64_t>& way_of_line_;
    const std::vector<std::int64_t>& nodes_;
    const std::string& path_;
    RoadsRead& out_;
    const Task& task_;
    std::unordered_map<std::int64_t, std::vector<std::uint32_t>> of_way_;    // lines of ways that restrictions name
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> at_node_;  // lines at nodes where they end
    std::size_t looks_left_ = 0;                                             // of the relation in hand
    std::size_t looks_of_file_ = kMostLooksOfAFile;
    std::size_t lines_of_paths_ = 0;
    std::set<std::int64_t> unclear_;  // relations that are not obeyed, and why is said
};

}  // namespace

void forbid_turns(const std::vector<OsmRestriction>& all, const std::vector<std::int64_t>& way_of_line,
                  const std::vector<std::int64_t>& nodes, const std::string& path, RoadsRead& out, const Task& task) {
    TurnsForbidden(way_of_line, nodes, path, out, task).forbid(all);
}

}  // namespace otoro::files
