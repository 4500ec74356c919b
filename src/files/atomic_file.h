#pragma once
/// \file
/// Writing so that a reader finds the old file or the new one, never half.
#include <functional>
#include <string>

namespace otoro::files {

/// Writes to a file beside `path`, flushes it to the disk and renames it over `path`. If `write` throws, or the disk refuses, the old
/// file stays as it was and nothing is left behind.
/// \param write given the path to write to; it has the same extension as `path`
/// \throws InputError naming `path`, if the folder cannot be written; whatever `write` throws
void write_atomically(const std::string& path, const std::function<void(const std::string& temporary)>& write);

/// `write_atomically` for a text.
void write_text(const std::string& path, const std::string& text);

}  // namespace otoro::files
