#pragma once
/// \file
/// What a study held when it was saved, so that a layer from which rows have gone, or a setting in which something else
/// has changed a number, is never taken for what was saved.
///
/// The digest is of what the rows say, not of the file's bytes: a copy, or a database that was tidied up, is the same
/// study. Rows count in their order.
#include <cstdint>
#include <map>
#include <string>

#include "service/study.h"

namespace otoro::files {

struct LayerContent {
    std::uint64_t rows = 0;
    std::string digest;  ///< 32 hexadecimal digits
    bool operator==(const LayerContent&) const = default;
};

/// By the name of the layer: `roads`, `demand_1`, ... O(what is in them).
std::map<std::string, LayerContent> contents_of(const service::Study& study);

/// 32 hexadecimal digits.
std::string digest_of_setting(const std::string& text);

}  // namespace otoro::files
