/// Columns of numbers and words, and where the headings of a table are.
#include "files/column.h"
#include "files/road_columns.h"
#include "files/table_text.h"
#include "fuzz/fuzz.h"
#include "geo/error.h"

OTORO_FUZZ(text) {
    using namespace otoro;
    files::ColumnLook look;
    std::vector<std::string_view> values;
    for (std::size_t begin = 0; begin <= text.size();) {
        const std::size_t end = std::min(text.find('\n', begin), text.size());
        values.push_back(text.substr(begin, end - begin));
        look.add(values.back());
        begin = end + 1;
    }
    auto in_degrees = look;
    in_degrees.rule_out_thousands(360);
    const auto understood = files::understand(look, in_degrees);
    const files::OneWayWords one_way(&look);
    for (const auto v : values) {
        (void)files::number_in(v, understood.format);
        (void)one_way.parse(v);
        (void)files::parse_class_word(v);
        (void)files::kmh_of(v);
        (void)files::heading_says_mph(v);
    }
    try {
        const auto layout = files::layout_of_bytes(text, true, "a.csv");
        if (layout.start > text.size()) std::abort();
    } catch (const InputError&) {
    }
}
