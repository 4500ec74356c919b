#pragma once
/// \file
/// How much memory a study takes, part by part, for budgets.
#include <cstddef>
#include <map>

#include "service/study.h"

namespace otoro::desktop {

/// By where they are, the parts of a study that copies of it share, and about how many bytes each is.
using SharedParts = std::map<const void*, std::size_t>;
void add_shared_parts(const service::Study& study, SharedParts& out);

/// About how many bytes each copy takes beside those.
std::size_t memory_of_copy(const service::Study& study);

}  // namespace otoro::desktop
