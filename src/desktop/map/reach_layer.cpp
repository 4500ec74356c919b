#include "desktop/map/reach_layer.h"

// Qt's word "emit" is a function's name there.
#pragma push_macro("emit")
#undef emit
#include <tbb/parallel_for.h>
#pragma pop_macro("emit")

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <limits>

#include "desktop/models/background.h"
#include "desktop/models/behind_the_window.h"

namespace otoro::desktop {
namespace {

constexpr qsizetype kMostGridBytes = 160 << 20;
constexpr double kMostPixels = 4e6;  // beyond, a pixel of the layer is a point of the screen

}  // namespace

const service::SiteValues& ReachLayer::Content::values() const {
    std::call_once(found_, [this] {
        if (from)
            values_ = values_from(answer->ready, answer->outcome, *from, measure);
        else
            try {
                values_ = values_of(answer->ready, answer->outcome, measure, Task());
            } catch (const InputError&) {
                // Its reason stands where areas are asked for.
                values_ = std::make_shared<const service::NoValues>(answer->ready);
            }
    });
    return *values_;
}

ReachLayer::ReachLayer(QObject* parent) : QObject(parent) {
    const unsigned threads = std::clamp(std::thread::hardware_concurrency(), 2U, 4U) - 1;
    for (unsigned i = 0; i < threads; ++i)
        threads_.emplace_back([this](const std::stop_token& ending) { work(ending); });
}

ReachLayer::~ReachLayer() {
    for (auto& t : threads_) t.request_stop();
    wake_.notify_all();
    threads_.clear();
}

void ReachLayer::set_content(const std::shared_ptr<const MapScene>& scene, const PlanAnswerPtr& answer,
                             service::ValueOf measure, const std::optional<geo::LonLat>& from) {
    const bool usable = scene && answer && answer->outcome.traces && answer->ready->ground &&
                        &answer->ready->ground->network() == scene->network();
    if (!usable) {
        if (!content_) return;
        content_.reset();
        waiting_.reset();
        shown_.clear();
        coming_.clear();
        const std::lock_guard lock(mutex_);
        jobs_.clear();
        return;
    }
    const auto& latest = waiting_ ? waiting_ : content_;
    if (latest && latest->answer == answer && latest->measure == measure && latest->world == scene->world() &&
        latest->from == from)
        return;
    auto next = std::make_shared<Content>();
    next->answer = answer;
    next->world = scene->world();
    next->measure = measure;
    next->from = from;
    next->per_metre_off_road = service::per_metre_off_road(answer->ready->question, measure);
    next->version = ++versions_;
    if (content_ && !(content_->world == next->world)) {
        shown_.clear();
        coming_.clear();
    }
    // What is being worked out is finished first, so that something always follows.
    if (content_ && !complete() && content_->world == next->world)
        waiting_ = std::move(next);
    else
        begin(std::move(next));
}

void ReachLayer::begin(ContentPtr content) {
    content_ = std::move(content);
    coming_.clear();
    ask();
}

void ReachLayer::look_at(const Viewport& view, double device_pixel_ratio) {
    const bool fine = view.size.width() * view.size.height() * device_pixel_ratio * device_pixel_ratio <= kMostPixels;
    const double ratio = fine ? device_pixel_ratio : 1.0;
    if (view == view_ && ratio == ratio_) return;
    view_ = view;
    ratio_ = ratio;
    ask();
}

int ReachLayer::side_of(const Key& key) { return static_cast<int>(std::lround(kSide * key.ratio)) + 2; }

std::vector<ReachLayer::Key> ReachLayer::in_sight(const Viewport& view, double ratio) const {
    const QRectF world = view.world_rect();
    const double metres = kSide / view.pixels_per_metre;
    const auto tile = [&](double at) { return static_cast<int>(std::floor(at / metres)); };
    std::vector<Key> out;
    for (int y = tile(world.top()); y <= tile(world.bottom()); ++y)
        for (int x = tile(world.left()); x <= tile(world.right()); ++x)
            out.push_back({view.pixels_per_metre, ratio, x, y});
    return out;
}

bool ReachLayer::complete() const {
    const auto keys = in_sight(view_, ratio_);
    return std::all_of(keys.begin(), keys.end(), [&](const Key& k) {
        const auto at = shown_.find(k);
        return at != shown_.end() && at->version == content_->version;
    });
}

void ReachLayer::ask() {
    if (!content_) return;
    const auto keys = in_sight(view_, ratio_);
    const std::lock_guard lock(mutex_);
    jobs_.clear();
    for (const Key& key : keys) {
        const auto there = [&](const QHash<Key, Square>& squares) {
            const auto at = squares.find(key);
            return at != squares.end() && at->version == content_->version;
        };
        const bool working =
            std::find(under_way_.begin(), under_way_.end(), std::pair(key, content_->version)) != under_way_.end();
        if (!there(shown_) && !there(coming_) && !working) jobs_.push_back({content_, key});
    }
    wake_.notify_all();
}

void ReachLayer::work(const std::stop_token& ending) {
    stand_behind_the_window(Behind::closely);
    while (!ending.stop_requested()) {
        Job job;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, ending, [this] { return !jobs_.empty(); })) return;
            job = std::move(jobs_.front());
            jobs_.pop_front();
            under_way_.emplace_back(job.key, job.content->version);
        }
        Values values;
        try {
            const auto grid = grid_of(*job.content, job.key);
            values = std::make_shared<const std::vector<reach::GridValue>>(
                grid_values(*grid, job.content->answer->ready->ground->network(), job.content->values(),
                            job.content->per_metre_off_road));
        } catch (...) {
            emit failed(what_went_wrong());
            const auto side = static_cast<std::size_t>(side_of(job.key));
            values = std::make_shared<const std::vector<reach::GridValue>>(  // not tried again and again
                side * side, reach::GridValue{std::numeric_limits<float>::quiet_NaN(), reach::kNobody});
        }
        {
            const std::lock_guard lock(mutex_);
            std::erase(under_way_, std::pair(job.key, job.content->version));
        }
        QMetaObject::invokeMethod(
            this,
            [this, key = job.key, version = job.content->version, values] { take(key, version, values, side_of(key)); },
            Qt::QueuedConnection);
    }
}

