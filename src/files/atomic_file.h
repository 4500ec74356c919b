#pragma once
/// \file
/// Writing so that a reader finds the old file or the new one, never half.
///
/// What is written goes into a hidden folder of its own beside the target, is flushed to the disk and takes the
/// target's name in one step. A symbolic link is followed to the file it names; that file's permissions are kept. A
/// device or a pipe cannot be replaced: what was written is copied into it.
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>

#include "geo/error.h"

namespace otoro::files {

/// Tells one state of a file from another, so that nobody overwrites what somebody else wrote meanwhile.
struct FileStamp {
    std::uint64_t device = 0, inode = 0, size = 0;
    std::int64_t changed_ns = 0;
    bool operator==(const FileStamp&) const = default;
};
/// The stamp of what `path` leads to; nothing if there is no such file.
std::optional<FileStamp> stamp_of(const std::string& path);

/// What `expected` of `write_atomically` may be: the state that the target must still be in when the new file takes its
/// name.
struct Expected {
    std::optional<FileStamp> stamp;  ///< none: there must be no such file
};

/// The target is not what it was expected to be: somebody else wrote it.
class ChangedMeanwhile : public InputError {
public:
    using InputError::InputError;
};

/// Writes to a file in a folder beside `path`, flushes it to the disk and renames it over `path`. If `write` throws, or
/// the disk refuses, the old file stays as it was and nothing is left behind; only where the program itself is killed
/// in the middle, a hidden folder beside the target is, which the next to write there clears away. Safe from many
/// threads and programs at once, also for one target. \param write given the path to write to; it has the same
/// extension as `path` \param expected if given, the target must still be so \throws InputError naming `path`, if the
/// folder cannot be written; ChangedMeanwhile; whatever `write` throws
void write_atomically(const std::string& path, const std::function<void(const std::string& temporary)>& write,
                      const std::optional<Expected>& expected = std::nullopt);

/// Files that belong together: while one of these is alive, what this program writes atomically is finished and flushed
/// beside its target, but takes its name only when all are put in place. If they never are, all is as it was, folders
/// that were made for them included. One at a time.
class OutputsTogether {
public:
    OutputsTogether();
    ~OutputsTogether();
    OutputsTogether(const OutputsTogether&) = delete;
    OutputsTogether& operator=(const OutputsTogether&) = delete;
    /// All take their names; if one cannot, those before it are again what they were, as far as the disk knows second
    /// names for a file. What goes into a device or a pipe goes first, and cannot be taken back. \throws InputError,
    /// ChangedMeanwhile
    void put_in_place();
};

/// Makes a folder and those above it, as far as they are not there. \throws InputError
void make_folder(const std::string& path);

/// `write_atomically` for a text, or any bytes.
void write_text(const std::string& path, std::string_view text);

/// Whether `path` could be written, before anything long is worked out for it: the folder is there and may be written
/// to, and it is no folder itself. \throws InputError
void check_can_write(const std::string& path);

/// Whether a path leads to a device or a pipe, which is written to and never replaced.
bool is_device_or_pipe(const std::string& path);

/// Whether two paths lead to one file, links followed; also where neither is there yet.
bool same_file(const std::string& a, const std::string& b);

/// Bytes to a file, each refusal of the disk an error.
class CheckedFile {
public:
    /// \param path where to write \param shown_as the path that errors name
    CheckedFile(const std::string& path, std::string shown_as);
    ~CheckedFile();
    CheckedFile(const CheckedFile&) = delete;
    CheckedFile& operator=(const CheckedFile&) = delete;
    void write(std::string_view bytes);
    /// \throws InputError if anything did not reach the file
    void close();

private:
    [[noreturn]] void refuse(int why);
    void flush();
    std::string shown_as_;
    std::string buffer_;
    int descriptor_ = -1;
};

}  // namespace otoro::files
