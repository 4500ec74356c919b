#include "files/table_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstdio>
#include <map>
#include <memory>
#include <set>

#include "files/column.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

constexpr std::size_t kHead = 256 * 1024;

bool is_number(const std::string& cell) {
    const auto number = written_number(cell, Decimals::point);
    return number && number->unit.size() <= 4;
}

/// A row of a text, and where it begins.
struct Row {
    std::uint64_t start = 0;
    std::vector<std::string> cells;
};

/// The rows of separated text, quotes respected (RFC 4180). The last is left out if the text was cut off.
std::vector<Row> rows_of(std::string_view text, char separator, bool whole) {
    std::vector<Row> rows;
    Row row;
    std::string cell;
    bool quoted = false;
    const auto end_cell = [&] {
        row.cells.push_back(std::move(cell));
        cell.clear();
    };
    const auto end_row = [&](std::size_t next) {
        end_cell();
        rows.push_back(std::move(row));
        row = {next, {}};
    };
    for (std::size_t i = 0; i < text.size() && rows.size() < kRowsThatTell; ++i) {
        const char c = text[i];
        if (quoted) {
            if (c != '"')
                cell += c;
            else if (i + 1 < text.size() && text[i + 1] == '"')
                cell += text[++i];
            else
                quoted = false;
        } else if (c == '"' && cell.empty()) {
            quoted = true;
        } else if (c == separator) {
            end_cell();
        } else if (c == '\n') {
            end_row(i + 1);
        } else if (c == '\r') {
            if (i + 1 >= text.size() || text[i + 1] != '\n') end_row(i + 1);
        } else {
            cell += c;
        }
    }
    if (whole && rows.size() < kRowsThatTell && (!cell.empty() || !row.cells.empty())) end_row(text.size());
    return rows;
}

/// How well a mark parts the rows: how many it parts at all, how many of those into one number of cells, and into how
/// many.
struct Parting {
    std::size_t parted = 0, alike = 0, cells = 1;
    auto operator<=>(const Parting&) const = default;
};
Parting parting(const std::vector<Row>& rows) {
    std::map<std::size_t, std::size_t> how_often;
    Parting out;
    for (const auto& r : rows) {
        if (r.cells.size() < 2) continue;
        ++out.parted;
        ++how_often[r.cells.size()];
    }
    for (const auto& [cells, n] : how_often)
        if (n >= out.alike) {
            out.alike = n;
            out.cells = cells;
        }
    return out;
}

void check_encoding(const std::string& path, std::string_view head) {
    constexpr const char* kRemedy = "Save it again as CSV in UTF-8";
    const auto starts = [&](std::initializer_list<int> bytes) {
        std::size_t i = 0;
        for (const int b : bytes)
            if (i >= head.size() || static_cast<unsigned char>(head[i++]) != b) return false;
        return true;
    };
    if (starts({0xFF, 0xFE, 0, 0}) || starts({0, 0, 0xFE, 0xFF}))
        refuse(path, "it is text in UTF-32, which is not read", kRemedy);
    const std::string_view first = head.substr(0, 4096);
    const auto zeros = static_cast<std::size_t>(std::count(first.begin(), first.end(), '\0'));
    if (starts({0xFF, 0xFE}) || starts({0xFE, 0xFF}) || zeros * 4 > first.size())
        refuse(path, "it is text in UTF-16, which is not read", kRemedy);
    if (zeros > 0)
        refuse(path, "it has bytes in it that no text has",
               "Check that it is a table; export it again as CSV in UTF-8");
}

}  // namespace

std::string trimmed_text(std::string_view s) {
    constexpr std::string_view kBlank = " \t\r\n";
    const auto begin = s.find_first_not_of(kBlank);
    if (begin == std::string_view::npos) return {};
    return std::string(s.substr(begin, s.find_last_not_of(kBlank) - begin + 1));
}

Headings find_headings(const std::vector<std::vector<std::string>>& rows) {
    Headings out;
    const auto filled = [](const std::vector<std::string>& row) {
        return static_cast<std::size_t>(
            std::count_if(row.begin(), row.end(), [](const std::string& c) { return !trimmed_text(c).empty(); }));
    };
    std::size_t widest = 0;
    for (const auto& row : rows) {
        widest = std::max(widest, filled(row));
        for (std::size_t i = 0; i < row.size(); ++i)
            if (!trimmed_text(row[i]).empty()) out.width = std::max(out.width, i + 1);
    }
    for (std::size_t r = 0; r < rows.size(); ++r) {
        if (filled(rows[r]) * 2 <= widest) continue;
        const auto numbers = static_cast<std::size_t>(std::count_if(rows[r].begin(), rows[r].end(), is_number));
        if (numbers * 2 < filled(rows[r])) out.row = r;
        break;
    }
    std::set<std::string> taken;
    for (std::size_t i = 0; i < out.width; ++i) {
        std::string name = out.row && i < rows[*out.row].size() ? trimmed_text(rows[*out.row][i]) : std::string();
        if (name.empty()) name = fmt::format("field_{}", i + 1);
        const std::string plain = name;
        for (int n = 2; !taken.insert(name).second; ++n) name = fmt::format("{}_{}", plain, n);
        out.names.push_back(std::move(name));
    }
    return out;
}

TextLayout layout_of_text(const std::string& path) {
    std::string head(kHead, '\0');
    {
        const std::unique_ptr<std::FILE, int (*)(std::FILE*)> file(std::fopen(path.c_str(), "rb"), &std::fclose);
        head.resize(file ? std::fread(head.data(), 1, head.size(), file.get()) : 0);
    }
    return layout_of_bytes(head, head.size() < kHead, path);
}

TextLayout layout_of_bytes(std::string_view head, bool whole, const std::string& path) {
    check_encoding(path, head);
    std::string_view text = head;
    std::uint64_t mark = 0;
    if (text.starts_with("\xEF\xBB\xBF")) {
        mark = 3;
        text.remove_prefix(mark);
    }
    TextLayout out;
    std::vector<Row> rows;
    Parting best;
    for (const char separator : {',', ';', '\t'}) {
        auto found = rows_of(text, separator, whole);
        const auto parts = parting(found);
        // It parts the headings too, which a comma inside numbers or shapes does not.
        if (rows.empty() || parts > best) {
            best = parts;
            out.separator = separator;
            rows = std::move(found);
        }
    }
    if (best.parted == 0)
        for (const char other : {'|', '^', '~', ':', '!'})
            if (const auto parts = parting(rows_of(text, other, whole));
                parts.cells > 2 && parts.alike * 2 > rows.size())
                refuse(path, fmt::format("its cells are parted by '{}', which is not read", other),
                       "Save it again with commas, semicolons or tabs between cells");
    std::vector<std::vector<std::string>> cells;
    for (const auto& r : rows) cells.push_back(r.cells);
    const Headings headings = find_headings(cells);
    out.has_headings = headings.row.has_value();
    std::size_t first = headings.row.value_or(0);
    if (!headings.row)
        while (first + 1 < rows.size() && std::all_of(cells[first].begin(), cells[first].end(),
                                                      [](const std::string& c) { return trimmed_text(c).empty(); }))
            ++first;
    out.lines_above = static_cast<std::int64_t>(first);
    out.start = first < rows.size() && first > 0 ? rows[first].start + mark : 0;
    return out;
}

}  // namespace otoro::files
