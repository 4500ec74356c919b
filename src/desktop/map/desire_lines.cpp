#include "desktop/map/desire_lines.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <unordered_map>

#include "desktop/map/site_colours.h"

namespace otoro::desktop {
namespace {

constexpr double kSquare = 48, kWidest = 9, kThinnest = 0.8;  // px

constexpr std::size_t kMostLines = 2'000;

/// The lines of squares of one width; nothing if there are more than so many.
std::optional<std::vector<DesireLine>> lines_of_squares(const MapScene& scene, const service::Outcome& o, double square,
                                                        std::size_t most, const Task& task) {
    struct Key {
        std::int32_t x, y;
        std::uint32_t site;
        bool operator==(const Key&) const = default;
    };
    struct Hash {
        std::size_t operator()(const Key& k) const {
            return (static_cast<std::size_t>(static_cast<std::uint32_t>(k.x)) * 0x9E3779B97F4A7C15ULL) ^
                   (static_cast<std::size_t>(static_cast<std::uint32_t>(k.y)) * 0xC2B2AE3D27D4EB4FULL) ^
                   (static_cast<std::size_t>(k.site) * 0x165667B19E3779F9ULL);
        }
    };
    std::unordered_map<Key, std::size_t, Hash> number;
    std::vector<DesireLine> out;
    std::vector<QPointF> sums;
    std::vector<double> counts;
    each_part(o, [&](std::uint32_t i, const service::PlaceOutcome& p, Weight weight, bool) {
        if (i % 65'536 == 0) task.check();
        if (out.size() > most || !p.served() || !scene.has_place(i)) return;
        const QPointF at = scene.place(i);
        const Key key{static_cast<std::int32_t>(std::floor(at.x() / square)),
                      static_cast<std::int32_t>(std::floor(at.y() / square)), p.site->value()};
        const auto [known, added] = number.try_emplace(key, out.size());
        if (added) {
            out.push_back({{}, key.site, 0, 0});
            sums.emplace_back();
            counts.push_back(0);
        }
        DesireLine& line = out[known->second];
        ++line.places;
        line.weight += weight.value();
        // By weight; places that weigh nothing stand somewhere all the same.
        const double counts_for = std::max(weight.value(), 1e-6);
        sums[known->second] += at * counts_for;
        counts[known->second] += counts_for;
    });
    if (out.size() > most) return std::nullopt;
    for (std::size_t i = 0; i < out.size(); ++i) out[i].from = sums[i] / counts[i];
    // Heavy ones are drawn first, light ones over them; in one order whatever the table of squares does.
    std::stable_sort(out.begin(), out.end(),
                     [](const DesireLine& a, const DesireLine& b) { return a.weight > b.weight; });
    return out;
}

}  // namespace

std::vector<DesireLine> desire_lines(const MapScene& scene, const service::Outcome& o, double square,
                                     const Task& task) {
    // Four squares hold everything: what is left then are a few lines for each of thousands of sites.
    const double all = std::max(scene.extent().width(), scene.extent().height());
    for (; square < all; square *= 2)
        if (auto lines = lines_of_squares(scene, o, square, kMostLines, task)) return std::move(*lines);
    return *lines_of_squares(scene, o, square, o.places.size() + o.further.size(), task);
}

void paint_desire_lines(QPainter& painter, const Viewport& view, const FlatWorld& world,
                        const std::vector<DesireLine>& lines, const service::Outcome& o) {
    if (lines.empty()) return;
    painter.setRenderHint(QPainter::Antialiasing);
    const auto colours = site_colours(o.sites);
    const double most = std::max(lines.front().weight, 1e-9);
    const QRectF seen = QRectF({0, 0}, view.size).adjusted(-20, -20, 20, 20);
    for (const DesireLine& line : lines) {
        const auto& site = o.sites[line.site].planned.site.position;
        if (!site) continue;
        const QPointF a = view.to_screen(line.from), b = view.to_screen(world.flat(*site));
        if (!QRectF(a, b).normalized().adjusted(-1, -1, 1, 1).intersects(seen)) continue;
        QColor colour = colours[line.site].darker(115);
        colour.setAlpha(170);
        painter.setPen(QPen(colour, std::max(kThinnest, kWidest * line.weight / most), Qt::SolidLine, Qt::RoundCap));
        painter.drawLine(a, b);
    }
}

DesireLayer::DesireLayer(QObject* parent) : QObject(parent), work_(this), picture_(this) {
    connect(&work_, &WorkedOutSignals::changed, this, [this] {
        const auto found = work_.found();
        if (!found || !answer_)
            picture_.set_content({});
        else if (!work_.busy())
            picture_.set_content([found](QPainter& painter, const Viewport& view) {
                paint_desire_lines(painter, view, found->scene->world(), found->lines, found->answer->outcome);
            });
    });
    connect(&work_, &WorkedOutSignals::failed, this, &DesireLayer::failed);
    connect(&picture_, &PaintedAhead::failed, this, &DesireLayer::failed);
    connect(&picture_, &PaintedAhead::changed, this, &DesireLayer::changed);
}

void DesireLayer::set_content(const std::shared_ptr<const MapScene>& scene, const PlanAnswerPtr& answer,
                              const Viewport& view, double device_pixel_ratio) {
    picture_.look_at(view, device_pixel_ratio);
    if (!scene || !answer) {
        answer_ = nullptr;
        return work_.forget();
    }
    // From one scale to the next the squares stay as they are, until they are twice as wide.
    const double square = std::exp2(std::round(std::log2(kSquare / view.pixels_per_metre)));
    if (scene == scene_ && answer == answer_ && square == square_) return;
    scene_ = scene;
    answer_ = answer;
    square_ = square;
    work_.ask([scene, answer, square](const Task& task) {
        return std::make_shared<const Found>(Found{scene, answer, desire_lines(*scene, answer->outcome, square, task)});
    });
}

const std::vector<DesireLine>& DesireLayer::lines() const {
    static const std::vector<DesireLine> none;
    return work_.found() && answer_ ? work_.found()->lines : none;
}

}  // namespace otoro::desktop
