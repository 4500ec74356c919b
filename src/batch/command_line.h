#pragma once
/// \file
/// What a command may be told: its options and flags, which of them go together, and what is misuse. The library that
/// takes a command line apart is known to this file's other half alone, since every file that includes it pays for it.
///
///     auto few = options.add_option("--nearest", nearest, "only so many nearest sites").positive();
///     options.add_flag("--wide", wide, "one row for each").excludes(few);
#include <cstdint>
#include <functional>
#include <initializer_list>
#include <optional>
#include <stdexcept>
#include <string>
#include <vector>

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace otoro::batch {

/// An option that does not mean anything, or does not go with another: exit code 2.
struct Misuse : std::runtime_error {
    Misuse(const std::string& option, const std::string& wrong) : std::runtime_error(option + ": " + wrong) {}
    explicit Misuse(const std::string& whole) : std::runtime_error(whole) {}
};
/// An option that is needed and was not given.
struct OptionRequired : Misuse {
    explicit OptionRequired(const std::string& option) : Misuse(option + " is required") {}
};

/// One option of a command; a copy means the same option.
class Option {
public:
    explicit Option(CLI::Option* option) : option_(option) {}

    Option required() const;
    /// What stands for its value in the help.
    Option type_name(const std::string& name) const;
    Option one_of(std::initializer_list<const char*> words) const;
    Option positive() const;
    Option between(int least, int most) const;
    /// The value it has without being given is told in the help.
    Option shows_default() const;
    /// One value each time it is named; it may be named again.
    Option one_each_time() const;
    /// It may be named once.
    Option at_most_once() const;
    /// Several values with this between them.
    Option parted_by(char sign) const;
    /// What stands for its value in the help, and what takes its value apart: that throws what is wrong with it, which
    /// is told before anything is read or written.
    template <class Parse>
    Option reads_as(const std::string& kind, Parse parse) const {
        return type_name(kind).checked([parse](const std::string& text) { (void)parse(text); });
    }
    Option checked(std::function<void(const std::string&)> parse) const;
    Option needs(Option other) const;
    Option needs(const std::string& other) const;
    Option excludes(Option other) const;

    [[nodiscard]] std::string name() const;
    [[nodiscard]] bool given() const;

private:
    CLI::Option* option_;
};

/// The options of one command.
class Options {
public:
    explicit Options(CLI::App& app) : app_(&app) {}

    /// One given empty is refused, but where it says otherwise.
    Option add_option(const std::string& name, std::string& value, const std::string& about);
    Option add_option(const std::string& name, std::vector<std::string>& values, const std::string& about);
    Option add_option(const std::string& name, std::uint32_t& value, const std::string& about);
    Option add_option(const std::string& name, std::optional<std::uint32_t>& value, const std::string& about);
    /// Nothing where it is not given; it may be given empty.
    Option add_option(const std::string& name, std::optional<std::string>& value, const std::string& about);
    Option add_flag(const std::string& name, bool& value, const std::string& about);

    /// Every option so far, in the order in which they were added.
    [[nodiscard]] std::vector<Option> all() const;
    [[nodiscard]] bool given(const std::string& name) const;

private:
    CLI::App* app_;
};

/// A program of several commands.
struct CommandLine {
    std::string about, name, version, examples;
    struct Entry {
        std::string name, about;
        std::function<void(Options&)> add_to;
        std::function<int()> run;
    };
    std::vector<Entry> commands;

    /// Takes the arguments apart and runs the command that they name. Help and version go to stdout.
    /// \returns what that command returned, or 0 for help \throws Misuse, and what the command throws
    int run(int argc, const char* const* argv) const;
};

}  // namespace otoro::batch
