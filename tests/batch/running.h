#pragma once
/// \file
/// Running otoro-batch within the test's own program.
#include <fcntl.h>
#include <unistd.h>

#include <cstdio>
#include <string>
#include <vector>

#include "batch/commands.h"
#include "support/files.h"

namespace otoro::test {

struct Ran {
    int code = 0;
    std::string out;
    std::string err;
};

/// Sends a file descriptor into a file while it lives.
class Redirected {
public:
    Redirected(int fd, const std::string& path) : fd_(fd), kept_(::dup(fd)) {
        const int file = ::open(path.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
        ::dup2(file, fd);
        ::close(file);
    }
    ~Redirected() {
        std::fflush(nullptr);
        ::dup2(kept_, fd_);
        ::close(kept_);
    }
    Redirected(const Redirected&) = delete;
    Redirected& operator=(const Redirected&) = delete;

private:
    int fd_, kept_;
};

inline Ran run(const std::vector<std::string>& arguments) {
    const Folder folder;
    std::vector<const char*> argv{"otoro-batch"};
    for (const auto& a : arguments) argv.push_back(a.c_str());
    Ran r;
    {
        std::fflush(nullptr);
        const Redirected out(STDOUT_FILENO, folder.file("out"));
        const Redirected err(STDERR_FILENO, folder.file("err"));
        r.code = batch::run(static_cast<int>(argv.size()), argv.data());
    }
    r.out = test::contents(folder.file("out"));
    r.err = test::contents(folder.file("err"));
    return r;
}

}  // namespace otoro::test
