#include "service/reach_view.h"

#include <algorithm>
#include <array>

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, 4> kOverlapNames{"each", "nearest", "merged", "count"};
constexpr std::array<std::string_view, 3> kLists{"patches", "zones", "own zones"};

}  // namespace

std::string_view name(Overlap o) { return kOverlapNames[static_cast<std::size_t>(o)]; }
std::optional<Overlap> parse_overlap(std::string_view text) {
    const auto at = std::find(kOverlapNames.begin(), kOverlapNames.end(), text);
    if (at == kOverlapNames.end()) return std::nullopt;
    return static_cast<Overlap>(at - kOverlapNames.begin());
}

std::string_view name(CoverList c) { return kLists[static_cast<std::size_t>(c)]; }
std::optional<CoverList> parse_cover_list(std::string_view text) {
    const auto at = std::find(kLists.begin(), kLists.end(), text);
    if (at == kLists.end()) return std::nullopt;
    return static_cast<CoverList>(at - kLists.begin());
}

}  // namespace otoro::service
