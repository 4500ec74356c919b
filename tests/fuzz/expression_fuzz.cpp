/// Conditions and formulas.
#include "files/expression.h"
#include "fuzz/fuzz.h"
#include "geo/error.h"

OTORO_FUZZ(text) {
    using namespace otoro;
    try {
        const auto e = files::Expression::parse(text);
        const auto field = [](std::size_t i) -> std::optional<std::string> {
            return i % 3 == 0 ? std::nullopt : std::optional<std::string>(i % 3 == 1 ? "30" : "residential");
        };
        (void)e.holds(field);
        (void)e.number(field);
    } catch (const InputError&) {
    }
}
