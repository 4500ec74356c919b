#pragma once
/// \file
/// What saving and opening a study must agree on. Not for others.
#include <fmt/format.h>

#include <cstdint>
#include <string>

namespace otoro::files {

inline constexpr int kStudyFormat = 3;
/// What is written where nothing of the study needs a later one, so that earlier versions read it.
inline constexpr int kUsualStudyFormat = 2;
inline constexpr int kOldestStudyFormat = 1;
inline constexpr const char* kStudyTable = "otoro_study";
/// The setting that says what the layers and the other settings hold.
inline constexpr const char* kContent = "content";

/// The layer of a set: `demand_1`.
inline std::string part_name(const char* kind, std::size_t index) { return fmt::format("{}_{}", kind, index + 1); }

}  // namespace otoro::files
