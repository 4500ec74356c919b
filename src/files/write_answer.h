#pragma once
/// \file
/// Handing an answer out.
///
/// One row a demand place, in file order: `demand_id, rank, site_id, status, minutes, metres, off_road_m, straight_m,
/// weight, within_standard, note`. What there is none of stays empty: a place that is not served has no rank, site,
/// minutes or metres. `minutes` has five decimals and `metres` three, enough for the exact millisecond and millimetre.
/// `note` says in words why a place is not served.
#include <string>

#include "files/answer_table.h"
#include "service/assign.h"

namespace otoro::files {

enum class AnswerShape : std::uint8_t {
    points,  ///< each place where it stands
    lines,   ///< each served place joined to its site by a straight line; the unserved have no shape
};

/// By the ending of `path`: `.csv`, `.gpkg` or `.geojson`. Atomic. GeoPackage and GeoJSON carry the question's sentence
/// as the layer's description. \param which places, if not all. A GeoPackage gets no index by place, which would take
/// two thirds of the time; a program that draws it can add one. \throws InputError for another ending, or if the file
/// cannot be written; Stopped
void write_answer(const service::Ready& ready, const service::Outcome& outcome, const std::string& path,
                  AnswerShape shape, const Task& task, const WhichPlaces& which = {});

/// One row a site: `site_id, name, state, in_use, places, load, capacity, worst_minutes`, as CSV. Atomic.
void write_loads(const service::Outcome& outcome, const std::string& path);

/// A text as a CSV cell (RFC 4180), quoted where needed, always UTF-8. A text that begins like a formula, with `=`,
/// `+`, `-`, `@`, a tab or a return, and is no number, gets an apostrophe before it, so that a spreadsheet shows it and
/// does not work it out; the apostrophe is taken off again where Otoro reads a table.
std::string csv_cell(const std::string& text);
/// A row with its end; numbers as their columns want them.
std::string csv_row(const std::vector<AnswerColumn>& columns, const std::vector<Cell>& cells);
/// Every row ends so.
inline constexpr const char* kCsvEnd = "\r\n";

/// The answer in plain words: sentence, verdict, counts by status, statistics. `otoro-batch` prints it.
std::string summary(const service::Ready& ready, const service::Outcome& outcome);

}  // namespace otoro::files
