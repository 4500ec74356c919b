#pragma once
/// \file
/// A disk that takes no more than so many bytes a file.
#include <sys/resource.h>

#include <csignal>

namespace otoro::test {

/// While one lives, no file of this program can grow beyond `room` bytes: writing more is refused, as by a full disk.
class SmallDisk {
public:
    explicit SmallDisk(rlim_t room) {
        ::getrlimit(RLIMIT_FSIZE, &before_);
        handler_ = std::signal(SIGXFSZ, SIG_IGN);
        const rlimit limit{room, before_.rlim_max};
        ::setrlimit(RLIMIT_FSIZE, &limit);
    }
    ~SmallDisk() {
        ::setrlimit(RLIMIT_FSIZE, &before_);
        std::signal(SIGXFSZ, handler_);
    }
    SmallDisk(const SmallDisk&) = delete;
    SmallDisk& operator=(const SmallDisk&) = delete;

private:
    rlimit before_{};
    void (*handler_)(int) = SIG_DFL;
};

}  // namespace otoro::test
