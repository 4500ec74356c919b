#include "files/read_pairs.h"

#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <array>
#include <unordered_map>

#include "files/read_values.h"

namespace otoro::files {
namespace {

std::string needed(const Source& source, const std::optional<std::string>& chosen, const std::string& guessed,
                   const char* what) {
    std::string field = resolve(source, chosen, guessed, what);
    if (field.empty())
        source.fail(std::nullopt, fmt::format("no field for {} was found by name", what),
                    fmt::format("Name it; it has {}", fmt::join(source.fields(), ", ")));
    return field;
}

}  // namespace

PairFields guess_pair_fields(const std::vector<std::string>& fields) {
    return {guess_field(fields, {"demand id", "demand", "place id", "place", "household id", "household", "pupil id",
                                 "pupil", "origin id", "origin", "from"}),
            guess_field(fields, {"site id", "site", "school id", "school", "station id", "station", "depot id", "depot",
                                 "destination id", "destination", "to"}),
            guess_field(fields, {"value", "visits", "trips", "count", "revenue", "use"})};
}

PairsRead read_pairs(const PairChoice& choice, const Task& task) {
    Source source(choice.layer, Shape::none, task);
    PairsRead out;
    const auto guessed = guess_pair_fields(source.fields());
    out.fields = {needed(source, choice.demand, guessed.demand, "the id of the demand"),
                  needed(source, choice.site, guessed.site, "the id of the site"),
                  needed(source, choice.value, guessed.value, "the value")};
    out.pairs.name = out.fields.value;
    out.pairs.demand = places::TextColumn(out.fields.demand);
    out.pairs.sites = places::TextColumn(out.fields.site);
    const int demand = index_of(source, out.fields.demand), site = index_of(source, out.fields.site),
              value = index_of(source, out.fields.value);
    source.look_at(std::array{value});
    std::unordered_map<std::uint64_t, std::int64_t> first;
    const auto expected = static_cast<double>(source.expected_records());
    std::int64_t number = 0;
    while (const auto record = source.next()) {
        if (number++ % 4096 == 0)
            task.at("reading pairs", expected > 0 ? static_cast<double>(source.record()) / expected : 0.0);
        const std::string d = source.text(*record, demand), s = source.text(*record, site);
        const std::string id = d + ", " + s;
        const auto set_aside = [&](std::string wrong) {
            out.flaws.push_back(
                {source.path(), source.record(), id, std::move(wrong), true, FlawKind::other, std::nullopt});
        };
        if (d.empty() || s.empty()) {
            set_aside(fmt::format("it names no {}", d.empty() ? "demand place" : "site"));
            continue;
        }
        std::string wrong;
        const auto v = read_weight(source, *record, value, wrong);
        if (!v) {
            set_aside("its value " + wrong);
            continue;
        }
        auto& pairs = out.pairs;
        const std::size_t at = pairs.values.size();
        pairs.demand.push_back(d);
        pairs.sites.push_back(s);
        const std::uint64_t key = (std::uint64_t{pairs.demand.value_of(at)} << 32U) | pairs.sites.value_of(at);
        if (const auto [known, added] = first.try_emplace(key, source.record()); !added) {
            pairs.demand.pop_back();
            pairs.sites.pop_back();
            set_aside(fmt::format("the pair stands in record {} already, which counts", known->second + 1));
            continue;
        }
        pairs.values.push_back(*v);
    }
    if (number == 0) source.fail(std::nullopt, "it has no records", "Export it again with its records");
    if (out.pairs.values.empty())
        source.fail(out.flaws[0].record,
                    fmt::format("none of its {} records can be used; the first: {}", number, out.flaws[0].wrong),
                    "Name the fields of the demand's id, the site's id and the value");
    out.left_out = source.left_out();
    out.remarks = source.remarks();
    if (const auto said = source.remark(value); !said.empty())
        out.remarks.push_back(fmt::format("'{}' {}", out.fields.value, said));
    return out;
}

}  // namespace otoro::files
