#pragma once
/// \file
/// Files for tests, in a folder that goes away with the test.
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

namespace otoro::test {

class Folder {
public:
    Folder()
        : path_(std::filesystem::temp_directory_path() /
                ("otoro-test-" + std::to_string(::getpid()) + "-" + std::to_string(count_++))) {
        std::filesystem::create_directories(path_);
    }
    ~Folder() { std::filesystem::remove_all(path_); }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;

    [[nodiscard]] std::string file(const std::string& name) const { return (path_ / name).string(); }
    /// Writes a text and returns its path.
    [[nodiscard]] std::string write(const std::string& name, const std::string& text) const {
        std::ofstream(path_ / name, std::ios::binary) << text;
        return file(name);
    }
    [[nodiscard]] std::size_t count() const {
        return static_cast<std::size_t>(
            std::distance(std::filesystem::directory_iterator(path_), std::filesystem::directory_iterator()));
    }

private:
    std::filesystem::path path_;
    static inline int count_ = 0;
};

inline std::string contents(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

/// Two roads that cross at (−9.5, 46.2), as GeoJSON.
inline const char* const kCrossRoads =
    R"({"type":"FeatureCollection","features":[
{"type":"Feature","properties":{"class":"residential","name":"West )"
    R"(Row","oneway":"no"},"geometry":{"type":"LineString","coordinates":[[-9.51,46.2],[-9.5,46.2]]}},
{"type":"Feature","properties":{"class":"residential","name":"East )"
    R"(Row","oneway":"yes","speed":20},"geometry":{"type":"LineString","coordinates":[[-9.5,46.2],[-9.49,46.2]]}},
{"type":"Feature","properties":{"class":"primary","name":"North )"
    R"(Road"},"geometry":{"type":"LineString","coordinates":[[-9.5,46.2],[-9.5,46.21]]}}
]})";

}  // namespace otoro::test
