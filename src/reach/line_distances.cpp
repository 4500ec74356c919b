#include "reach/line_distances.h"

#include <limits>

// Each processor that Highway knows of compiles what stands below once more, in a namespace of its own.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "reach/line_distances.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#ifdef __GNUC__
#pragma GCC diagnostic ignored "-Wpragmas"
#pragma GCC diagnostic ignored "-Wpsabi"
#pragma GCC diagnostic ignored "-Wmaybe-uninitialized"
#endif

HWY_BEFORE_NAMESPACE();
namespace otoro::reach {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Columns = std::array<const float*, 5>;

template <class D, class V>
HWY_INLINE V squares(D d, const Columns& c, std::size_t i, V x, V y) {
    const V px = hn::Sub(x, hn::LoadU(d, c[0] + i)), py = hn::Sub(y, hn::LoadU(d, c[1] + i));
    const V dx = hn::LoadU(d, c[2] + i), dy = hn::LoadU(d, c[3] + i);
    const V along = hn::Mul(hn::MulAdd(px, dx, hn::Mul(py, dy)), hn::LoadU(d, c[4] + i));
    const V t = hn::Min(hn::Max(along, hn::Zero(d)), hn::Set(d, 1.0F));
    const V ex = hn::NegMulAdd(t, dx, px), ey = hn::NegMulAdd(t, dy, py);
    return hn::MulAdd(ex, ex, hn::Mul(ey, ey));
}

float squared_here(const Columns& c, std::size_t count, float x, float y, float* out) {
    const hn::ScalableTag<float> d;
    const std::size_t lanes = hn::Lanes(d);
    const auto vx = hn::Set(d, x), vy = hn::Set(d, y);
    auto least = hn::Set(d, std::numeric_limits<float>::max());
    for (std::size_t i = 0; i < count; i += lanes) {
        const auto s = squares(d, c, i, vx, vy);
        hn::StoreU(s, d, out + i);
        least = hn::Min(least, s);
    }
    return hn::GetLane(hn::MinOfLanes(d, least));
}

std::size_t near_here(const Columns& c, std::size_t from, std::size_t to, float x, float y, float most,
                      std::uint32_t* out) {
    const hn::ScalableTag<float> d;
    const std::size_t lanes = hn::Lanes(d);
    const auto vx = hn::Set(d, x), vy = hn::Set(d, y), bound = hn::Set(d, most);
    std::size_t found = 0;
    std::uint8_t bytes[LineColumns::kRoom / 8 + 8];
    for (std::size_t i = from; i < to; i += lanes) {
        const auto is_near = hn::Le(squares(d, c, i, vx, vy), bound);
        if (hn::AllFalse(d, is_near)) continue;
        const std::size_t used = hn::StoreMaskBits(d, is_near, bytes);
        for (std::size_t b = 0; b < used; ++b)
            for (unsigned bits = bytes[b]; bits != 0; bits &= bits - 1) {
                const std::size_t at = i + b * 8 + static_cast<unsigned>(__builtin_ctz(bits));
                if (at < to) out[found++] = static_cast<std::uint32_t>(at);
            }
    }
    return found;
}

}  // namespace HWY_NAMESPACE
}  // namespace otoro::reach
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace otoro::reach {

HWY_EXPORT(squared_here);
HWY_EXPORT(near_here);

namespace {
constexpr float kFar = 1e18F;  // where the room behind the last line is
}

void LineColumns::resize(std::size_t lines) {
    for (auto& column : columns_) column.resize(std::max(column.size(), lines + kRoom));
    numbers_.resize(std::max(numbers_.size(), lines));
    for (std::size_t i = lines; i < lines + kRoom; ++i) {
        columns_[0][i] = columns_[1][i] = kFar;
        columns_[2][i] = columns_[3][i] = columns_[4][i] = 0;
    }
    size_ = lines;
}

void LineColumns::clear(std::size_t room_for) {
    resize(room_for);
    size_ = 0;
}

void LineColumns::put(std::size_t at, const PlacedLine& l, std::uint32_t number) {
    columns_[0][at] = static_cast<float>(l.ax);
    columns_[1][at] = static_cast<float>(l.ay);
    columns_[2][at] = static_cast<float>(l.dx);
    columns_[3][at] = static_cast<float>(l.dy);
    columns_[4][at] = static_cast<float>(l.per_squared);
    numbers_[at] = number;
}

void LineColumns::add(const PlacedLine& line, std::uint32_t number) { put(size_++, line, number); }

void LineColumns::add(const LineColumns& from, std::size_t line) {
    for (std::size_t k = 0; k < columns_.size(); ++k) columns_[k][size_] = from.columns_[k][line];
    numbers_[size_++] = from.numbers_[line];
}

float squared_distances(const LineColumns& lines, float x, float y, float* out) {
    return HWY_DYNAMIC_DISPATCH(squared_here)(lines.columns(), lines.size(), x, y, out);
}

std::size_t near_lines(const LineColumns& lines, std::size_t from, std::size_t to, float x, float y, float most,
                       std::uint32_t* out) {
    return HWY_DYNAMIC_DISPATCH(near_here)(lines.columns(), from, to, x, y, most, out);
}

}  // namespace otoro::reach
#endif
