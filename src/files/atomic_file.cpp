#include "files/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <chrono>
#include <cstring>
#include <ctime>
#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <thread>
#include <tuple>
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

bool is_special(const fs::path& target) {
    std::error_code error;
    const auto status = fs::status(target, error);
    return fs::exists(status) && !fs::is_regular_file(status) && !fs::is_directory(status);
}

/// The file that a path leads to, links followed, whether it is there or not. A device or a pipe is where it is: what
/// `/dev/stdout` leads to has no name of its own.
fs::path real_target(const std::string& path) {
    fs::path at = fs::absolute(path);
    if (is_special(at)) return at;
    std::error_code error;
    for (int i = 0; i < kMostLinks && fs::is_symlink(fs::symlink_status(at, error)); ++i) {
        const fs::path next = fs::read_symlink(at, error);
        if (error) refuse(path, error.message());
        at = next.is_absolute() ? next : at.parent_path() / next;
    }
    if (fs::is_symlink(fs::symlink_status(at, error))) refuse(path, "its links lead in a circle");
    return at;
}

constexpr const char* kWorkroom = ".otoro-";
constexpr const char* kHeld = "held";  // in a workroom: locked as long as its program lives

/// Locks a file; a negative number if somebody else has, or it is not there.
int lock(const fs::path& path, int flags) {
    const int fd = ::open(path.c_str(), O_RDWR | O_CLOEXEC | flags, 0600);
    if (fd >= 0 && ::flock(fd, LOCK_EX | LOCK_NB) == 0) return fd;
    if (fd >= 0) ::close(fd);
    return -1;
}

/// Workrooms whose program was killed are cleared away. One that was made this minute may not be locked yet; one
/// without a lock is from an earlier version, and is left for a day.
void clear_abandoned(const fs::path& beside) {
    std::error_code error;
    for (fs::directory_iterator at(beside, error), end; !error && at != end; at.increment(error)) {
        const fs::path room = at->path();
        if (!room.filename().string().starts_with(kWorkroom)) continue;
        struct stat known {};
        if (::lstat(room.c_str(), &known) != 0 || !S_ISDIR(known.st_mode) || known.st_uid != ::geteuid()) continue;
        constexpr std::int64_t kMinute = 60, kDay = kMinute * 60 * 24;
        const std::int64_t age = std::int64_t{::time(nullptr)} - known.st_mtim.tv_sec;
        std::error_code ignored;
        const bool lockable = fs::exists(room / kHeld, ignored);
        if (age < (lockable ? kMinute : kDay)) continue;
        const int held = lockable ? lock(room / kHeld, 0) : -1;
        if (lockable && held < 0) continue;
        fs::remove_all(room, ignored);
        if (held >= 0) ::close(held);
    }
}

/// A folder of our own beside the target, removed with all that is in it.
struct Workroom {
    fs::path folder;
    explicit Workroom(const fs::path& beside, const std::string& shown_as) {
        std::string name = (beside / (kWorkroom + std::string(6, 'X'))).string();  // made unique by mkdtemp
        if (::mkdtemp(name.data()) == nullptr) refuse(shown_as, std::strerror(errno));
        folder = name;
        held_ = lock(folder / kHeld, O_CREAT);
    }
    ~Workroom() {
        std::error_code ignored;
        fs::remove_all(folder, ignored);
        if (held_ >= 0) ::close(held_);
    }
    Workroom(const Workroom&) = delete;
    Workroom& operator=(const Workroom&) = delete;

private:
    int held_ = -1;
};

/// A file that is finished and has not taken its name yet.
struct Finished {
    std::string path;  ///< as it was named
    fs::path target, temporary;
    bool special = false;
    std::optional<Expected> expected;
    std::shared_ptr<Workroom> room;

    /// A second name for what was there, until all have taken theirs.
    [[nodiscard]] fs::path before() const { return temporary.parent_path() / "before"; }
};

/// What is collected while an `OutputsTogether` lives.
struct Together {
    std::mutex guard;
    bool collecting = false;
    std::vector<Finished> files;
    std::map<fs::path, std::shared_ptr<Workroom>> rooms;  ///< by what they are beside: however many files, one each
    std::size_t parts = 0;                                ///< of the rooms: one a file
    std::vector<fs::path> folders;                        ///< made for them, outermost first
};
Together& together() {
    static Together all;
    return all;
}

