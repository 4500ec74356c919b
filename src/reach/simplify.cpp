#include "reach/simplify.h"

#include <algorithm>
#include <cmath>
#include <tuple>
#include <unordered_set>

#include "geo/box_index.h"

namespace otoro::reach {
namespace {

/// Chains of lines between the same two classes, each replaced by fewer lines where nothing else is in the way.
class Simplifier {
public:
    Simplifier(Drawing& drawing, double metres) : drawing_(drawing), metres_(metres) {}

    void run(const Task& task) {
        const std::vector<Drawing::Line> before = drawing_.lines;
        find_chains();
        std::vector<double> tolerance(chains_.size(), metres_);
        constexpr int kRounds = 8;
        for (int round = 0;; ++round) {
            task.check();
            drawing_.lines.clear();
            shortcuts_.clear();
            std::vector<std::uint32_t> owner;
            for (std::uint32_t i = 0; i < chains_.size(); ++i) {
                draw(i, tolerance[i]);
                owner.resize(drawing_.lines.size(), i);
            }
            std::unordered_set<std::uint32_t> wrong;
            for (const auto& [p, q] : drawing_.conflicts()) {
                wrong.insert(owner[p]);
                wrong.insert(owner[q]);
            }
            add_doubles(owner, wrong);
            add_jumped_over(wrong);
            if (wrong.empty()) break;
            for (const std::uint32_t i : wrong) tolerance[i] = round < kRounds ? tolerance[i] / 4 : 0;
            if (round > 2 * kRounds) {
                drawing_.lines = before;
                break;
            }
        }
        drawing_.settle();
    }

private:
    struct Chain {
        std::vector<std::uint32_t> vertices;
        std::uint32_t left = kNobody, right = kNobody;
    };

    /// Two lines between the same vertices: their ground would be gone.
    void add_doubles(const std::vector<std::uint32_t>& owner, std::unordered_set<std::uint32_t>& wrong) const {
        std::vector<std::tuple<std::uint32_t, std::uint32_t, std::uint32_t>> all;
        for (std::uint32_t i = 0; i < drawing_.lines.size(); ++i) {
            const auto [a, b] = std::minmax({drawing_.lines[i].a, drawing_.lines[i].b});
            all.emplace_back(a, b, owner[i]);
        }
        std::sort(all.begin(), all.end());
        for (std::size_t i = 0; i + 1 < all.size(); ++i) {
            const auto& [a, b, o] = all[i];
            const auto& [c, d, p] = all[i + 1];
            if (a != c || b != d) continue;
            wrong.insert(o);
            wrong.insert(p);
        }
    }

    /// A shorter line must not pass over what lies beside it: no vertex that is left may be between it and what it
    /// stands for, even where nothing crosses.
    void add_jumped_over(std::unordered_set<std::uint32_t>& wrong) const {
        std::vector<std::uint32_t> left;
        for (const Drawing::Line& l : drawing_.lines) {
            left.push_back(l.a);
            left.push_back(l.b);
        }
        std::sort(left.begin(), left.end());
        left.erase(std::unique(left.begin(), left.end()), left.end());
        const geo::BoxIndex index(static_cast<std::uint32_t>(left.size()), [&](std::uint32_t i) {
            geo::Box box;
            box.add(place(drawing_.vertices[left[i]]));
            return box;
        });
        std::vector<std::uint32_t> near;
        for (const auto& [chain, from, to] : shortcuts_) {
            const auto& v = chains_[chain].vertices;
            geo::Box box;
            for (std::size_t i = from; i <= to; ++i) box.add(place(drawing_.vertices[v[i]]));
            near.clear();
            index.touching(box, near);
            for (const std::uint32_t i : near) {
                const auto is_own = [&](std::uint32_t own) { return own == left[i]; };
                if (std::any_of(v.begin() + static_cast<std::ptrdiff_t>(from),
                                v.begin() + static_cast<std::ptrdiff_t>(to) + 1, is_own))
                    continue;
                if (!is_between(drawing_.vertices[left[i]], v, from, to)) continue;
                wrong.insert(chain);
                break;
            }
        }
    }
    /// Whether a point is inside the ring of a chain's part and the line from its end to its beginning, by even and
    /// odd.
    [[nodiscard]] bool is_between(GridPoint p, const std::vector<std::uint32_t>& v, std::size_t from,
                                  std::size_t to) const {
        bool inside = false;
        for (std::size_t i = from; i <= to; ++i) {
            const GridPoint a = drawing_.vertices[v[i]], b = drawing_.vertices[v[i == to ? from : i + 1]];
            if ((a.y > p.y) == (b.y > p.y)) continue;
            const double x = static_cast<double>(a.x - p.x) + static_cast<double>(b.x - a.x) *
                                                                  static_cast<double>(p.y - a.y) /
                                                                  static_cast<double>(b.y - a.y);
            inside ^= x > 0;
        }
        return inside;
    }