std::shared_ptr<const reach::GroundGrid> ReachLayer::grid_of(const Content& content, const Key& key) {
    const auto& ground = *content.answer->ready->ground;
    {
        const std::lock_guard lock(grids_mutex_);
        if (grids_of_ != &ground) {
            grids_.clear();
            grids_of_ = &ground;
            grids_ready_ = content.answer->ready;
        }
        if (const auto known = grids_.find(key); known != grids_.end()) {
            known->used = ++clock_;
            return known->grid;
        }
    }
    const double metres = kSide / key.scale, pixel = 1 / (key.scale * key.ratio);
    const int side = side_of(key);
    auto grid = std::make_shared<const reach::GroundGrid>(ground_grid(
        ground.network(), ground.use(), ground.plane(), ground.limit(), static_cast<std::uint32_t>(side),
        static_cast<std::uint32_t>(side),
        [&](double column, double row) {
            return content.world.counted_on(
                {key.x * metres + (column - 0.5) * pixel, key.y * metres + (row - 0.5) * pixel});
        },
        Task()));
    const std::lock_guard lock(grids_mutex_);
    if (grids_of_ == &ground) {
        grids_.insert(key, {grid, ++clock_});
        const auto bytes = static_cast<qsizetype>(grid->spots.size() * sizeof(reach::GridSpot));
        while (grids_.size() > 1 && grids_.size() * bytes > kMostGridBytes) {
            auto oldest = grids_.begin();
            for (auto at = grids_.begin(); at != grids_.end(); ++at)
                if (at->used < oldest->used) oldest = at;
            grids_.erase(oldest);
        }
    }
    return grid;
}

void ReachLayer::take(const Key& key, quint64 version, const Values& values, int side) {
    if (!content_ || version != content_->version) return;
    coming_.insert(key, {values, side, version, {}, 0});
    const auto keys = in_sight(view_, ratio_);
    const bool all = std::all_of(keys.begin(), keys.end(), [&](const Key& k) {
        const auto at = shown_.find(k);
        return coming_.contains(k) || (at != shown_.end() && at->version == version);
    });
    // At once, unless nothing of before is in sight, where each square is welcome.
    const bool before = std::any_of(keys.begin(), keys.end(), [&](const Key& k) {
        const auto at = shown_.find(k);
        return at != shown_.end() && at->version != version;
    });
    if (!all && before) return;
    for (auto it = coming_.begin(); it != coming_.end(); ++it) shown_.insert(it.key(), it.value());
    coming_.clear();
    // Squares out of sight go when they are many.
    constexpr qsizetype kMostSquares = 160;
    if (shown_.size() > kMostSquares)
        shown_.removeIf([&](const auto& at) { return std::find(keys.begin(), keys.end(), at.key()) == keys.end(); });
    if (all && waiting_) begin(std::move(waiting_));
    emit changed();
}

