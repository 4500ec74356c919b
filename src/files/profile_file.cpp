#include "files/profile_file.h"

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "files/atomic_file.h"
#include "files/study_json.h"
#include "geo/error.h"

namespace otoro::files {
namespace {
constexpr const char* kMark = "otoro_travel_profile";
constexpr std::uintmax_t kLargest = 1U << 20U;
}  // namespace

void write_profile(const travel::Profile& profile, const std::string& path) {
    auto j = to_json(profile);
    j[kMark] = 1;
    write_text(path, j.dump(2) + "\n");
}

travel::Profile read_profile(const std::string& path) {
    const auto refuse = [&](std::string wrong, std::string remedy) {
        throw InputError({path, std::nullopt, std::move(wrong), std::move(remedy)});
    };
    std::error_code error;
    if (!std::filesystem::is_regular_file(path, error))
        refuse("there is no such file", "Name a travel profile, or one of drive, respond, walk and cycle");
    if (std::filesystem::file_size(path, error) > kLargest)
        refuse("it is too large for a travel profile", "Name another file");
    std::ifstream in(path, std::ios::binary);
    const auto j = nlohmann::json::parse(in, nullptr, false);
    if (!j.is_object() || !j.contains(kMark))
        refuse("it is not a travel profile", "Name a file that was exported as one");
    try {
        return profile_from(j);
    } catch (const InputError& e) {
        auto parts = e.parts();
        parts.file = path;
        throw InputError(parts);
    }
}

}  // namespace otoro::files
