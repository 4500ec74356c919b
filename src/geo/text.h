#pragma once
/// \file
/// Texts as they are compared.
#include <algorithm>
#include <cctype>
#include <set>
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

/// Its words in small letters: `Speed_Mph`, `speedMph` and `MPH` all have the word `mph`.
inline std::set<std::string> words_of(std::string_view text) {
    std::set<std::string> out;
    std::string word;
    const auto finish = [&] {
        if (!word.empty()) out.insert(word);
        word.clear();
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto c = static_cast<unsigned char>(text[i]);
        if (std::isalnum(c) == 0) {
            if (c != '/') finish();  // km/h is one word
            continue;
        }
        const bool hump = std::isupper(c) != 0 && i > 0 && std::islower(static_cast<unsigned char>(text[i - 1])) != 0;
        if (hump) finish();
        word += static_cast<char>(std::tolower(c));
    }
    finish();
    return out;
}

}  // namespace otoro
