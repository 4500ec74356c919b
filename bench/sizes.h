#pragma once
/// How time grows with what is asked for: each piece of work at two sizes, with the exponent between.
#include <string>

namespace otoro::bench {

/// \param county a folder with a county's roads and households \param district Saltmere's files
void run_sizes(const std::string& county, const std::string& district);

}  // namespace otoro::bench
