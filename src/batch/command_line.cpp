#include "batch/command_line.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <charconv>
#include <limits>

#include "geo/error.h"
#include "geo/wording.h"

namespace otoro::batch {

Option Option::required() const {
    option_->required();
    return *this;
}
Option Option::type_name(const std::string& name) const {
    option_->type_name(name);
    return *this;
}
Option Option::one_of(std::initializer_list<const char*> words) const {
    option_->check(CLI::IsMember(std::vector<std::string>(words.begin(), words.end())));
    return *this;
}
Option Option::positive() const {
    option_->check(CLI::PositiveNumber);
    return *this;
}
Option Option::between(int least, int most) const {
    option_->check(CLI::Range(least, most));
    return *this;
}
Option Option::shows_default() const {
    option_->capture_default_str();
    return *this;
}
Option Option::one_each_time() const {
    option_->allow_extra_args(false);
    return *this;
}
Option Option::at_most_once() const {
    option_->expected(1);
    return *this;
}
Option Option::parted_by(char sign) const {
    option_->delimiter(sign);
    return *this;
}
Option Option::checked(std::function<void(const std::string&)> parse) const {
    option_->check(CLI::Validator(
        [parse = std::move(parse)](const std::string& text) -> std::string {
            try {
                parse(text);
            } catch (const InputError& e) {
                return e.parts().wrong;
            }
            return {};
        },
        ""));
    return *this;
}
Option Option::needs(Option other) const {
    option_->needs(other.option_);
    return *this;
}
Option Option::needs(const std::string& other) const {
    option_->needs(other);
    return *this;
}
Option Option::excludes(Option other) const {
    option_->excludes(other.option_);
    return *this;
}
std::string Option::name() const { return option_->get_name(); }
bool Option::given() const { return option_->count() > 0; }

namespace {

void say_something(const std::string& text) {
    if (text.empty()) refuse("", "nothing is given", "");
}

void is_a_number(const std::string& text) {
    std::uint32_t number = 0;
    const auto [end, failed] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (failed != std::errc() || end != text.data() + text.size())
        refuse("",
               fmt::format("'{}' is no whole number from 0 to {}", text,
                           said_whole(std::numeric_limits<std::uint32_t>::max())),
               "");
}

}  // namespace

Option Options::add_option(const std::string& name, std::string& value, const std::string& about) {
    return Option(app_->add_option(name, value, about)).checked(say_something);
}
Option Options::add_option(const std::string& name, std::vector<std::string>& values, const std::string& about) {
    return Option(app_->add_option(name, values, about)).checked(say_something);
}
Option Options::add_option(const std::string& name, std::uint32_t& value, const std::string& about) {
    return Option(app_->add_option(name, value, about)).type_name("N").checked(is_a_number);
}
Option Options::add_option(const std::string& name, std::optional<std::uint32_t>& value, const std::string& about) {
    return Option(app_->add_option(name, value, about)).type_name("N").checked(is_a_number);
}
Option Options::add_option(const std::string& name, std::optional<std::string>& value, const std::string& about) {
    return Option(app_->add_option_function<std::string>(
        name, [&value](const std::string& text) { value = text; }, about));
}
Option Options::add_flag(const std::string& name, bool& value, const std::string& about) {
    return Option(app_->add_flag(name, value, about));
}

std::vector<Option> Options::all() const {
    std::vector<Option> all;
    for (auto* option : app_->get_options()) all.emplace_back(option);
    return all;
}
bool Options::given(const std::string& name) const { return app_->count(name) > 0; }

int CommandLine::run(int argc, const char* const* argv) const {
    CLI::App app{about, name};
    app.footer(examples);
    app.set_help_all_flag("--help-all", "Print the help of every command and exit");
    app.require_subcommand(1);
    app.set_version_flag("--version", version);
    std::vector<const CLI::App*> named;
    for (const auto& command : commands) {
        auto* sub = app.add_subcommand(command.name, command.about);
        sub->footer(examples);
        Options options(*sub);
        command.add_to(options);
        named.push_back(sub);
    }
    try {
        app.parse(argc, argv);
    } catch (const CLI::Success& e) {
        return app.exit(e);
    } catch (const CLI::ParseError& e) {
        throw Misuse(e.what());
    }
    for (std::size_t i = 0; i < commands.size(); ++i)
        if (*named[i]) return commands[i].run();
    throw Misuse("otoro-batch", "no command is named");
}

}  // namespace otoro::batch
