#pragma once
/// \file
/// Blanks as files have them.
#include <array>
#include <string_view>

namespace otoro::files {

/// Blanks that part thousands or stand around a text: a space, and those that are no break.
inline constexpr std::array<std::string_view, 6> kBlanks{" ", "\t", "\r", "\xC2\xA0", "\xE2\x80\x89", "\xE2\x80\xAF"};

/// How long one of these is at the start of a text; 0 if none is there.
template <std::size_t N>
std::size_t length_of_any(std::string_view text, const std::array<std::string_view, N>& these) {
    for (const auto& one : these)
        if (text.starts_with(one)) return one.size();
    return 0;
}

}  // namespace otoro::files
