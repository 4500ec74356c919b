#pragma once
/// \file
/// What the tags of an OpenStreetMap way come to, by the defaults of docs/semantics.md.
#include <cstdint>
#include <map>
#include <optional>
#include <osmium/osm/way.hpp>
#include <string>
#include <string_view>

#include "roads/lines.h"

namespace otoro::files {

/// Tags that were not understood, `maxspeed=walk`, and how often each was met.
using UnknownTags = std::map<std::string, std::int64_t>;

/// The attributes of a way; nothing if it is no road that anybody here travels. What is not understood is counted.
std::optional<roads::Attributes> attributes_of(const osmium::Way& way, UnknownTags& unknown);

/// `50`, `50 km/h`, `30 mph`; of several, `50;30`, the lower. Nothing for `none`, `signals` and the like.
std::optional<Speed> maxspeed_of(std::string_view text);

/// `00:20`, `1:05:30`, `PT20M`, `15 min`, `1h`, `1 h 30 min`, or minutes as a number; in milliseconds. Nothing for
/// anything else.
std::optional<std::uint32_t> duration_of(std::string_view text);

/// Counts a tag; of very many different ones, those past the first are counted together.
void count_unknown(UnknownTags& unknown, std::string_view key, std::string_view value);

}  // namespace otoro::files
