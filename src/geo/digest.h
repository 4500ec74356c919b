#pragma once
/// \file
/// A short name for a large value, so that an outcome can say which inputs it was worked out from.
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

namespace otoro {

/// Feeds values into XXH3 (128 bits). Not a defence against forgery, only against mixing things up.
class Digest {
public:
    Digest();
    ~Digest();
    Digest(const Digest&) = delete;
    Digest& operator=(const Digest&) = delete;

    Digest& bytes(const void* data, std::size_t size);
    Digest& text(std::string_view s);
    template <class T>
    requires std::is_trivially_copyable_v<T> && std::has_unique_object_representations_v<T> Digest& value(const T& v) {
        return bytes(&v, sizeof v);
    }
    Digest& value(double v) { return bytes(&v, sizeof v); }
    /// The elements' bytes and how many there are. \pre `T` has no padding.
    template <class T>
    requires std::is_trivially_copyable_v<T> Digest& array(const std::vector<T>& v) {
        value(static_cast<std::uint64_t>(v.size()));
        return bytes(v.data(), v.size() * sizeof(T));
    }

    /// 32 hexadecimal digits.
    [[nodiscard]] std::string hex() const;

private:
    struct State;
    std::unique_ptr<State> state_;
};

}  // namespace otoro
