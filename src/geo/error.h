#pragma once
/// \file
/// How the core says that something went wrong: exceptions that carry what a planner needs to act.
#include <cstdint>
#include <optional>
#include <stdexcept>
#include <string>
#include <utility>

namespace otoro {

/// Bad input. Says which file, which record, what was wrong and what to do; the text of `what()` is all four.
class InputError : public std::runtime_error {
public:
    struct Parts {
        std::string file;                    ///< path as the user gave it; may be empty
        std::optional<std::int64_t> record;  ///< record number from 0; it is said from 1
        std::string wrong;                   ///< what was wrong, a clause without a full stop
        std::string remedy;                  ///< what to do, a sentence without a full stop; may be empty
    };

    explicit InputError(Parts parts) : std::runtime_error(sentence(parts)), parts_(std::move(parts)) {}
    [[nodiscard]] const Parts& parts() const { return parts_; }

private:
    static std::string sentence(const Parts& p) {
        std::string s = p.file;
        if (p.record) s += (s.empty() ? "record " : ": record ") + std::to_string(*p.record + 1);
        if (!s.empty()) s += ": ";
        s += p.wrong + ".";
        if (!p.remedy.empty()) s += " " + p.remedy + ".";
        return s;
    }
    Parts parts_;
};

/// Bad input that is in no one record. \throws InputError always
[[noreturn]] inline void refuse(std::string file, std::string wrong, std::string remedy) {
    throw InputError({std::move(file), std::nullopt, std::move(wrong), std::move(remedy)});
}

/// The user asked for the work to stop. Nothing was changed.
class Stopped : public std::runtime_error {
public:
    Stopped() : std::runtime_error("stopped") {}
};

}  // namespace otoro
