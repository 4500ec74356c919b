#pragma once
/// \file
/// Who has a file open, among programs on one machine.
#include <QString>

namespace otoro::desktop {

/// A claim on a file that others can see. The system takes it back when the program ends, however it ends; a number of
/// a process that is in use again can hide nothing.
class FileClaim {
public:
    FileClaim() = default;
    ~FileClaim() { release(); }
    FileClaim(const FileClaim&) = delete;
    FileClaim& operator=(const FileClaim&) = delete;

    /// Claims the file, giving up any other. False if somebody else has it, here or in another program; true if claims
    /// do not work where it is.
    bool take(const QString& path);
    void release();
    /// Whether somebody other than this claim has the file.
    [[nodiscard]] bool is_elsewhere(const QString& path) const;

private:
    int descriptor_ = -1;
};

}  // namespace otoro::desktop