    void find_chains() {
        const auto& lines = drawing_.lines;
        const std::size_t vertices = drawing_.vertices.size();
        std::vector<std::uint32_t> first(vertices + 1, 0), at;
        for (const Drawing::Line& l : lines) {
            ++first[l.a + 1];
            ++first[l.b + 1];
        }
        for (std::size_t i = 1; i < first.size(); ++i) first[i] += first[i - 1];
        at.resize(first.back());
        auto next = first;
        for (std::uint32_t i = 0; i < lines.size(); ++i) {
            at[next[lines[i].a]++] = i;
            at[next[lines[i].b]++] = i;
        }
        const auto is_node = [&](std::uint32_t v) {
            if (first[v + 1] - first[v] != 2) return true;
            const Drawing::Line &p = lines[at[first[v]]], &q = lines[at[first[v] + 1]];
            const bool turned = (p.a == v) == (q.a == v);
            return turned ? p.left != q.right || p.right != q.left : p.left != q.left || p.right != q.right;
        };
        std::vector<bool> done(lines.size(), false);
        const auto follow = [&](std::uint32_t line, std::uint32_t start) {
            Chain chain;
            const bool forward = lines[line].a == start;
            chain.left = forward ? lines[line].left : lines[line].right;
            chain.right = forward ? lines[line].right : lines[line].left;
            chain.vertices.push_back(start);
            std::uint32_t v = start;
            while (!done[line]) {
                done[line] = true;
                v = lines[line].a == v ? lines[line].b : lines[line].a;
                chain.vertices.push_back(v);
                if (v == start || is_node(v)) break;
                line = at[first[v]] == line ? at[first[v] + 1] : at[first[v]];
            }
            chains_.push_back(std::move(chain));
        };
        for (std::uint32_t i = 0; i < lines.size(); ++i)
            for (const std::uint32_t v : {lines[i].a, lines[i].b})
                if (!done[i] && is_node(v)) follow(i, v);
        for (std::uint32_t i = 0; i < lines.size(); ++i)
            if (!done[i]) follow(i, lines[i].a);
    }

    void draw(std::uint32_t number, double tolerance) {
        const Chain& chain = chains_[number];
        const auto& v = chain.vertices;
        std::vector<bool> kept(v.size(), tolerance <= 0);
        kept.front() = kept.back() = true;
        if (tolerance > 0) {
            if (v.front() == v.back()) {
                // A ring keeps its farthest vertex too, and one more, so that it stays a ring.
                const std::size_t far = farthest(v, 0, v.size() - 1).first;
                kept[far] = true;
                thin(v, 0, far, tolerance, kept);
                thin(v, far, v.size() - 1, tolerance, kept);
                if (std::count(kept.begin(), kept.end(), true) < 4) std::fill(kept.begin(), kept.end(), true);
            } else {
                thin(v, 0, v.size() - 1, tolerance, kept);
            }
        }
        std::size_t last = 0;
        for (std::size_t i = 1; i < v.size(); ++i) {
            if (!kept[i]) continue;
            drawing_.lines.push_back({v[last], v[i], chain.left, chain.right});
            if (i > last + 1) shortcuts_.push_back({number, last, i});
            last = i;
        }
    }
    /// Douglas, Peucker 1973, without recursion.
    void thin(const std::vector<std::uint32_t>& v, std::size_t from, std::size_t to, double tolerance,
              std::vector<bool>& kept) const {
        std::vector<std::pair<std::size_t, std::size_t>> waiting{{from, to}};
        while (!waiting.empty()) {
            const auto [a, b] = waiting.back();
            waiting.pop_back();
            if (b <= a + 1) continue;
            const auto [far, metres] = farthest(v, a, b);
            if (metres <= tolerance) continue;
            kept[far] = true;
            waiting.emplace_back(a, far);
            waiting.emplace_back(far, b);
        }
    }
    [[nodiscard]] std::pair<std::size_t, double> farthest(const std::vector<std::uint32_t>& v, std::size_t a,
                                                          std::size_t b) const {
        const GridPoint origin = drawing_.vertices[v[a]];
        const auto flat = [&](std::uint32_t i) { return metres_from(origin, drawing_.vertices[i]); };
        const Spot end = flat(v[b]);
        const double squared = end.x * end.x + end.y * end.y;
        std::pair<std::size_t, double> best{a, -1};
        for (std::size_t i = a + 1; i < b; ++i) {
            const Spot p = flat(v[i]);
            const double t = squared > 0 ? std::clamp((p.x * end.x + p.y * end.y) / squared, 0.0, 1.0) : 0;
            const double away = std::hypot(p.x - t * end.x, p.y - t * end.y);
            if (away > best.second) best = {i, away};
        }
        return best;
    }

    Drawing& drawing_;
    double metres_;
    std::vector<Chain> chains_;
    /// One line that stands for a part of a chain.
    struct Shortcut {
        std::uint32_t chain;
        std::size_t from, to;
    };
    std::vector<Shortcut> shortcuts_;
};

}  // namespace

void simplify(Drawing& drawing, double metres, const Task& task) { Simplifier(drawing, metres).run(task); }

}  // namespace otoro::reach
