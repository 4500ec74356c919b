#pragma once
/// \file
/// What the texts of one column mean, found from all of them together.
///
/// \par Problem
/// `1,234` is a thousand and more to one writer and a little over one to another; `F` is *as drawn* where `B` and `T`
/// stand beside it, and *false* where only `T` does. One value alone cannot tell. A column can, and where it cannot,
/// the other columns of its file can.
///
/// \par Method
/// Each value that can be read in one way only is a witness. `1.234,5`, `12,5` and `1.234.567` speak for decimal
/// commas; `1,234.5`, `12.5` and `1,234,567` for decimal points. The column's own witnesses decide, then those of the
/// file; without any, commas that could part thousands do. Values of the other kind are still read where they can be
/// read in one way only; where both kinds of witnesses are in one column, those that could be either are no numbers.
#include <array>
#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <unordered_set>

namespace otoro::files {

/// Which mark stands before the decimals.
enum class Decimals : std::uint8_t {
    point,
    comma,
    either,  ///< values of both kinds: those that could be either are not numbers
};

/// How a column writes its numbers.
struct NumberFormat {
    Decimals decimals = Decimals::point;
    std::string unit = {};  ///< what stands behind every number, in lower case: `%`
    bool operator==(const NumberFormat&) const = default;
};

/// A number, and what stands behind it in lower case.
struct WrittenNumber {
    double value = 0;
    std::string unit;
};

/// A text as a number with or without a unit: `12.5`, `1 234`, `1.234,5 km`, `50 %`, `30 MPH`. Thousands may be parted
/// by blanks, apostrophes or the mark that is not before the decimals, in threes. Nothing if it is no number, or could
/// be two.
std::optional<WrittenNumber> written_number(std::string_view text, Decimals decimals);
/// The same for a column's value: its unit must be the column's.
std::optional<double> number_in(std::string_view text, const NumberFormat& format);

/// What is to be seen of the texts of one column, or of many.
class ColumnLook {
public:
    void add(std::string_view text);

    /// Numbers beyond `most` cannot be meant: those that could be thousands are then witnesses for decimals.
    void rule_out_thousands(double most);
    /// Takes the witnesses of another column over, if all its values are numbers.
    void add_witnesses_of(const ColumnLook& other);

    /// The distinct values in lower case without blanks around, if they are few.
    [[nodiscard]] bool few_words() const { return !many_words_; }
    [[nodiscard]] const std::set<std::string>& words() const { return words_; }
    [[nodiscard]] bool has(const char* word) const { return words_.contains(word); }

private:
    /// Takes a number in plain decimal form that can be read in one way only; false for any other text.
    bool add_plain(std::string_view text);
    friend class ColumnReader;
    enum Witness : std::size_t { kPointDecimals, kCommaDecimals, kOpenPoint, kOpenComma, kWitnesses };
    struct Hash {
        using is_transparent = void;
        std::size_t operator()(std::string_view s) const { return std::hash<std::string_view>()(s); }
    };
    std::unordered_set<std::string, Hash, std::equal_to<>>
        seen_;  ///< the first distinct texts: most columns have few, and none is looked at twice
    std::int64_t filled_ = 0, numbers_ = 0;  ///< texts looked at that are not empty, and those of them that are numbers
    std::array<std::int64_t, kWitnesses> witnesses_{};
    std::array<std::string, kWitnesses> examples_;
    std::map<std::string, std::int64_t> units_;  ///< of numbers
    std::set<std::string> words_;
    bool many_words_ = false;
};

/// How a column is understood, and what is to be said of it; empty where there is nothing to wonder about.
struct Understood {
    NumberFormat format;
    std::string remark;
};
/// \param rest what the other columns of the file show \param units whether what stands behind every number is a unit
Understood understand(const ColumnLook& column, const ColumnLook& rest, bool units = true);

}  // namespace otoro::files
