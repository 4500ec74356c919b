#include "service/answer_digest.h"

#include "geo/digest.h"

namespace otoro::service {
namespace {

void add(Digest& d, const std::optional<Amount>& a) {
    d.value(a ? static_cast<std::int64_t>(a->index()) : std::int64_t{-1})
        .value(a ? std::visit([](auto v) { return v.count(); }, *a) : std::int64_t{0});
}

// By nearness nothing is said but the measure, as ever.
void add(Digest&, const Nearest&) {}
void add(Digest& d, const SeveralNearest& rule) { d.text("several").value(rule.count).value(rule.needed); }
void add(Digest& d, const AsCapacityAllows& rule) {
    d.text("capacity")
        .value(static_cast<std::uint8_t>(rule.fill))
        .value(static_cast<std::uint8_t>(rule.split))
        .value(static_cast<std::uint8_t>(rule.by_priority));
}
void add(Digest& d, const AsRecorded&) { d.text("recorded"); }
void add(Digest& d, const WholeZones&) { d.text("zones"); }
void add(Digest& d, const ByPairs& rule) {
    d.text("pairs").value(static_cast<std::uint8_t>(rule.smallest)).value(rule.of_value.ppm());
    if (rule.else_nearest) d.text("else nearest");
}

}  // namespace

std::string digest_of(const Inputs& inputs) {
    Digest d;
    d.text(inputs.network->digest());
    bool by_name = false;
    const auto add_sets = [&](const auto& all) {
        if (all.sets().size() != 1) d.value(static_cast<std::uint64_t>(all.sets().size()));
        for (const auto& set : all.sets()) {
            d.text(set->digest());
            by_name = by_name || !set->attaching.road_names.empty();
        }
    };
    add_sets(inputs.demand);
    add_sets(inputs.sites);
    if (inputs.zones) d.text("zones").text(inputs.zones->digest());
    if (inputs.pairs) d.text("pairs").text(inputs.pairs->digest());
    if (by_name)
        for (std::uint32_t i = 0; i < inputs.network->link_count(); ++i) d.text(inputs.network->name(LinkId(i)));
    return d.hex();
}

std::string digest_of(const Ready& ready, const Plan& plan) {
    const Question& q = ready.question;
    Digest d;
    d.text(ready.digest);
    d.value(static_cast<std::uint8_t>(q.by_weight)).value(static_cast<std::uint8_t>(q.use));
    travel::add(d, q.profile);
    d.value(static_cast<std::uint8_t>(q.towards))
        .value(static_cast<std::uint8_t>(q.measure()))
        .value(q.attach_limit.count());
    d.value(q.off_road_speed ? q.off_road_speed->mm_per_hour() : 0U);
    add(d, q.limit);
    if (q.own_limits) d.text("own limits");
    if (q.turnout.count() != 0) d.text("turnout").value(q.turnout.count());
    std::visit([&](const auto& rule) { add(d, rule); }, q.serving);
    d.value(static_cast<std::uint64_t>(plan.changes.size())).value(static_cast<std::uint64_t>(plan.closures.size()));
    for (const auto& c : plan.changes) {
        d.value(static_cast<std::uint8_t>(c.change)).text(c.site);
        d.text(c.set).value(static_cast<std::uint8_t>(c.position.has_value()));
        if (c.position) d.value(c.position->lon).value(c.position->lat);
        if (c.nth != 1 || c.added) d.text("site").value(c.nth).value(static_cast<std::uint8_t>(c.added));
    }
    for (const auto& c : plan.closures) {
        d.value(static_cast<std::uint64_t>(c.more_rings.size()));
        for (const auto& ring : c.more_rings) d.array(ring);
        d.value(static_cast<std::uint8_t>(c.shape))
            .array(c.vertices)
            .value(static_cast<std::uint8_t>(c.effect))
            .value(c.factor_per_mille)
            .value(c.delay.count());
    }
    return d.hex();
}

}  // namespace otoro::service
