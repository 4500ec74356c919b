/// Feeds a fuzz target its seeds, and each seed with bytes changed, cut and doubled, always the same.
#include <cstdint>
#include <cstdio>
#include <filesystem>
#include <random>
#include <string>

#include "support/files.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace {
void feed(const std::string& text) {
    LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(text.data()), text.size());
}
}  // namespace

int main(int argc, char** argv) {
    if (argc < 3) {
        std::fprintf(stderr, "usage: %s FOLDER_OF_SEEDS CHANGES\n", argv[0]);
        return 2;
    }
    const int changes = std::stoi(argv[2]);
    std::mt19937 dice(7);
    std::size_t fed = 0;
    for (const auto& seed : std::filesystem::directory_iterator(argv[1])) {
        const std::string text = otoro::test::contents(seed.path().string());
        feed(text);
        for (int i = 0; i < changes; ++i) {
            std::string t = text;
            for (unsigned k = 1 + dice() % 4; k > 0 && !t.empty(); --k) {
                const std::size_t at = dice() % t.size();
                switch (dice() % 4) {
                    case 0:
                        t[at] = static_cast<char>(dice());
                        break;
                    case 1:
                        t.erase(at, 1 + dice() % 8);
                        break;
                    case 2:
                        t.insert(at, t.substr(dice() % t.size(), 1 + dice() % 8));
                        break;
                    default:
                        t.resize(at);
                        break;
                }
            }
            feed(t);
            ++fed;
        }
    }
    std::printf("%zu texts\n", fed);
    return fed > 0 ? 0 : 1;
}
