#pragma once
/// \file
/// Where data is: a file on this machine, a database, or a service; and what in an address is secret.
#include <string>

namespace otoro::files {

/// Where a location leads.
enum class Reach : std::uint8_t { file, database, service };
Reach reach_of(const std::string& location);

/// A location as it may be shown and kept: passwords and keys in it are left out.
std::string without_password(const std::string& location);

/// An address with a password in it, written as addresses want it; the address itself where there is none.
/// \throws InputError if it is no address, has one already, or names nobody whose password it could be
std::string with_password(const std::string& location, const std::string& password);

/// A text about a location, without what is secret in it, also as written in an address.
std::string without_secrets(std::string text, const std::string& location);

/// A password that breaks the address is refused before a library reads, and repeats, parts of it as something else.
/// \param ends_it the marks that would end it \throws InputError
void check_password(const std::string& location, const char* ends_it);

}  // namespace otoro::files
