#include "files/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <utility>
#include <vector>

namespace otoro::files {
namespace {
namespace fs = std::filesystem;

constexpr std::size_t kBuffer = 1U << 20U;
constexpr int kMostLinks = 40;

[[noreturn]] void refuse(const std::string& path, const std::string& why) {
    throw InputError({path, std::nullopt, fmt::format("it cannot be written ({})", why),
                      "Choose another folder, or make room on the disk; what was there is unchanged"});
}

/// Flushes a file or folder; returns why not, or nothing.
std::string flush_to_disk(const fs::path& path, int flags) {
    const int fd = ::open(path.c_str(), flags | O_CLOEXEC);
    if (fd < 0) return std::strerror(errno);
    const bool ok = ::fsync(fd) == 0;
    const std::string why = ok ? "" : std::strerror(errno);
    ::close(fd);
    return why;
}

/// The file that a path leads to, links followed, whether it is there or not.
fs::path real_target(const std::string& path) {
    fs::path at = fs::absolute(path);
    std::error_code error;
    for (int i = 0; i < kMostLinks && fs::is_symlink(fs::symlink_status(at, error)); ++i) {
        const fs::path next = fs::read_symlink(at, error);
        if (error) refuse(path, error.message());
        at = next.is_absolute() ? next : at.parent_path() / next;
    }
    if (fs::is_symlink(fs::symlink_status(at, error))) refuse(path, "its links lead in a circle");
    return at;
}

/// A folder of our own beside the target, removed with all that is in it.
struct Workroom {
    fs::path folder;
    explicit Workroom(const fs::path& beside, const std::string& shown_as) {
        std::string name = (beside / (".otoro-" + std::string(6, 'X'))).string();  // made unique by mkdtemp
        if (::mkdtemp(name.data()) == nullptr) refuse(shown_as, std::strerror(errno));
        folder = name;
    }
    ~Workroom() {
        std::error_code ignored;
        fs::remove_all(folder, ignored);
    }
    Workroom(const Workroom&) = delete;
    Workroom& operator=(const Workroom&) = delete;
};

bool is_special(const fs::path& target) {
    std::error_code error;
    const auto status = fs::status(target, error);
    return fs::exists(status) && !fs::is_regular_file(status) && !fs::is_directory(status);
}

/// What was written, into a device or a pipe.
void copy_into(const fs::path& from, const fs::path& to, const std::string& shown_as) {
    const int in = ::open(from.c_str(), O_RDONLY | O_CLOEXEC);
    if (in < 0) refuse(shown_as, std::strerror(errno));
    const int out = ::open(to.c_str(), O_WRONLY | O_CLOEXEC);
    int why = out < 0 ? errno : 0;
    std::vector<char> buffer(kBuffer);
    while (why == 0) {
        const ssize_t n = ::read(in, buffer.data(), buffer.size());
        if (n < 0) why = errno;
        if (n <= 0) break;
        for (ssize_t done = 0; done < n && why == 0;) {
            const ssize_t m = ::write(out, buffer.data() + done, static_cast<std::size_t>(n - done));
            if (m < 0 && errno != EINTR) why = errno;
            if (m > 0) done += m;
        }
    }
    ::close(in);
    if (out >= 0 && ::close(out) != 0 && why == 0) why = errno;
    if (why != 0) refuse(shown_as, std::strerror(why));
}

/// The mode that a new file gets, or that the old one has.
mode_t mode_for(const fs::path& target) {
    struct stat known {};
    if (::stat(target.c_str(), &known) == 0) return known.st_mode & 07777U;
    static const mode_t mask = [] {
        const mode_t m = ::umask(0);
        ::umask(m);
        return m;
    }();
    return 0666U & ~mask;
}

void check_target(const fs::path& target, const std::string& path) {
    std::error_code error;
    if (!fs::is_directory(target.parent_path(), error)) refuse(path, "there is no such folder");
    if (fs::is_directory(target, error)) refuse(path, "it is a folder");
}

}  // namespace

std::optional<FileStamp> stamp_of(const std::string& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return std::nullopt;
    return FileStamp{static_cast<std::uint64_t>(s.st_dev), static_cast<std::uint64_t>(s.st_ino),
                     static_cast<std::uint64_t>(s.st_size),
                     std::int64_t{s.st_mtim.tv_sec} * 1'000'000'000 + s.st_mtim.tv_nsec};
}

void write_atomically(const std::string& path, const std::function<void(const std::string&)>& write,
                      const std::optional<Expected>& expected) {
    const fs::path target = real_target(path);
    check_target(target, path);
    const bool special = is_special(target);
    const Workroom room(special ? fs::temp_directory_path() : target.parent_path(), path);
    // The name is short, however long the target's is: some libraries add to it.
    const std::string extension = target.extension().string();
    const fs::path temporary = room.folder / ("new" + (extension.size() <= 16 ? extension : std::string()));
    write(temporary.string());
    std::error_code error;
    if (!fs::is_regular_file(temporary, error)) refuse(path, "nothing was written");
    if (special) return copy_into(temporary, target, path);
    if (::chmod(temporary.c_str(), mode_for(target)) != 0) refuse(path, std::strerror(errno));
    if (const auto why = flush_to_disk(temporary, O_RDONLY); !why.empty()) refuse(path, why);
    if (expected && stamp_of(target.string()) != expected->stamp)
        throw ChangedMeanwhile({path, std::nullopt, "somebody else has written it since it was opened",
                                "Save under another name, or overwrite it knowingly"});
    fs::rename(temporary, target, error);
    if (error) refuse(path, error.message());
    flush_to_disk(target.parent_path(), O_RDONLY | O_DIRECTORY);
}

void write_text(const std::string& path, std::string_view text) {
    write_atomically(path, [&](const std::string& temporary) {
        CheckedFile out(temporary, path);
        out.write(text);
        out.close();
    });
}

void check_can_write(const std::string& path) {
    const fs::path target = real_target(path);
    check_target(target, path);
    if (is_special(target)) {
        if (::access(target.c_str(), W_OK) != 0) refuse(path, std::strerror(errno));
        return;
    }
    const Workroom room(target.parent_path(), path);
    if (target.filename().string().size() > 255) refuse(path, "its name is too long");
}

bool is_device_or_pipe(const std::string& path) { return is_special(path); }

bool same_file(const std::string& a, const std::string& b) {
    if (a.empty() || b.empty()) return false;
    const auto sa = stamp_of(a), sb = stamp_of(b);
    if (sa && sb) return sa->device == sb->device && sa->inode == sb->inode;
    std::error_code error;
    const fs::path pa = fs::weakly_canonical(fs::absolute(a), error), pb = fs::weakly_canonical(fs::absolute(b), error);
    return pa == pb;
}

CheckedFile::CheckedFile(const std::string& path, std::string shown_as) : shown_as_(std::move(shown_as)) {
    descriptor_ = ::open(path.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0666);
    if (descriptor_ < 0) refuse(errno);
    buffer_.reserve(kBuffer + kBuffer / 4);
}

CheckedFile::~CheckedFile() {
    if (descriptor_ >= 0) ::close(descriptor_);
}

void CheckedFile::write(std::string_view bytes) {
    buffer_ += bytes;
    if (buffer_.size() >= kBuffer) flush();
}

void CheckedFile::flush() {
    for (std::size_t done = 0; done < buffer_.size();) {
        const ssize_t n = ::write(descriptor_, buffer_.data() + done, buffer_.size() - done);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) refuse(n < 0 ? errno : ENOSPC);
        done += static_cast<std::size_t>(n);
    }
    buffer_.clear();
}

void CheckedFile::close() {
    flush();
    const int descriptor = std::exchange(descriptor_, -1);
    if (::close(descriptor) != 0) refuse(errno);
}

void CheckedFile::refuse(int why) { files::refuse(shown_as_, std::strerror(why)); }

}  // namespace otoro::files
