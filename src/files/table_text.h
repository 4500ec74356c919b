#pragma once
/// \file
/// How a table is laid out: where its headings are, and, in a file of text, which mark parts its cells and how it is
/// encoded.
///
/// \par Problem
/// Tables come with a title above their headings, with empty rows, with an empty heading, with text in every cell. A
/// row of headings is known by its look: the first that fills more than half of the table's columns, in which fewer
/// than half of the cells are numbers. A table whose first full row is numbers has no headings.
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace otoro::files {

/// What the first rows of a table show.
struct Headings {
    std::optional<std::size_t> row;  ///< where they stand, among the rows looked at; nothing if the table has none
    std::vector<std::string> names;  ///< one a column: trimmed, each once, `field_4` where there is none
    std::size_t width = 0;           ///< columns in use
};
/// \param rows the first rows, cell by cell
Headings find_headings(const std::vector<std::vector<std::string>>& rows);

/// So many rows tell.
inline constexpr std::size_t kRowsThatTell = 50;

/// Where the table of a text file begins, and what parts its cells.
struct TextLayout {
    std::uint64_t start = 0;  ///< in bytes: where the row of headings begins, or the first row
    bool has_headings = true;
    std::int64_t lines_above = 0;  ///< titles and empty lines before it
    char separator = ',';
};
/// Looks at the first quarter of a megabyte. \throws InputError if it is in an encoding, or parted by a mark, that is
/// not read: named by what it is
TextLayout layout_of_text(const std::string& path);
/// The same from the first bytes of a file. \param whole whether they are all of it
TextLayout layout_of_bytes(std::string_view head, bool whole, const std::string& path);

/// A text without blanks around.
std::string trimmed_text(std::string_view text);

}  // namespace otoro::files
