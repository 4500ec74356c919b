#pragma once
/// \file
/// Small whole numbers that cannot be mistaken for one another.
#include <compare>
#include <cstddef>
#include <cstdint>

namespace otoro {

/// A position in an array of `Tag`s. Two indexes of different kinds do not compare and do not convert.
template <class Tag>
class Index {
public:
    constexpr Index() = default;
    constexpr explicit Index(std::uint32_t v) : value_(v) {}
    constexpr explicit Index(std::size_t v) : value_(static_cast<std::uint32_t>(v)) {}
    [[nodiscard]] constexpr std::uint32_t value() const { return value_; }
    constexpr auto operator<=>(const Index&) const = default;

private:
    std::uint32_t value_ = 0;
};

using NodeId = Index<struct NodeTag>;         ///< a point where links meet
using LinkId = Index<struct LinkTag>;         ///< a stretch of road between two nodes
using DemandIndex = Index<struct DemandTag>;  ///< a demand place, by file order
using SiteIndex = Index<struct SiteTag>;      ///< a site, by file order

}  // namespace otoro
