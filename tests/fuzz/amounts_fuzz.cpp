/// Amounts, speeds, shares and numbers as people write them.
#include "fuzz/fuzz.h"
#include "geo/amounts.h"
#include "geo/error.h"

OTORO_FUZZ(text) {
    using namespace otoro;
    double number = 0;
    (void)parse_number(text, number);
    for (const auto parse : {+[](std::string_view t) { (void)describe(parse_amount(t)); },
                             +[](std::string_view t) { (void)describe(parse_speed(t)); },
                             +[](std::string_view t) { (void)describe(parse_share(t)); }}) {
        try {
            parse(text);
        } catch (const InputError&) {
        }
    }
}
