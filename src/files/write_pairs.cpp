#include "files/write_pairs.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <numeric>

#include "files/atomic_file.h"
#include "files/piped_text.h"
#include "geo/error.h"
#include "geo/wording.h"
#include "service/access_legs.h"
#include "service/few_nearest.h"
#include "service/searching.h"
#include "service/travel_table.h"

namespace otoro::files {
namespace {

using Kind = AnswerColumn::Kind;

constexpr std::size_t kMostOfANumber = 24;  // bytes

/// A whole number of 10^-decimals, as it is written: 12345 with 3 is 12.345. \pre it is not negative
char* put_fixed(char* out, std::int64_t value, std::size_t decimals) {
    char* const end = std::to_chars(out, out + kMostOfANumber, value).ptr;
    const auto count = static_cast<std::size_t>(end - out);
    if (count <= decimals) {
        // As many zeros before it as there is no digit for.
        std::copy_backward(out, end, out + 2 + decimals);
        std::fill(out, out + 2 + (decimals - count), '0');
        out[1] = '.';
        return out + 2 + decimals;
    }
    for (char* at = end; at != end - decimals; --at) *at = at[-1];
    *(end - decimals) = '.';
    return end + 1;
}

char* put_text(char* out, const std::string& text) { return std::copy(text.begin(), text.end(), out); }

std::size_t longest_of(const std::vector<std::string>& texts) {
    std::size_t out = 0;
    for (const auto& t : texts) out = std::max(out, t.size());
    return out;
}

/// Minutes with five decimals: every millisecond has a text of its own.
std::int64_t hundred_thousandths_of_a_minute(std::int64_t ms) { return (ms * 5 + 1) / 3; }
/// Thousandths, rounded.
std::int64_t detour_of(std::int64_t mm, std::int64_t straight) { return (mm * 2000 + straight) / (2 * straight); }

std::vector<std::string> cells_of(const std::vector<PairEnd>& ends, bool with_names) {
    std::vector<std::string> out;
    out.reserve(ends.size());
    for (const auto& e : ends) out.push_back(csv_cell(e.id) + (with_names ? "," + csv_cell(e.name) : ""));
    return out;
}

std::vector<std::optional<geo::StraightEnd>> ends_of(const std::vector<std::optional<geo::LonLat>>& at) {
    std::vector<std::optional<geo::StraightEnd>> out;
    out.reserve(at.size());
    for (const auto& p : at) out.push_back(p ? std::optional(geo::StraightEnd(*p)) : std::nullopt);
    return out;
}

Cell text_or_empty(const std::string& text) { return text.empty() ? Cell() : Cell(text); }

}  // namespace

PairWriter::PairWriter(PairNames names, bool ranked)
    : names_(std::move(names)),
      ranked_(ranked),
      site_cells_(cells_of(names_.sites, names_.both_named)),
      place_cells_(cells_of(names_.places, names_.both_named)),
      site_ends_(ends_of(names_.site_at)),
      place_ends_(ends_of(names_.place_at)) {
    std::vector<AnswerColumn> columns;
    const auto add_end = [&](const std::string& what) {
        columns.push_back({what + "_id"});
        if (names_.both_named) columns.push_back({what + "_name"});
    };
    add_end(names_.place_first ? names_.place : names_.site);
    add_end(names_.place_first ? names_.site : names_.place);
    if (ranked_) columns.push_back({"rank", Kind::whole});
    columns.push_back({"minutes", Kind::number, 5});
    columns.push_back({"metres", Kind::number, 3});
    if (!names_.both_named) columns.push_back({names_.site + "_name"});
    columns.push_back({"straight_m", Kind::number, 3});
    columns.push_back({"detour", Kind::number, 3});
    columns_ = shape_columns(columns);
    if (!names_.both_named)
        for (const auto& s : names_.sites) site_names_.push_back(csv_cell(s.name));
}

std::optional<std::int64_t> PairWriter::straight(const Pair& pair) const {
    const auto &a = site_ends_[pair.site], &b = place_ends_[pair.place];
    if (!a || !b) return std::nullopt;
    return Millimetres::from_metres(a->metres_to(*b)).count();
}

char* PairWriter::put_row(const Pair& pair, char* out) const {
    out = put_text(out, names_.place_first ? place_cells_[pair.place] : site_cells_[pair.site]);
    *out++ = ',';
    out = put_text(out, names_.place_first ? site_cells_[pair.site] : place_cells_[pair.place]);
    *out++ = ',';
    if (ranked_) {
        out = std::to_chars(out, out + kMostOfANumber, pair.rank).ptr;
        *out++ = ',';
    }
    out = put_fixed(out, hundred_thousandths_of_a_minute(pair.ms), 5);
    *out++ = ',';
    out = put_fixed(out, pair.mm, 3);
    *out++ = ',';
    if (!names_.both_named) {
        out = put_text(out, site_names_[pair.site]);
        *out++ = ',';
    }
    const auto mm = straight(pair);
    if (mm) out = put_fixed(out, *mm, 3);
    *out++ = ',';
    if (mm && *mm > 0) out = put_fixed(out, detour_of(pair.mm, *mm), 3);
    return put_text(out, kCsvEnd);
}

std::size_t PairWriter::longest_row() const {
    constexpr std::size_t kNumbers = 5, kBetween = 12;
    return longest_of(site_cells_) + longest_of(place_cells_) + longest_of(site_names_) + kNumbers * kMostOfANumber +
           kBetween;
}

ShapeRow PairWriter::row_of(const Pair& pair) const {
    ShapeRow row;
    const auto add_end = [&](const PairEnd& end) {
        row.cells.emplace_back(end.id);
        if (names_.both_named) row.cells.push_back(text_or_empty(end.name));
    };
    const PairEnd &site = names_.sites[pair.site], &place = names_.places[pair.place];
    add_end(names_.place_first ? place : site);
    add_end(names_.place_first ? site : place);
    if (ranked_) row.cells.emplace_back(pair.rank);
    row.cells.emplace_back(static_cast<double>(hundred_thousandths_of_a_minute(pair.ms)) / 1e5);
    row.cells.emplace_back(static_cast<double>(pair.mm) / 1e3);
    if (!names_.both_named) row.cells.push_back(text_or_empty(site.name));
    const auto mm = straight(pair);
    row.cells.push_back(mm ? Cell(static_cast<double>(*mm) / 1e3) : Cell());
    row.cells.push_back(mm && *mm > 0 ? Cell(static_cast<double>(detour_of(pair.mm, *mm)) / 1e3) : Cell());
    return row;
}

double PairWriter::bytes_for(double rows) const {
    const auto mean = [](const std::vector<std::string>& cells) {
        double sum = 0;
        for (const auto& c : cells) sum += static_cast<double>(c.size()) + 1;
        return cells.empty() ? 0.0 : sum / static_cast<double>(cells.size());
    };
    constexpr double kNumbers = 34;
    return rows * (mean(site_cells_) + mean(place_cells_) + mean(site_names_) + kNumbers);
}

PairWriter::Written PairWriter::each_few(const service::Ready& ready, const service::Plan& plan, std::uint32_t nearest,
                                         const std::function<void(std::span<const Pair>)>& use,
                                         const Task& task) const {
    Written out;
    out.left_out = service::PairsLeftOut(ready, plan);
    std::vector<Pair> pairs;
    if (nearest == 0) {
        each_site_to_all(
            ready, plan,
            [&](SiteIndex site, std::span<const service::PlaceOutcome> places) {
                pairs.clear();
                for (std::uint32_t i = 0; i < places.size(); ++i)
                    if (places[i].served())
                        pairs.push_back({static_cast<std::uint32_t>(site.value()), i, 1, places[i].time.count(),
                                         places[i].distance.count()});
                    else
                        out.left_out.add(static_cast<std::uint32_t>(site.value()), i);
                out.without += places.size() - pairs.size();
                out.rows += pairs.size();
                use(pairs);
            },
            task);
        return out;
    }
    const auto sites = attach_sites(ready, plan);
    const service::FewNearest few(ready, costed_under(ready, plan, task), sites);
    const bool by_time = ready.question.measure() == routing::Measure::time;
    const std::uint32_t count = ready.inputs.demand.count();
    constexpr std::uint32_t kAtOnce = 1'000'000;  // places
    for (std::uint32_t begin = 0; begin < count; begin += kAtOnce) {
        std::vector<std::uint32_t> places(std::min(kAtOnce, count - begin));
        std::iota(places.begin(), places.end(), begin);
        const auto table = few.within_limit(places, nearest, {}, task);
        for (std::size_t row = 0; row < places.size(); ++row) {
            std::int64_t rank = 0;
            if (table.of(row).empty()) {
                ++out.without;
                out.left_out.add(std::nullopt, places[row]);
            }
            for (const auto& r : table.of(row))
                pairs.push_back({r.site, places[row], ++rank, by_time ? r.cost : r.other, by_time ? r.other : r.cost});
            constexpr std::size_t kPairs = 8192;
            if (pairs.size() < kPairs && row + 1 < places.size()) continue;
            out.rows += pairs.size();
            use(pairs);
            pairs.clear();
        }
    }
    return out;
}

std::vector<std::string> left_out_words(const service::PairsLeftOut& left_out, const PairNames& names,
                                        const service::Question& question, bool coded) {
    constexpr std::size_t kMostEnds = 20;
    std::vector<std::string> out;
    const auto call = [&](const PairEnd& end) {
        return coded || end.name.empty() ? end.id : fmt::format("{} ({})", end.name, end.id);
    };
    const auto add = [&](const std::vector<service::PairsLeftOut::End>& ends, const std::vector<PairEnd>& called,
                         const std::string& what) {
        for (std::size_t k = 0; k < std::min(ends.size(), kMostEnds); ++k)
            out.push_back(fmt::format("{} {} is left out: {}", what, call(called[ends[k].number]),
                                      coded ? service::off_road_words(ends[k].has_position)
                                            : service::off_road_reason(ends[k].has_position)));
        if (ends.size() > kMostEnds)
            out.push_back(fmt::format("... and {} more of the kind", said_whole(ends.size() - kMostEnds)));
    };
    add(left_out.sites(), names.sites, names.site);
    add(left_out.places(), names.places, names.place);
    if (left_out.without_way() == 0) return out;
    std::vector<std::string> first;
    for (const auto& pair : left_out.first())
        first.push_back((pair.site ? call(names.sites[*pair.site]) + " to " : "") + call(names.places[pair.place]));
    const bool more = left_out.without_way() > first.size();
    out.push_back(fmt::format(
        "no way{} for {}{}", question.limit || question.own_limits ? " within the limit" : "", fmt::join(first, ", "),
        more ? fmt::format(" and {} more", said_whole(left_out.without_way() - first.size())) : std::string()));
    return out;
}

PairWriter::Written PairWriter::write(const service::Ready& ready, const service::Plan& plan, std::uint32_t nearest,
                                      const std::string& path, const Task& task) const {
    Written out;
    if (path.ends_with(".csv") || path.ends_with(".CSV") || is_device_or_pipe(path)) {
        write_atomically(path, [&](const std::string& temporary) {
            CheckedFile file(temporary, path);
            std::string head;
            for (const auto& c : columns_) head += (head.empty() ? "" : ",") + csv_cell(c.name);
            file.write(head + kCsvEnd);
            PipedText<Pair> text(
                file,
                [this](std::span<const Pair> pairs, char* at) {
                    for (const Pair& pair : pairs) at = put_row(pair, at);
                    return at;
                },
                longest_row());
            out = each_few(
                ready, plan, nearest, [&](std::span<const Pair> pairs) { text.add(pairs); }, task);
            text.finish();
            file.close();
        });
        return out;
    }
    ShapeTable table;
    table.name = "pairs";
    table.kind = ShapeKind::none;
    table.columns = columns_;
    table.each_row = [&](const std::function<void(const ShapeRow&)>& use) {
        out = each_few(
            ready, plan, nearest,
            [&](std::span<const Pair> pairs) {
                for (const Pair& pair : pairs) use(row_of(pair));
            },
            task);
    };
    const auto remark = write_table(table, path, task);
    out.remark = remark;
    return out;
}

std::string write_wide(const service::PairMatrix& matrix, const PairNames& names, bool rows_are_places, bool metres,
                       const std::string& path, const Task& task) {
    const auto& row_ends = rows_are_places ? names.places : names.sites;
    const auto& column_ends = rows_are_places ? names.sites : names.places;
    const std::string& row_name = rows_are_places ? names.place : names.site;
    const std::size_t rows = rows_are_places ? matrix.places() : matrix.rows(),
                      others = rows_are_places ? matrix.rows() : matrix.places();
    constexpr std::size_t kMostColumns = 1'990;  // of a database's table
    if (others > kMostColumns && !path.ends_with(".csv") && !path.ends_with(".CSV"))
        throw InputError({path, std::nullopt, fmt::format("a table of this kind holds no {} columns", others),
                          "Write .csv, or leave out --wide"});
    std::vector<AnswerColumn> columns{{row_name + "_id"}, {row_name + "_name"}};
    for (std::size_t c = 0; c < others; ++c) {
        const auto& end = column_ends[rows_are_places ? matrix.sites()[c].value() : c];
        columns.push_back({(metres ? "metres_" : "minutes_") + end.id, Kind::number, metres ? 3 : 5});
    }
    ShapeTable table;
    table.name = "pairs";
    table.kind = ShapeKind::none;
    table.columns = shape_columns(columns);
    table.each_row = [&](const std::function<void(const ShapeRow&)>& use) {
        ShapeRow out;
        for (std::size_t r = 0; r < rows; ++r) {
            const auto& end = row_ends[rows_are_places ? r : matrix.sites()[r].value()];
            out.cells = {end.id, text_or_empty(end.name)};
            for (std::size_t c = 0; c < others; ++c) {
                const std::size_t site = rows_are_places ? c : r, place = rows_are_places ? r : c;
                if (!matrix.there(site, place))
                    out.cells.emplace_back();
                else if (metres)
                    out.cells.emplace_back(matrix.distance(site, place).metres());
                else
                    out.cells.emplace_back(matrix.time(site, place).minutes());
            }
            use(out);
        }
    };
    return write_table(table, path, task);
}

ShapeTable statistics_table(const service::MatrixStatistics& statistics, const service::PairMatrix& matrix,
                            const PairNames& names) {
    std::vector<AnswerColumn> columns{{"of"}, {"id"}, {"name"}, {"pairs", Kind::whole}, {"without", Kind::whole}};
    for (const auto& [unit, decimals] : {std::pair{"minutes", 5}, std::pair{"metres", 3}})
        for (const char* const what : {"mean", "median", "p90", "worst"})
            columns.push_back({fmt::format("{}_{}", what, unit), Kind::number, decimals});
    ShapeTable out;
    out.name = "statistics";
    out.kind = ShapeKind::none;
    out.columns = shape_columns(columns);
    out.each_row = [&](const std::function<void(const ShapeRow&)>& use) {
        const auto add = [&](const std::string& of, const PairEnd& end, const service::PairStatistics& s) {
            ShapeRow row;
            row.cells = {of, text_or_empty(end.id), text_or_empty(end.name), static_cast<std::int64_t>(s.pairs),
                         static_cast<std::int64_t>(s.without)};
            const auto add_measure = [&](const service::Statistics& m, double unit) {
                for (const double v :
                     {m.mean, static_cast<double>(m.median), static_cast<double>(m.p90), static_cast<double>(m.worst)})
                    row.cells.push_back(s.pairs > 0 ? Cell(v / unit) : Cell());
            };
            add_measure(s.time, 60'000);
            add_measure(s.distance, 1'000);
            use(row);
        };
        add("all", {}, statistics.all);
        const auto sites = [&] {
            for (std::size_t i = 0; i < statistics.by_row.size(); ++i)
                add(names.site, names.sites[matrix.sites()[i].value()], statistics.by_row[i]);
        };
        const auto places = [&] {
            for (std::size_t i = 0; i < statistics.by_place.size(); ++i)
                add(names.place, names.places[i], statistics.by_place[i]);
        };
        if (!names.place_first) sites();
        places();
        if (names.place_first) sites();
    };
    return out;
}

}  // namespace otoro::files
