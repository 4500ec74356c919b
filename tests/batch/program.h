#pragma once
/// \file
/// Running otoro-batch as a program of its own, as a shell does.
#include <fcntl.h>
#include <spawn.h>
#include <sys/syscall.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <catch2/catch.hpp>
#include <csignal>
#include <filesystem>
#include <functional>
#include <string>
#include <thread>
#include <vector>

extern char** environ;

namespace otoro::test {

class Program {
public:
    Program(const std::vector<std::string>& arguments, const std::string& out, const std::string& err) {
        std::vector<std::string> words{OTORO_BATCH};
        words.insert(words.end(), arguments.begin(), arguments.end());
        std::vector<char*> argv;
        for (auto& w : words) argv.push_back(w.data());
        argv.push_back(nullptr);
        posix_spawn_file_actions_t files;
        posix_spawn_file_actions_init(&files);
        posix_spawn_file_actions_addopen(&files, STDOUT_FILENO, out.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
        posix_spawn_file_actions_addopen(&files, STDERR_FILENO, err.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
        REQUIRE(::posix_spawn(&pid_, OTORO_BATCH, &files, nullptr, argv.data(), environ) == 0);
        posix_spawn_file_actions_destroy(&files);
    }
    ~Program() {
        if (pid_ <= 0) return;
        ::kill(pid_, SIGKILL);
        ::waitpid(pid_, nullptr, 0);
    }
    Program(const Program&) = delete;
    Program& operator=(const Program&) = delete;
    void send(int signal) const { ::kill(pid_, signal); }
    /// To one of its threads alone.
    void send_to(int thread, int signal) const { ::syscall(SYS_tgkill, pid_, thread, signal); }
    /// In the order in which they were begun.
    [[nodiscard]] std::vector<int> threads() const {
        std::vector<int> out;
        for (const auto& e : std::filesystem::directory_iterator("/proc/" + std::to_string(pid_) + "/task"))
            out.push_back(std::stoi(e.path().filename().string()));
        std::sort(out.begin(), out.end());
        return out;
    }
    /// The exit code, or minus the signal that ended it.
    int wait() {
        int status = 0;
        ::waitpid(pid_, &status, 0);
        pid_ = -1;
        return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
    }
    /// Waits until something is so, or the program has ended. \returns whether it is so
    bool wait_until(const std::function<bool()>& so) {
        while (!so()) {
            int status = 0;
            if (::waitpid(pid_, &status, WNOHANG) == pid_) {
                pid_ = -1;
                return so();
            }
            std::this_thread::yield();
        }
        return true;
    }

private:
    pid_t pid_ = -1;
};

}  // namespace otoro::test
