#pragma once
/// \file
/// A look at a layer before it is added: its first records, and where its shapes lie.
#include <string>
#include <vector>

#include "files/source.h"

namespace otoro::files {

struct Preview {
    std::vector<std::string> fields;
    std::vector<std::vector<std::string>> rows;  ///< the first records, a text a field, as they stand in the file
    /// Longitudes and latitudes: a point, a line or a ring each, of records spread over those that were looked at; long
    /// ones with some of their vertices left out.
    std::vector<std::vector<geo::LonLat>> shapes;
    std::string wrong;  ///< why the first record that cannot be placed cannot be; empty if all can
};

/// Looks at some twenty thousand records at most. Not for OpenStreetMap files. \param rows, shapes how many are wanted
/// at most \throws InputError; Stopped
Preview preview(const LayerChoice& choice, Shape wanted, std::size_t rows, std::size_t shapes, const Task& task);

}  // namespace otoro::files