/// A folder to write one file in, and the room that it is in.
std::pair<fs::path, std::shared_ptr<Workroom>> room_beside(const fs::path& beside, const std::string& shown_as) {
    Together& all = together();
    const std::lock_guard only(all.guard);
    if (!all.collecting) {
        clear_abandoned(beside);
        auto alone = std::make_shared<Workroom>(beside, shown_as);
        return {alone->folder, alone};
    }
    auto& room = all.rooms[beside];
    if (!room) {
        clear_abandoned(beside);
        room = std::make_shared<Workroom>(beside, shown_as);
    }
    const fs::path part = room->folder / std::to_string(all.parts++);
    std::error_code error;
    if (!fs::create_directory(part, error)) refuse(shown_as, error.message());
    return {part, room};
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

namespace {

void check_expected(const Finished& file) {
    if (file.expected && stamp_of(file.target.string()) != file.expected->stamp)
        throw ChangedMeanwhile({file.path, std::nullopt, "somebody else has written it since it was opened",
                                "Save under another name, or overwrite it knowingly"});
}

/// While it lives, no other program of ours gives a file of this folder a new content: what is compared is what is
/// replaced. A disk that knows no locks does without; one that somebody else holds on to is not waited for for ever.
class FolderLock {
public:
    FolderLock(const fs::path& folder, const std::string& shown_as)
        : held_(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)) {
        const auto end = std::chrono::steady_clock::now() + kPatience;
        while (held_ >= 0 && ::flock(held_, LOCK_EX | LOCK_NB) != 0) {
            if (errno != EWOULDBLOCK && errno != EINTR) return;
            if (std::chrono::steady_clock::now() > end) {
                ::close(held_);
                refuse(shown_as, "another program holds on to its folder");
            }
            std::this_thread::sleep_for(std::chrono::milliseconds(5));
        }
    }
    ~FolderLock() {
        if (held_ >= 0) ::close(held_);
    }
    FolderLock(const FolderLock&) = delete;
    FolderLock& operator=(const FolderLock&) = delete;

private:
    static constexpr std::chrono::seconds kPatience{10};
    int held_;
};

void take_name(const Finished& file) {
    const FolderLock lock(file.target.parent_path(), file.path);
    check_expected(file);
    std::error_code error;
    fs::rename(file.temporary, file.target, error);
    if (error) refuse(file.path, error.message());
    flush_to_disk(file.target.parent_path(), O_RDONLY | O_DIRECTORY);
}

}  // namespace

OutputsTogether::OutputsTogether() {
    const std::lock_guard only(together().guard);
    together().collecting = true;
}

OutputsTogether::~OutputsTogether() {
    Together& all = together();
    const std::lock_guard only(all.guard);
    all.collecting = false;
    all.files.clear();
    all.rooms.clear();
    for (auto at = all.folders.rbegin(); at != all.folders.rend(); ++at)
        ::rmdir(at->c_str());  // if nobody put anything there
    all.folders.clear();
}

void OutputsTogether::put_in_place() {
    std::vector<Finished> files;
    {
        const std::lock_guard only(together().guard);
        files.swap(together().files);
    }
    for (const auto& file : files) check_expected(file);
    for (const auto& file : files)
        if (file.special) copy_into(file.temporary, file.target, file.path);
    struct Taken {
        const Finished* file;
        bool was_there, kept;  ///< a file of that name, under a second one
    };
    std::vector<Taken> taken;
    try {
        for (const auto& file : files) {
            if (file.special) continue;
            std::error_code error;
            const bool was_there = fs::exists(file.target, error);
            const bool kept = was_there && ::link(file.target.c_str(), file.before().c_str()) == 0;
            take_name(file);
            taken.push_back({&file, was_there, kept});
        }
    } catch (...) {
        std::error_code ignored;
        for (auto at = taken.rbegin(); at != taken.rend(); ++at) {
            if (at->kept)
                fs::rename(at->file->before(), at->file->target, ignored);
            else if (!at->was_there)
                fs::remove(at->file->target, ignored);
            // Else the disk knows no second names, and the new file is all there is.
        }
        throw;
    }
    const std::lock_guard only(together().guard);
    together().folders.clear();
}

void make_folder(const std::string& path) {
    std::vector<fs::path> missing;
    std::error_code error;
    for (fs::path at = fs::absolute(path).lexically_normal(); !at.empty() && !fs::exists(at, error);
         at = at.parent_path())
        if (at.has_filename()) missing.push_back(at);
    fs::create_directories(path, error);
    if (error)
        throw InputError(
            {path, std::nullopt, fmt::format("the folder cannot be made ({})", error.message()), "Choose another"});
    const std::lock_guard only(together().guard);
    if (together().collecting) together().folders.insert(together().folders.end(), missing.rbegin(), missing.rend());
}

std::optional<FileStamp> stamp_of(const std::string& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return std::nullopt;
    return FileStamp{static_cast<std::uint64_t>(s.st_dev), static_cast<std::uint64_t>(s.st_ino),
                     static_cast<std::uint64_t>(s.st_size),
                     std::int64_t{s.st_mtim.tv_sec} * 1'000'000'000 + s.st_mtim.tv_nsec};
}

void write_atomically(const std::string& path, const std::function<void(const std::string&)>& write,
                      const std::optional<Expected>& expected) {
    Finished file;
    file.path = path;
    file.target = real_target(path);
    file.expected = expected;
    check_target(file.target, path);
    file.special = is_special(file.target);
    fs::path folder;
    std::tie(folder, file.room) =
        room_beside(file.special ? fs::temp_directory_path() : file.target.parent_path(), path);
    // The name is short, however long the target's is: some libraries add to it.
    const std::string extension = file.target.extension().string();
    file.temporary = folder / ("new" + (extension.size() <= 16 ? extension : std::string()));
    write(file.temporary.string());
    std::error_code error;
    if (!fs::is_regular_file(file.temporary, error)) refuse(path, "nothing was written");
    if (!file.special) {
        if (::chmod(file.temporary.c_str(), mode_for(file.target)) != 0) refuse(path, std::strerror(errno));
        if (const auto why = flush_to_disk(file.temporary, O_RDONLY); !why.empty()) refuse(path, why);
    }
    {
        const std::lock_guard only(together().guard);
        if (together().collecting) {
            together().files.push_back(std::move(file));
            return;
        }
    }
    if (file.special) return copy_into(file.temporary, file.target, path);
    take_name(file);
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
