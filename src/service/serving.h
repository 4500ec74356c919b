#pragma once
/// \file
/// The rule by which a question finds the site of a place.
///
/// Each rule is a type of its own, and one alternative of `Serving`. What belongs to it stands in one place for each
/// concern: its words in `serving.cpp`, how it is answered in a `serve_*.cpp`, how it is kept in
/// `files/serving_json.cpp`, its options in `batch/serving_options.cpp`, its editor in
/// `desktop/blanks/serving_blank.cpp`. The compiler names what is missing: each of them visits all alternatives.
#include <string>
#include <variant>

#include "routing/graph.h"

namespace otoro::service {

/// Every place goes to the site that is nearest by a measure; ties go to the site first in file order.
struct Nearest {
    routing::Measure measure = routing::Measure::time;
    bool operator==(const Nearest&) const = default;
};

using Serving = std::variant<Nearest>;

/// By which measure sites are near.
routing::Measure measure_of(const Serving& serving);

/// As the sentence says it: "nearest by time".
std::string describe(const Serving& serving);

}  // namespace otoro::service
