#include "files/expression.h"

#include <catch2/catch.hpp>
#include <map>

#include "geo/error.h"

using namespace otoro;
using files::Expression;

namespace {

using Record = std::map<std::string, std::string>;

Expression::FieldOf field_of(const Expression& e, const Record& record) {
    return [&e, &record](std::size_t i) -> std::optional<std::string> {
        const auto at = record.find(e.fields()[i]);
        return at == record.end() ? std::nullopt : std::optional(at->second);
    };
}
bool holds(const std::string& text, const Record& record) {
    const auto e = Expression::parse(text);
    return e.holds(field_of(e, record));
}
std::optional<double> number(const std::string& text, const Record& record) {
    const auto e = Expression::parse(text);
    return e.number(field_of(e, record));
}

const Record kRoad{{"class", "residential"}, {"name", "Quay's End"}, {"speed", "30"}, {"length m", "250"}};

}  // namespace

TEST_CASE("Conditions hold or not") {
    CHECK(holds("class = 'residential'", kRoad));
    CHECK_FALSE(holds("class <> 'residential'", kRoad));
    CHECK(holds("name = 'Quay''s End'", kRoad));
    CHECK(holds("class IN ('service', 'residential')", kRoad));
    CHECK_FALSE(holds("class NOT IN ('service', 'residential')", kRoad));
    CHECK(holds("speed >= 30 AND speed < 31", kRoad));
    CHECK(holds("speed BETWEEN 20 AND 40", kRoad));
    CHECK(holds("speed not between 31 and 40", kRoad));
    CHECK(holds("name LIKE 'Quay%'", kRoad));
    CHECK(holds("name LIKE '_uay%d'", kRoad));
    CHECK_FALSE(holds("name LIKE 'quay%'", kRoad));
    CHECK(holds("\"length m\" > 200", kRoad));
    CHECK(holds("NOT (speed = 50 OR class = 'primary')", kRoad));
    CHECK(holds("class = 'primary' OR class = 'residential' AND speed = 30", kRoad));  // AND binds closer
    CHECK(holds("TRUE", kRoad));
}

TEST_CASE("Numbers compare as numbers, also where they are texts in the file") {
    CHECK(holds("speed > 4", kRoad));
    CHECK(holds("speed = 30.0", kRoad));
    CHECK(holds("speed <> '4'", kRoad));
}

TEST_CASE("A missing value is neither equal nor unequal to anything") {
    CHECK_FALSE(holds("surface = 'gravel'", kRoad));
    CHECK_FALSE(holds("surface <> 'gravel'", kRoad));
    CHECK_FALSE(holds("NOT surface = 'gravel'", kRoad));
    CHECK(holds("surface IS NULL", kRoad));
    CHECK(holds("speed IS NOT NULL", kRoad));
    CHECK(holds("surface = 'gravel' OR speed = 30", kRoad));
    CHECK_FALSE(holds("surface IN ('gravel')", kRoad));
}

TEST_CASE("Formulas") {
    CHECK(number("\"length m\" / 1000 / speed * 60", kRoad) == Approx(0.5));
    CHECK(number("-(2 + 3) * 2", kRoad) == Approx(-10));
    CHECK(number("1e3", kRoad) == Approx(1000));
    CHECK_FALSE(number("speed / 0", kRoad));
    CHECK_FALSE(number("surface + 1", kRoad));
    CHECK_FALSE(number("class * 2", kRoad));
}

TEST_CASE("What is not an expression is refused, with the place and what was expected") {
    const auto complaint = [](const std::string& text) {
        try {
            (void)Expression::parse(text);
        } catch (const InputError& e) {
            return std::string(e.what());
        }
        return std::string("(none)");
    };
    CHECK_THAT(complaint("class ="), Catch::Contains("missing at the end"));
    CHECK_THAT(complaint("class IN 'a'"), Catch::Contains("'(' was expected"));
    CHECK_THAT(complaint("name = 'Quay"), Catch::Contains("does not end"));
    CHECK_THAT(complaint("speed > 3 speed"),
               Catch::Contains("character 11") && Catch::Contains("'speed' is not expected"));
    CHECK_THAT(complaint("speed NOT 4"), Catch::Contains("LIKE was expected"));
    CHECK_THAT(complaint("(speed = 4"), Catch::Contains("')' is missing"));
    CHECK_THAT(complaint("1.2.3 = 4"), Catch::Contains("not a number"));
    CHECK_THAT(complaint(""), Catch::Contains("missing"));
    CHECK_THAT(complaint(std::string(300, '(') + "1"), Catch::Contains("too deeply"));
    CHECK_THAT(complaint(std::string(20'000, ' ') + "1"), Catch::Contains("10,000"));
}

TEST_CASE("A pattern with many wildcards takes no long time") {
    Record r{{"name", std::string(5000, 'a')}};
    std::string pattern;
    for (int i = 0; i < 200; ++i) pattern += "%a";
    CHECK_FALSE(holds("name LIKE '" + pattern + "%b'", r));
}
