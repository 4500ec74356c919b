#include "desktop/map/site_colours.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <utility>

#include "desktop/theme.h"
#include "geo/local_frame.h"

namespace otoro::desktop {
namespace {

constexpr std::size_t kNeighbours = 6;
// Differences, and what counts against a colour: that some site has it already, and each that has.
constexpr double kEnough = 30, kStillEnough = 15, kUsed = 8, kUse = 0.01;

using Vec = std::array<double, 3>;

double linear(int channel) {
    const double c = channel / 255.0;
    return c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4);
}

/// Linear red, green and blue as somebody without red (protan) or green receptors sees them.
Vec protan(const Vec& c) {
    return {0.11238 * c[0] + 0.88762 * c[1], 0.11238 * c[0] + 0.88762 * c[1], 0.00401 * c[0] - 0.00401 * c[1] + c[2]};
}
Vec deutan(const Vec& c) {
    return {0.29275 * c[0] + 0.70725 * c[1], 0.29275 * c[0] + 0.70725 * c[1], -0.02234 * c[0] + 0.02234 * c[1] + c[2]};
}

Vec lab(const Vec& c) {
    const Vec xyz{(0.4124 * c[0] + 0.3576 * c[1] + 0.1805 * c[2]) / 0.9505,
                  0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2],
                  (0.0193 * c[0] + 0.1192 * c[1] + 0.9505 * c[2]) / 1.089};
    const auto f = [](double t) { return t > 0.008856 ? std::cbrt(t) : 7.787 * t + 16.0 / 116; };
    return {116 * f(xyz[1]) - 16, 500 * (f(xyz[0]) - f(xyz[1])), 200 * (f(xyz[1]) - f(xyz[2]))};
}

double distance(const Vec& a, const Vec& b) { return std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]); }

/// Differences between the colours of the palette, worked out once.
const std::vector<std::vector<double>>& palette_differences() {
    static const auto all = [] {
        const auto n = theme::site_colour_count();
        std::vector<std::vector<double>> out(n, std::vector<double>(n));
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t k = 0; k < n; ++k) out[i][k] = difference(theme::site_colour(i), theme::site_colour(k));
        return out;
    }();
    return all;
}

/// What the choice depends on: where each site stands today, and where it has been moved to or added.
struct Key {
    std::vector<std::optional<geo::LonLat>> today;
    std::vector<std::pair<std::uint32_t, geo::LonLat>> elsewhere;
    bool operator==(const Key&) const = default;
};

Key key_of(const std::vector<service::SiteOutcome>& sites) {
    Key key;
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        const auto& p = sites[i].planned;
        key.today.push_back(p.today);
        if (p.site.position && p.site.position != p.today) key.elsewhere.emplace_back(i, *p.site.position);
    }
    return key;
}

/// Sites that have a colour already, and how often each colour was taken.
class Chooser {
public:
    explicit Chooser(std::size_t sites) : choice_(sites, 0), used_(palette_differences().size(), 0) {}

    /// \param self the site's own number, which is no neighbour of itself \param again it has a colour, which it keeps
    /// if that will do here
    void choose(std::uint32_t self, geo::LonLat at, bool again) {
        const auto& differ = palette_differences();
        const geo::LocalFrame frame(at);
        near_.clear();
        for (const auto& [other, where] : placed_) {
            if (other == self) continue;
            const auto flat = frame.flat(where);
            near_.emplace_back(std::hypot(flat.x, flat.y), other);
        }
        const auto count = std::min(kNeighbours, near_.size());
        std::partial_sort(near_.begin(), near_.begin() + static_cast<std::ptrdiff_t>(count), near_.end());
        const auto least_difference = [&](std::size_t c) {
            double least = 1e9;
            for (std::size_t n = 0; n < count; ++n) least = std::min(least, differ[c][choice_[near_[n].second]]);
            return least;
        };
        if (again && least_difference(choice_[self]) >= kStillEnough) return;
        double best = -1;
        for (std::size_t c = 0; c < differ.size(); ++c) {
            // Of colours that are different enough, the one that is used least.
            const bool taken = used_[c] > 0 && choice_.size() <= differ.size();  // of few sites each has its own
            const double worth =
                std::min(least_difference(c), kEnough) - (taken ? kUsed : 0) - kUse * static_cast<double>(used_[c]);
            if (worth > best || c == 0) {
                best = worth;
                choice_[self] = c;
            }
        }
        ++used_[choice_[self]];
        placed_.emplace_back(self, at);
    }
    [[nodiscard]] const std::vector<std::size_t>& choice() const { return choice_; }

private:
    std::vector<std::size_t> choice_, used_;
    std::vector<std::pair<std::uint32_t, geo::LonLat>> placed_;
    std::vector<std::pair<double, std::uint32_t>> near_;
};

std::vector<std::size_t> chosen(const Key& key) {
    Chooser chooser(key.today.size());
    for (std::uint32_t i = 0; i < key.today.size(); ++i)
        if (key.today[i]) chooser.choose(i, *key.today[i], false);
    for (const auto& [site, at] : key.elsewhere) chooser.choose(site, at, key.today[site].has_value());
    return chooser.choice();
}

}  // namespace

double difference(const QColor& a, const QColor& b) {
    const Vec x{linear(a.red()), linear(a.green()), linear(a.blue())},
        y{linear(b.red()), linear(b.green()), linear(b.blue())};
    return std::min(
        {distance(lab(x), lab(y)), distance(lab(protan(x)), lab(protan(y))), distance(lab(deutan(x)), lab(deutan(y)))});
}

std::vector<QColor> site_colours(const std::vector<service::SiteOutcome>& sites) {
    thread_local Key known;
    thread_local std::vector<std::size_t> choice;
    if (auto key = key_of(sites); !(key == known) || choice.size() != sites.size()) {
        choice = chosen(key);
        known = std::move(key);
    }
    std::vector<QColor> out(sites.size(), theme::kInk);
    for (std::size_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use) out[i] = theme::site_colour(choice[i]);
    return out;
}

}  // namespace otoro::desktop
