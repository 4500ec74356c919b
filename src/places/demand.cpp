#include "places/demand.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <string_view>

#include "geo/digest.h"

namespace otoro::places {
namespace {

constexpr std::array<std::string_view, 3> kStates{"open", "candidate", "closed"};

void add(Digest& d, const std::optional<geo::LonLat>& p) {
    d.value(static_cast<std::uint8_t>(p.has_value()));
    if (p) d.value(p->lon).value(p->lat);
}

}  // namespace

std::string_view name(SiteState s) { return kStates[static_cast<std::size_t>(s)]; }

std::optional<SiteState> parse_site_state(std::string_view text) {
    std::string s;
    for (const char c : text)
        if (!std::isspace(static_cast<unsigned char>(c))) s += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (s.empty()) return SiteState::open;
    const auto at = std::find(kStates.begin(), kStates.end(), s);
    if (at == kStates.end()) return std::nullopt;
    return static_cast<SiteState>(at - kStates.begin());
}

std::string DemandSet::digest() const {
    Digest d;
    d.text(weight_name);
    for (const auto& p : places) {
        d.text(p.id).value(p.weight.count());
        add(d, p.position);
    }
    return d.hex();
}

std::string SiteSet::digest() const {
    Digest d;
    for (const auto& s : sites) {
        d.text(s.id).value(static_cast<std::uint8_t>(s.state)).value(s.capacity ? s.capacity->count() : std::int64_t{-1});
        add(d, s.position);
    }
    return d.hex();
}

}  // namespace otoro::places