void ReachLayer::colour(Square& square, const GroundColours& colours, const std::vector<float>& limits) {
    const auto side = static_cast<std::size_t>(square.side);
    const auto& values = *square.values;
    const auto beyond = static_cast<std::uint32_t>(limits.size());
    const std::uint32_t no_road = beyond + 1;
    // The band of every pixel: one beyond the limits, one where no road is near.
    thread_local std::vector<std::uint32_t> band;
    band.resize(values.size());
    for (std::size_t i = 0; i < values.size(); ++i) {
        const float v = values[i].value;
        std::uint32_t b = 0;
        for (const float limit : limits) b += v > limit ? 1 : 0;
        band[i] = std::isnan(v) ? no_road : b;
    }
    std::vector<QRgb> fill, edge, hatch;
    for (std::uint32_t b = 0; b <= beyond; ++b) {
        fill.push_back(qPremultiply(colours.fill[b].rgba()));
        edge.push_back(qPremultiply(colours.edge[b].rgba()));
        QColor lines = colours.edge[b];
        lines.setAlpha(120);
        hatch.push_back(colours.hatched[b] ? qPremultiply(lines.rgba()) : fill.back());
    }
    fill.push_back(0);
    edge.push_back(0);
    hatch.push_back(0);
    const QRgb between = qPremultiply(colours.between_sites.rgba());
    const bool owners = colours.between_sites.alpha() > 0;
    const bool hatched = std::find(colours.hatched.begin(), colours.hatched.end(), true) != colours.hatched.end();
    const auto filled = [&](std::uint32_t b) { return qAlpha(fill[b]) > 0; };
    constexpr std::size_t kHatch = 8;
    QImage image(square.side - 2, square.side - 2, QImage::Format_ARGB32_Premultiplied);
    for (std::size_t y = 1; y + 1 < side; ++y) {
        auto* const line = reinterpret_cast<QRgb*>(image.scanLine(static_cast<int>(y) - 1));
        const std::uint32_t *const above = band.data() + (y - 1) * side, *const row = above + side,
                                   *const below = row + side;
        const reach::GridValue *const here = values.data() + y * side, *const north = here - side;
        for (std::size_t x = 1; x + 1 < side; ++x) {
            const std::uint32_t b = row[x];
            const bool same = (row[x - 1] == b) & (row[x + 1] == b) & (above[x] == b) & (below[x] == b);
            if (same) {
                QRgb colour = hatched && (x + y) % kHatch < 2 ? hatch[b] : fill[b];
                if (owners && b < beyond && (here[x].owner != here[x - 1].owner || here[x].owner != north[x].owner))
                    colour = between;
                line[x - 1] = colour;
                continue;
            }
            // Ground that is filled has the edge of its inner band, also where no road is near beyond it.
            const std::uint32_t inner = std::min({b, row[x - 1], row[x + 1], above[x], below[x]});
            const bool seen =
                filled(b) || filled(row[x - 1]) || filled(row[x + 1]) || filled(above[x]) || filled(below[x]);
            line[x - 1] = seen && qAlpha(edge[inner]) > 0 ? edge[inner] : fill[b];
        }
    }
    square.image = image;
}

void ReachLayer::paint(QPainter& painter, const Viewport& view, const GroundColours& colours) {
    if (!content_) return;
    std::vector<QRgb> key;
    for (const auto* const list : {&colours.fill, &colours.edge})
        for (const QColor& c : *list) key.push_back(c.rgba());
    key.push_back(colours.between_sites.rgba());
    if (key != colours_key_ || colours.limits != limits_key_) {
        colours_key_ = key;
        limits_key_ = colours.limits;
        ++colours_version_;
    }
    std::vector<float> limits;
    for (const Amount& a : colours.limits)
        limits.push_back(std::visit([](auto v) { return static_cast<float>(v.count()); }, a));
    // Squares of this scale; while they are worked out those of another stand in, stretched.
    const double scale = view.pixels_per_metre;
    std::vector<Square*> to_colour;
    std::vector<std::pair<Key, Square*>> to_draw;
    const QRectF sight({0, 0}, view.size);
    const auto where = [&](const Key& k) {
        const double metres = kSide / k.scale;
        return QRectF(view.to_screen({k.x * metres, k.y * metres}),
                      view.to_screen({(k.x + 1) * metres, (k.y + 1) * metres}));
    };
    bool all_here = true;
    for (const Key& k : in_sight(view, ratio_)) all_here = all_here && shown_.contains(k);
    for (auto it = shown_.begin(); it != shown_.end(); ++it) {
        const bool of_scale = it.key().scale == scale && it.key().ratio == ratio_;
        if ((all_here && !of_scale) || !where(it.key()).intersects(sight)) continue;
        if (!all_here && of_scale == false && std::abs(it.key().scale / scale - 1) > 3) continue;
        to_draw.emplace_back(it.key(), &it.value());
        if (it->painted != colours_version_) to_colour.push_back(&it.value());
    }
    tbb::parallel_for(std::size_t{0}, to_colour.size(), [&](std::size_t i) { colour(*to_colour[i], colours, limits); });
    for (Square* const s : to_colour) s->painted = colours_version_;
    // Others first, so that those of this scale lie over them.
    std::stable_sort(to_draw.begin(), to_draw.end(),
                     [&](const auto& a, const auto& b) { return (a.first.scale == scale) < (b.first.scale == scale); });
    painter.save();
    QRegion left(sight.toAlignedRect());
    const QPoint corner = view.to_screen({0, 0}).toPoint();
    for (auto it = to_draw.rbegin(); it != to_draw.rend(); ++it) {
        const auto& [k, square] = *it;
        const bool of_scale = k.scale == scale;
        const QRect at =
            of_scale ? QRect(corner + QPoint(k.x * kSide, k.y * kSide), QSize(kSide, kSide)) : where(k).toAlignedRect();
        const QRegion part = left & at;
        if (part.isEmpty()) continue;
        painter.setClipRegion(part);
        painter.drawImage(at, square->image);
        left -= at;
    }
    painter.restore();
}

}  // namespace otoro::desktop
