#include "files/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

#include "geo/error.h"

namespace otoro::files {
namespace {
namespace fs = std::filesystem;

[[noreturn]] void refuse(const std::string& path, const std::string& why) {
    throw InputError({path, std::nullopt, fmt::format("it cannot be written ({})", why), "Choose another folder, or make room on the disk; what was there is unchanged"});
}

/// Flushes a file or folder; returns why not, or nothing.
std::string flush(const fs::path& path, int flags) {
    const int fd = ::open(path.c_str(), flags);
    if (fd < 0) return std::strerror(errno);
    const bool ok = ::fsync(fd) == 0;
    const std::string why = ok ? "" : std::strerror(errno);
    ::close(fd);
    return why;
}

/// Removes the temporary file, and SQLite's companions of it, unless it was renamed.
struct Temporary {
    fs::path path;
    ~Temporary() {
        std::error_code ignored;
        for (const char* suffix : {"", "-journal", "-wal", "-shm"}) fs::remove(path.string() + suffix, ignored);
    }
};

}  // namespace

void write_atomically(const std::string& path, const std::function<void(const std::string&)>& write) {
    const fs::path target = fs::absolute(path);
    std::error_code error;
    if (!fs::is_directory(target.parent_path(), error)) refuse(path, "there is no such folder");
    if (fs::is_directory(target, error)) refuse(path, "it is a folder");
    const Temporary temporary{target.parent_path() / fmt::format(".{}.{}.writing{}", target.stem().string(), ::getpid(), target.extension().string())};
    write(temporary.path.string());
    if (const auto why = flush(temporary.path, O_RDONLY); !why.empty()) refuse(path, why);
    fs::rename(temporary.path, target, error);
    if (error) refuse(path, error.message());
    flush(target.parent_path(), O_RDONLY | O_DIRECTORY);
}

void write_text(const std::string& path, const std::string& text) {
    write_atomically(path, [&](const std::string& temporary) {
        std::ofstream out(temporary, std::ios::binary);
        out.write(text.data(), static_cast<std::streamsize>(text.size()));
        out.close();
        if (!out) refuse(path, std::strerror(errno));
    });
}

}  // namespace otoro::files
