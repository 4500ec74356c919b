#include "files/order_file.h"

#include <fmt/format.h>

#include <array>
#include <bit>
#include <cstring>
#include <fstream>

#include "files/atomic_file.h"
#include "geo/digest.h"

namespace otoro::files {
namespace {

static_assert(std::endian::native == std::endian::little);
constexpr std::array<char, 8> kMagic{'O', 'T', 'O', 'R', 'O', 'O', 'R', 'D'};
constexpr std::uint32_t kVersion = 1;
constexpr std::size_t kNameLength = 32;
constexpr std::size_t kMost = 4;

struct Kept {
    std::string name;
    std::vector<std::uint32_t> positions;
};

std::string digest_of(const std::vector<std::uint32_t>& positions) {
    Digest d;
    d.array(positions);
    return d.hex();
}

/// All orders that are whole; what follows a broken one is lost.
std::vector<Kept> read(const std::string& path) {
    std::ifstream in(path, std::ios::binary | std::ios::ate);
    const auto size = static_cast<std::uint64_t>(std::max<std::streamoff>(0, in.tellg()));
    in.seekg(0);
    std::array<char, 8> magic{};
    std::uint32_t version = 0;
    in.read(magic.data(), magic.size());
    in.read(reinterpret_cast<char*>(&version), sizeof version);
    std::vector<Kept> out;
    if (!in || magic != kMagic || version != kVersion) return out;
    while (out.size() < kMost) {
        Kept k;
        std::string digest(kNameLength, '\0');
        k.name.resize(kNameLength);
        std::uint32_t count = 0;
        in.read(k.name.data(), kNameLength);
        in.read(reinterpret_cast<char*>(&count), sizeof count);
        in.read(digest.data(), kNameLength);
        if (!in || std::uint64_t{count} * sizeof count > size) break;
        k.positions.resize(count);
        in.read(reinterpret_cast<char*>(k.positions.data()), static_cast<std::streamsize>(count * sizeof count));
        if (!in || digest_of(k.positions) != digest) break;
        out.push_back(std::move(k));
    }
    return out;
}

}  // namespace

std::optional<std::vector<std::uint32_t>> OrderFile::find(const std::string& name) {
    for (auto& k : read(path_))
        if (k.name == name) return std::move(k.positions);
    return std::nullopt;
}

void OrderFile::keep(const std::string& name, std::span<const std::uint32_t> positions) {
    auto all = read(path_);
    std::erase_if(all, [&](const Kept& k) { return k.name == name; });
    all.insert(all.begin(), Kept{name, {positions.begin(), positions.end()}});
    if (all.size() > kMost) all.resize(kMost);
    try {
        write_atomically(path_, [&](const std::string& temporary) {
            CheckedFile out(temporary, path_);
            const auto number = [&](std::uint32_t n) { out.write({reinterpret_cast<const char*>(&n), sizeof n}); };
            out.write({kMagic.data(), kMagic.size()});
            number(kVersion);
            for (const Kept& k : all) {
                out.write({k.name.data(), kNameLength});
                number(static_cast<std::uint32_t>(k.positions.size()));
                out.write(digest_of(k.positions));
                out.write(
                    {reinterpret_cast<const char*>(k.positions.data()), k.positions.size() * sizeof(std::uint32_t)});
            }
            out.close();
        });
    } catch (const InputError& e) {
        fmt::print(stderr, "{}: the order of the roads is not kept: {}\n", path_, e.what());
    }
}

}  // namespace otoro::files
