#pragma once
/// \file
/// Tables of all pairs of two sets, handed out.
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "files/shape_table.h"
#include "geo/straight_line.h"
#include "service/pair_matrix.h"
#include "service/pairs_left_out.h"

namespace otoro::files {

/// How the ends of a pair are called.
struct PairEnd {
    std::string id, name;
};

/// What stands in the columns: of a site and a demand place, or of where a journey begins and where it ends.
struct PairNames {
    std::string site, place;   ///< `site` and `demand`; or `from` and `to`, whichever they are
    bool place_first = false;  ///< the place's columns come before the site's
    bool both_named = false;   ///< both ends have a column for their name, beside their id
    std::vector<PairEnd> sites, places;
    std::vector<std::optional<geo::LonLat>> site_at, place_at;
};

/// One row a pair, as they are found, so that a table larger than memory can be written: `site_id, demand_id, minutes,
/// metres, site_name, straight_m, detour`, or `from_id, from_name, to_id, to_name, minutes, metres, straight_m,
/// detour`; with the rank before the minutes where only the nearest are written. `detour` is metres over straight_m.
/// Pairs without a way within the question's limit are left out and counted.
class PairWriter {
public:
    PairWriter(PairNames names, bool ranked);

    struct Written {
        std::uint64_t rows = 0, without = 0;
        std::string remark;
        service::PairsLeftOut left_out;  ///< those without, and why
    };
    /// Every pair. \param nearest only so many nearest sites of each place; 0: all \throws InputError, Stopped
    Written write(const service::Ready& ready, const service::Plan& plan, std::uint32_t nearest,
                  const std::string& path, const Task& task) const;

    /// About how many bytes so many rows are as CSV.
    [[nodiscard]] double bytes_for(double rows) const;

private:
    struct Pair {
        std::uint32_t site, place;
        std::int64_t rank, ms, mm;
    };
    /// Calls `use` with some pairs at a time; they may be taken apart in parallel. \returns how many there are
    Written each_few(const service::Ready& ready, const service::Plan& plan, std::uint32_t nearest,
                     const std::function<void(std::span<const Pair>)>& use, const Task& task) const;
    /// Puts a row of text at `out`, which takes no more than `longest_row` bytes; returns its end.
    char* put_row(const Pair& pair, char* out) const;
    [[nodiscard]] std::size_t longest_row() const;
    [[nodiscard]] ShapeRow row_of(const Pair& pair) const;
    [[nodiscard]] std::optional<std::int64_t> straight(const Pair& pair) const;

    PairNames names_;
    bool ranked_;
    std::vector<ShapeColumn> columns_;
    std::vector<std::string> site_cells_, place_cells_;  ///< ids as CSV; where both ends are named, with the name
    std::vector<std::string> site_names_;                ///< as CSV
    std::vector<std::optional<geo::StraightEnd>> site_ends_, place_ends_;
};

/// Why pairs are in no row, a line each reason: every end that no road is near (twenty at most), and how many other
/// pairs have no way between them, with the first of them.
/// \param coded ends by their ids alone, and statuses as files have them; otherwise as people read them
std::vector<std::string> left_out_words(const service::PairsLeftOut& left_out, const PairNames& names,
                                        const service::Question& question, bool coded);

/// One row an end: minutes, or metres, to each of the others; a column each, whose name says which and the unit.
std::string write_wide(const service::PairMatrix& matrix, const PairNames& names, bool rows_are_places, bool metres,
                       const std::string& path, const Task& task);

/// Over all pairs, then of every end: `of, id, name, pairs, without, mean_minutes, median_minutes, p90_minutes,
/// worst_minutes, mean_metres, median_metres, p90_metres, worst_metres`.
/// What it is given must outlive it.
ShapeTable statistics_table(const service::MatrixStatistics& statistics, const service::PairMatrix& matrix,
                            const PairNames& names);

}  // namespace otoro::files
