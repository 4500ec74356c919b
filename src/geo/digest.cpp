#include "geo/digest.h"

#define XXH_INLINE_ALL
#include <fmt/format.h>
#include <xxhash.h>

namespace otoro {

struct Digest::State {
    XXH3_state_t xxh;
};

Digest::Digest() : state_(std::make_unique<State>()) { XXH3_128bits_reset(&state_->xxh); }
Digest::~Digest() = default;

Digest& Digest::bytes(const void* data, std::size_t size) {
    if (size > 0) XXH3_128bits_update(&state_->xxh, data, size);
    return *this;
}

Digest& Digest::text(std::string_view s) {
    value(static_cast<std::uint64_t>(s.size()));
    return bytes(s.data(), s.size());
}

std::string Digest::hex() const {
    const XXH128_hash_t h = XXH3_128bits_digest(&state_->xxh);
    return fmt::format("{:016x}{:016x}", h.high64, h.low64);
}

}  // namespace otoro
