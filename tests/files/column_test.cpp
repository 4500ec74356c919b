#include "files/column.h"

#include <catch2/catch.hpp>

#include "files/table_text.h"
#include "support/files.h"

using namespace otoro;
using files::ColumnLook;
using files::Decimals;

namespace {

ColumnLook look(const std::vector<std::string>& texts) {
    ColumnLook out;
    for (const auto& t : texts) out.add(t);
    return out;
}
/// What the texts of a column come to; nothing where one is no number.
std::vector<std::optional<double>> read(const std::vector<std::string>& texts,
                                        const std::vector<std::string>& rest = {}) {
    const auto understood = files::understand(look(texts), look(rest));
    std::vector<std::optional<double>> out;
    for (const auto& t : texts) out.push_back(files::number_in(t, understood.format));
    return out;
}
using Numbers = std::vector<std::optional<double>>;

}  // namespace

TEST_CASE("A comma before three digits parts thousands, unless the column or the file has decimal commas") {
    CHECK(read({"1,234", "12,345", "7"}) == Numbers{1234, 12345, 7});
    CHECK(read({"1,234", "12,5"}) == Numbers{1.234, 12.5});
    CHECK(read({"1,234", "12.5"}) == Numbers{1234, 12.5});
    CHECK(read({"1,234", "1,234,567"}) == Numbers{1234, 1234567});
    CHECK(read({"1,234"}, {"-9.51", "46.2"}) == Numbers{1234});   // the file writes points
    CHECK(read({"1,234"}, {"-9,51", "46,2"}) == Numbers{1.234});  // the file writes commas
    CHECK(read({"0,123", "1,234"}) == Numbers{0.123, 1.234});     // nobody writes thousands so
}

TEST_CASE("A point parts thousands where the column or the file has decimal commas") {
    CHECK(read({"1.234", "12.345"}) == Numbers{1.234, 12.345});
    CHECK(read({"1.234,5", "12.345"}) == Numbers{1234.5, 12345});
    CHECK(read({"1.234", "5"}, {"9,51"}) == Numbers{1234, 5});
    CHECK(read({"1.234.567"}) == Numbers{1234567});
}

TEST_CASE("Blanks and apostrophes part thousands, in threes only") {
    CHECK(read({"1 234",
                "1\xC2\xA0"
                "234\xE2\x80\xAF"
                "567",
                "1'234.5", "12 34", "1 2345"}) == Numbers{1234, 1234567, 1234.5, std::nullopt, std::nullopt});
    CHECK(read({" 12 ", "+5", "-3",
                "\xE2\x88\x92"
                "4",
                "1e3", "2.5E-1"}) == Numbers{12, 5, -3, -4, 1000, 0.25});
}

TEST_CASE("Where one column is written in two ways, what could be either is no number") {
    CHECK(read({"1.5", "2,5", "1,234", "1.234"}) == Numbers{1.5, 2.5, std::nullopt, std::nullopt});
    CHECK_THAT(files::understand(look({"1.5", "2,5"}), {}).remark,
               Catch::Contains("'1.5'") && Catch::Contains("'2,5'"));
}

TEST_CASE("A unit that stands behind every number is left aside, and behind some it is a flaw") {
    CHECK(read({"50 %", "7%"}) == Numbers{50, 7});
    CHECK(read({"50 %", "7"}) == Numbers{std::nullopt, 7});
    CHECK_THAT(files::understand(look({"50 %", "7%"}), {}).remark, Catch::Contains("'%'"));
    CHECK(files::written_number("30 MPH", Decimals::point)->unit == "mph");
    CHECK(files::written_number("1.234,5 km", Decimals::comma)->value == 1234.5);
    CHECK_FALSE(files::written_number("none", Decimals::point));
    CHECK_FALSE(files::written_number("", Decimals::point));
    CHECK_FALSE(files::written_number("1,23,456", Decimals::point));
}

TEST_CASE("How a column was taken is said where it could have been taken otherwise") {
    CHECK(files::understand(look({"1", "2.5", "100"}), {}).remark.empty());
    CHECK_THAT(files::understand(look({"1,234"}), {}).remark, Catch::Contains("'1,234' is 1234"));
    CHECK_THAT(files::understand(look({"1.234", "9,5"}), {}).remark, Catch::Contains("'1.234' is 1234"));
    CHECK_THAT(files::understand(look({"1.234", "12.345"}), {}).remark, Catch::Contains("1.234"));
}

TEST_CASE("Longitudes are no thousands") {
    auto lon = look({"-9,512", "-9,513"});
    lon.rule_out_thousands(360);
    CHECK(files::understand(lon, {}).format.decimals == Decimals::comma);
}

TEST_CASE("Headings stand in the first row that fills the table and is not numbers") {
    const auto plain = files::find_headings({{"id", "lon", "lat"}, {"7", "-9.5", "46.2"}});
    CHECK(plain.row == 0u);
    CHECK(plain.names == std::vector<std::string>{"id", "lon", "lat"});
    const auto titled = files::find_headings(
        {{"Households 2026"}, {}, {"ref ", " lon", "lat", "", "residents"}, {"007", "-9.5", "46.2", "x", "3"}});
    CHECK(titled.row == 2u);
    CHECK(titled.names == std::vector<std::string>{"ref", "lon", "lat", "field_4", "residents"});
    const auto years = files::find_headings({{"id", "lon", "lat", "2025"}, {"7", "-9.5", "46.2", "3"}});
    CHECK(years.row == 0u);
    CHECK_FALSE(files::find_headings({{"7", "-9.5", "46.2"}, {"8", "-9.5", "46.2"}}).row);
    CHECK(files::find_headings({{"a", "a", "A"}, {"1", "2", "3"}}).names == std::vector<std::string>{"a", "a_2", "A"});
}

TEST_CASE("The mark that parts the cells also parts the headings") {
    const test::Folder folder;
    const auto separator = [&](const std::string& text) {
        return files::layout_of_text(folder.write("a.csv", text)).separator;
    };
    CHECK(separator("id;lon;lat\n1;-9,5;46,2\n2;-9,6;46,3\n") == ';');
    CHECK(separator("name;wkt\na;LINESTRING (1 2,3 4)\nb;LINESTRING (1 2,3 4)\n") == ';');
    CHECK(separator("name,wkt\na,\"LINESTRING (1 2,3 4)\"\n\"b;c\",\"LINESTRING (1 2,3 4)\"\n") == ',');
    CHECK(separator("id\tlon\tlat\n1\t-9,5\t46,2\n") == '\t');
}
