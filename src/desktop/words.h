#pragma once
/// \file
/// Words of the trade as a person reads them: never a code.
#include <QString>

#include "geo/amounts.h"
#include "geo/wording.h"
#include "places/demand.h"
#include "service/outcome.h"

class QLabel;
class QWidget;

namespace otoro::desktop {

/// A text of the core as Qt has it.
inline QString plain(const std::string& text) { return QString::fromStdString(text); }
/// What the technical words in a text mean, a line each; empty if there are none.
QString explained(const QString& text);
/// "beyond the limit".
QString words(service::Status status);
/// "open", "candidate", "closed".
QString words(places::SiteState state);
/// "met", "not met", "nobody there"; and with a tick, a cross, or neither.
QString judged_words(service::Judged judged);
QString marked_words(service::Judged judged);
/// The mark of what is shown of an answer that is out of date. \returns a label, out of sight
QLabel* out_of_date(QWidget* parent);
/// A number with this many decimals and the desktop's decimal mark, never grouped: it pastes as a number.
QString decimal(double v, int decimals);
/// The one way a share is said: "99.9 %", rounded down, so that none but all is said to be all; a dash of nothing.
QString percent(Weight part, Weight whole);
/// Of lengths and areas, likewise.
QString percent(double part, double whole);
/// "km" or "mi".
QString long_unit();
/// What a value of a measure is said in, "min", "km" or "mi"; and how many of its own units (ms, mm) that is.
QString unit_of(routing::Measure measure);
double counts_per_unit(routing::Measure measure);
/// "12.40 km" or "7.71 mi".
QString long_length(Millimetres length, int decimals = 2);
/// The desktop's decimal mark and the planner's choice of kilometres or miles, for all that is said from now on.
void take_wording();
/// Keeps the choice for later sittings.
void choose_miles(bool miles);
/// A whole number, its thousands apart: "12,345".
QString number(std::uint64_t n);
/// "1 record", "2 records". \param one, many translated already
QString counted(std::uint64_t n, const QString& one, const QString& many);

/// Limits as they are said together: "4, 8 min".
QString said_limits(const std::vector<Amount>& limits);
/// The same read again: numbers apart by commas followed by a space, semicolons or spaces, and a unit (min, m, km;
/// none: minutes); ascending, each once. Empty if it cannot be read.
std::vector<Amount> limits_from(const QString& text);

}  // namespace otoro::desktop
