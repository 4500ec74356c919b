#include "files/osm_deleted.h"

#include <zlib.h>

#include <charconv>
#include <optional>
#include <string_view>
#include <vector>

#include "files/content.h"

namespace otoro::files {
namespace {

/// The value of an attribute in a tag; nothing if it has none of that name.
std::optional<std::string_view> attribute(std::string_view tag, std::string_view name) {
    for (std::size_t at = tag.find(name); at != std::string_view::npos; at = tag.find(name, at + 1)) {
        const bool begins =
            at > 0 && (tag[at - 1] == ' ' || tag[at - 1] == '\t' || tag[at - 1] == '\n' || tag[at - 1] == '\r');
        const std::size_t quote = at + name.size() + 1;
        if (!begins || quote >= tag.size() || tag[quote - 1] != '=' || (tag[quote] != '"' && tag[quote] != '\''))
            continue;
        const auto end = tag.find(tag[quote], quote + 1);
        if (end != std::string_view::npos) return tag.substr(quote + 1, end - quote - 1);
    }
    return std::nullopt;
}

void look_at(std::string_view tag, MarkedDeleted& out) {
    if (attribute(tag, "action") != "delete") return;
    const auto id_text = attribute(tag, "id");
    std::int64_t id = 0;
    if (!id_text || std::from_chars(id_text->data(), id_text->data() + id_text->size(), id).ec != std::errc()) return;
    if (tag.starts_with("<node")) out.nodes.insert(id);
    if (tag.starts_with("<way")) out.ways.insert(id);
    if (tag.starts_with("<relation")) out.relations.insert(id);
}

}  // namespace

MarkedDeleted marked_deleted(const std::string& path) {
    MarkedDeleted out;
    const Content content = content_of(path);
    if (content != Content::osm_xml && content != Content::osm_gzip) return out;
    gzFile file = gzopen(path.c_str(), "rb");  // reads plain files too
    if (file == nullptr) return out;
    constexpr std::size_t kChunk = 1 << 20U, kLongestTag = 1 << 14U;
    std::string text;
    std::vector<char> chunk(kChunk);
    while (true) {
        const int n = gzread(file, chunk.data(), static_cast<unsigned>(chunk.size()));
        if (n <= 0) break;
        text.append(chunk.data(), static_cast<std::size_t>(n));
        std::size_t done = 0;
        for (std::size_t at = text.find("action="); at != std::string::npos; at = text.find("action=", at + 1)) {
            const auto begin = text.rfind('<', at), end = text.find('>', at);
            if (end == std::string::npos) break;  // seen again with the next chunk
            if (begin != std::string::npos && end - begin < kLongestTag)
                look_at(std::string_view(text).substr(begin, end - begin), out);
            done = end;
        }
        // What may be the beginning of a tag stays.
        const std::size_t keep = text.size() > kLongestTag ? text.size() - kLongestTag : 0;
        text.erase(0, std::max(done, keep));
    }
    gzclose(file);
    return out;
}

}  // namespace otoro::files
