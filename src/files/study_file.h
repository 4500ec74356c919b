#pragma once
/// \file
/// The study file: one valid GeoPackage.
///
/// Layers `roads`, `water`, `demand_1`, `demand_2`, ..., `sites_1`, ..., `zones_1`, ... hold what was added, in
/// longitude and latitude, with plain column names that any program can read. The attribute table `otoro_study` has two
/// columns, `key` and `value` (JSON): `format` (2), `name`, `questions`, `in_sight`, `plans`, `roads`, `demand`,
/// `sites`, `zones`, `profiles`, `accepted`, and in `content` how many
/// rows every layer has and a digest of them, and of each setting (`study_layers.h`), which are checked on opening.
/// Coordinates are kept to the last bit, so a study opened again gives the same answers.
///
/// \par Versions
/// 1: one `question`, sites of plans named by id. 2: several `questions`, zones, groups, and sites of plans named for
/// good. Every version is read; what an earlier one did not say gets its default.
#include <string>
#include <vector>

#include "files/atomic_file.h"
#include "geo/task.h"
#include "service/study.h"

namespace otoro::files {

/// Atomic: the old file or the new one. \param expected if given, what the file must still be, so that nobody's work is
/// written over \throws InputError if it cannot be written; ChangedMeanwhile; Stopped
void save_study(const service::Study& study, const std::string& path, const Task& task,
                const std::optional<Expected>& expected = std::nullopt);

/// \param remarks if given, gets a sentence for each thing in the file that this version does not know and leaves alone
/// \throws InputError if it is not a study, is damaged, or was made by a later version; Stopped
service::Study open_study(const std::string& path, const Task& task, std::vector<std::string>* remarks = nullptr);

/// Whether a file looks like a study rather than somebody's data, without reading it all. Never throws.
bool is_study(const std::string& path);

}  // namespace otoro::files
