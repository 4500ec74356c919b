#pragma once
/// \file
/// Which field says what, and what it says.
#include <optional>
#include <string>

#include "files/source.h"
#include "geo/amounts.h"

namespace otoro::files {

/// The field to read: the one that was chosen, which must be there, or the guessed one. \param what for the error:
/// `the weight` \throws InputError that lists the fields there are
std::string resolve(const Source& source, const std::optional<std::string>& chosen, const std::string& guessed,
                    const char* what);
/// Its index; -1 for none.
inline int index_of(const Source& source, const std::string& field) { return field.empty() ? -1 : source.field(field); }

/// A weight, a capacity or another amount from 0 to a thousand million; else nothing, and what is wrong with it:
/// `is empty`.
std::optional<Weight> read_weight(const Source& source, OGRFeature& record, int field, std::string& wrong);

}  // namespace otoro::files
