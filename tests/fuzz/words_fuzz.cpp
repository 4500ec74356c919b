/// Words in road and place files: classes, one-way, states, rules, modes.
#include "fuzz/fuzz.h"
#include "places/demand.h"
#include "roads/prepare.h"
#include "travel/profile.h"

OTORO_FUZZ(text) {
    using namespace otoro;
    if (const auto c = roads::parse_class(text)) (void)roads::name(c->road_class);
    (void)roads::parse_one_way(text);
    (void)roads::parse_join_rule(text);
    (void)places::parse_site_state(text);
    (void)travel::parse_mode(text);
}
