#pragma once
/// \file
/// Texts as they are compared.
#include <algorithm>
#include <cctype>
#include <string>
#include <string_view>

namespace otoro {

/// In small letters, byte by byte: letters beyond ASCII stay as they are.
inline std::string lower(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return out;
}

}  // namespace otoro
