#include "batch/file_names.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "geo/text.h"

namespace otoro::batch {
std::string file_part(const std::string& name) {
    constexpr std::size_t kLongest = 100;
    std::string s;
    for (const char c : name.substr(0, kLongest)) s += std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
    return s.empty() ? "plan" : s;
}

std::string FileNames::next(const std::string& name) {
    std::string wanted = file_part(name);
    if (!not_first_.empty() && lower(wanted).starts_with(not_first_)) wanted = "plan_" + wanted;
    for (int n = 1;; ++n) {
        const std::string numbered = n == 1 ? wanted : fmt::format("{}_{}", wanted, n);
        const auto is_taken = [&](const std::string& ending) { return taken_.contains(lower(numbered + ending)); };
        if (std::any_of(endings_.begin(), endings_.end(), is_taken)) continue;
        for (const std::string& ending : endings_) taken_.insert(lower(numbered + ending));
        return numbered;
    }
}

}  // namespace otoro::batch
