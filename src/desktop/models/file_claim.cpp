#include "desktop/models/file_claim.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <QFile>
#include <cerrno>

namespace otoro::desktop {
namespace {

/// An open file with the claim on it; -1 if somebody else has it, -2 if there is no telling.
int claimed(const QString& path) {
    const int fd = ::open(QFile::encodeName(path).constData(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (fd < 0) return -2;
    if (::flock(fd, LOCK_EX | LOCK_NB) == 0) return fd;
    const bool taken = errno == EWOULDBLOCK;
    ::close(fd);
    return taken ? -1 : -2;
}

}  // namespace

void FileClaim::release() {
    if (descriptor_ >= 0) ::close(descriptor_);
    descriptor_ = -1;
}

bool FileClaim::take(const QString& path) {
    release();
    const int fd = claimed(path);
    if (fd >= 0) descriptor_ = fd;
    return fd != -1;
}

bool FileClaim::is_elsewhere(const QString& path) const {
    if (descriptor_ >= 0) {
        struct stat mine {
        }, that{};
        if (::fstat(descriptor_, &mine) == 0 && ::stat(QFile::encodeName(path).constData(), &that) == 0 &&
            mine.st_dev == that.st_dev && mine.st_ino == that.st_ino)
            return false;
    }
    const int fd = claimed(path);
    if (fd >= 0) ::close(fd);
    return fd == -1;
}

}  // namespace otoro::desktop
