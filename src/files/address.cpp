#include "files/address.h"

#include <cpl_conv.h>
#include <cpl_string.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <optional>
#include <string_view>
#include <vector>

#include "geo/error.h"
#include "geo/text.h"

namespace otoro::files {
namespace {

/// Where something secret stands in an address.
struct Secret {
    std::size_t begin, length;
};

/// Whether the name of an option of an address says that its value is secret.
bool is_secret_name(const std::string& name) {
    constexpr std::array<std::string_view, 8> kParts{"pass", "pwd",       "token",      "secret",
                                                     "key",  "signature", "credential", "auth"};
    return name == "sig" || std::any_of(kParts.begin(), kParts.end(),
                                        [&](std::string_view part) { return name.find(part) != std::string::npos; });
}

/// The password before the host. One with a bare slash, which has to be written as %2F, is found too: what stands
/// behind the colon then is no port.
std::optional<Secret> password_in(const std::string& location) {
    const auto scheme = location.find("://");
    if (scheme == std::string::npos) return std::nullopt;
    const auto begin = scheme + 3;
    const auto path = std::min(location.find('/', begin), location.size());
    const auto colon = location.find(':', begin);
    auto at = location.rfind('@', path);
    if (at == std::string::npos || at < begin) {
        at = location.rfind('@');
        if (colon >= path || at == std::string::npos || at < path) return std::nullopt;
        const auto port = location.substr(colon + 1, path - colon - 1);
        if (std::all_of(port.begin(), port.end(), [](unsigned char c) { return std::isdigit(c) != 0; }))
            return std::nullopt;
    }
    if (colon >= at) return std::nullopt;
    return Secret{colon + 1, at - colon - 1};
}

/// The password of an address, and the values of what else is secret in it; in order, none inside another.
std::vector<Secret> secrets_of(const std::string& location) {
    std::vector<Secret> out;
    std::size_t from = 0;
    if (const auto password = password_in(location)) {
        out.push_back(*password);
        from = password->begin + password->length;
    }
    constexpr const char* kBetween = "?&;# ";
    for (auto at = location.find_first_of(kBetween, from); at != std::string::npos;) {
        const auto end = std::min(location.find_first_of(kBetween, at + 1), location.size());
        const auto equals = location.find('=', at);
        if (equals < end && is_secret_name(lower(location.substr(at + 1, equals - at - 1))))
            out.push_back({equals + 1, end - equals - 1});
        at = end < location.size() ? end : std::string::npos;
    }
    std::erase_if(out, [](const Secret& s) { return s.length == 0; });
    return out;
}

constexpr std::string_view kHidden = "***";

}  // namespace

Reach reach_of(const std::string& location) {
    const std::string l = lower(location.substr(0, 16));
    if (l.starts_with("postgresql://") || l.starts_with("postgres://")) return Reach::database;
    if (l.starts_with("http://") || l.starts_with("https://")) return Reach::service;
    return Reach::file;
}

std::string without_password(const std::string& location) {
    if (reach_of(location) == Reach::file) return location;
    std::string out = location;
    const auto secrets = secrets_of(location);
    for (auto s = secrets.rbegin(); s != secrets.rend(); ++s) out.replace(s->begin, s->length, kHidden);
    return out;
}

std::string with_password(const std::string& location, const std::string& password) {
    if (password.empty()) return location;
    if (reach_of(location) == Reach::file)
        refuse(location, "it is the name of a file, which has no password", "Leave the password out");
    if (password_in(location))
        refuse(without_password(location), "it has a password already", "Give the password in one of the two places");
    char* const escaped = CPLEscapeString(password.c_str(), static_cast<int>(password.size()), CPLES_URL);
    const std::string written = escaped;
    CPLFree(escaped);
    const auto begin = location.find("://") + 3;
    const auto host_ends = std::min(location.find_first_of("/?#", begin), location.size());
    const auto at = location.rfind('@', host_ends);
    if (at == std::string::npos || at <= begin)
        refuse(without_password(location), "it does not say whose password that is",
               "Write the user before the host: user@host");
    return location.substr(0, at) + ":" + written + location.substr(at);
}

std::string without_secrets(std::string text, const std::string& location) {
    for (const auto& s : secrets_of(location)) {
        const std::string secret = location.substr(s.begin, s.length);
        char* plain = CPLUnescapeString(secret.c_str(), nullptr, CPLES_URL);
        for (const std::string& form : {secret, std::string(plain)})
            for (auto at = text.find(form); !form.empty() && at != std::string::npos;
                 at = text.find(form, at + kHidden.size()))
                text.replace(at, form.size(), kHidden);
        CPLFree(plain);
    }
    return text;
}

void check_password(const std::string& location, const char* ends_it) {
    const auto password = password_in(location);
    if (!password) return;
    const auto bare = location.substr(password->begin, password->length).find_first_of(ends_it);
    if (bare != std::string::npos)
        throw InputError(
            {without_password(location), std::nullopt,
             fmt::format("its password has a bare '{}', which ends it there", location[password->begin + bare]),
             "In an address write / as %2F, ? as %3F, # as %23 and @ as %40"});
}

}  // namespace otoro::files
