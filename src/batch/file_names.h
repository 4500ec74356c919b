#pragma once
/// \file
/// Names for files that are called after plans and questions.
#include <set>
#include <string>
#include <vector>

namespace otoro::batch {

/// A name as part of a file's name, which some disks keep short and whose case some do not heed.
std::string file_part(const std::string& name);

/// No two names lead to one file.
class FileNames {
public:
    /// \param taken names that are used already \param endings what is put after a name, each a file of its own
    /// \param not_first how no name begins, in small letters: names of another command do
    FileNames(std::set<std::string> taken, std::vector<std::string> endings, std::string not_first = {})
        : taken_(std::move(taken)), endings_(std::move(endings)), not_first_(std::move(not_first)) {}
    std::string next(const std::string& name);

private:
    std::set<std::string> taken_;
    std::vector<std::string> endings_;
    std::string not_first_;
};

/// How the names begin of all that `compare` writes, and of nothing that `answer` does: both may go into one folder.
inline constexpr const char* kCompared = "compared";

}  // namespace otoro::batch
