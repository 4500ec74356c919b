#pragma once
/// \file
/// The orders of a study's networks, kept beside the study so that it is ready at once the next time.
///
/// `STUDY.gpkg` has `STUDY.gpkg.order`: up to four orders, each under a name that is a digest of the roads it belongs
/// to. It holds nothing that is not worked out from the study, can be deleted at any time, and is not trusted: a file
/// of another version, cut short, changed, or with an order that is none for these roads is as good as no file, and is
/// written anew.
///
/// Bytes, little-endian: `OTOROORD`, a version (u32); then for each order its name (32 characters), how many nodes
/// (u32), their digest (32 characters), and for each node when it is taken out (u32).
#include <string>

#include "service/assign.h"

namespace otoro::files {

class OrderFile : public service::OrderStore {
public:
    explicit OrderFile(std::string study) : path_(std::move(study) + ".order") {}
    [[nodiscard]] const std::string& path() const { return path_; }
    std::optional<std::vector<std::uint32_t>> find(const std::string& name) override;
    /// Where the file cannot be written, the order is found again the next time.
    void keep(const std::string& name, std::span<const std::uint32_t> positions) override;

private:
    std::string path_;
};

}  // namespace otoro::files
