#pragma once
/// \file
/// Reached ground on the screen, drawn live.
///
/// \par Method
/// The world is cut into the same squares as the map's tiles. Of each square in sight is kept which road, and where on
/// it, every pixel is attached to (`reach::GroundGrid`), and under the answer shown what it takes there: both found on
/// threads behind the window. What follows the mouse, a limit that is dragged, is only a recolouring; another answer, a
/// site that is dragged, is new values over the same grid. All squares in sight change to a new answer at once, and an
/// answer is finished before the next is begun, so that something always follows the hand.
#include <QHash>
#include <QImage>
#include <QObject>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>
#include <vector>

#include "desktop/map/looks/map_look.h"
#include "desktop/map/map_scene.h"
#include "desktop/models/answerer.h"
#include "reach/ground_grid.h"
#include "service/road_values.h"

namespace otoro::desktop {

class ReachLayer : public QObject {
    Q_OBJECT
public:
    explicit ReachLayer(QObject* parent = nullptr);
    ~ReachLayer() override;

    /// What is reached under this answer; null: nothing is drawn, and nothing is worked out.
    /// \param from a spot that is asked about instead of the answer's sites
    void set_content(const std::shared_ptr<const MapScene>& scene, const PlanAnswerPtr& answer,
                     service::ValueOf measure, const std::optional<geo::LonLat>& from = {});
    void look_at(const Viewport& view, double device_pixel_ratio);
    /// Paints what there is.
    void paint(QPainter& painter, const Viewport& view, const GroundColours& colours);
    /// Whether all in sight is of the latest content.
    [[nodiscard]] bool settled() const { return !content_ || (!waiting_ && complete()); }

    static constexpr int kSide = 256;  ///< points

signals:
    void changed();
    void failed(const QString& why);

private:
    struct Key {
        double scale, ratio;
        int x, y;
        bool operator==(const Key&) const = default;
        friend size_t qHash(const Key& k, size_t seed = 0) { return qHashMulti(seed, k.scale, k.ratio, k.x, k.y); }
    };
    struct Content {
        PlanAnswerPtr answer;
        FlatWorld world;
        service::ValueOf measure = service::ValueOf::time;
        std::optional<geo::LonLat> from;
        double per_metre_off_road = 0;
        quint64 version = 0;
        /// Found by the thread that needs them first.
        [[nodiscard]] const service::SiteValues& values() const;

    private:
        mutable std::once_flag found_;
        mutable std::shared_ptr<const service::SiteValues> values_;
    };
    using ContentPtr = std::shared_ptr<const Content>;
    using Values = std::shared_ptr<const std::vector<reach::GridValue>>;
    /// One square under one content. Its pixels have a rim of one, so that edges are found across squares.
    struct Square {
        Values values;
        int side = 0;  ///< pixels, with the rim
        quint64 version = 0;
        QImage image;
        quint64 painted = 0;  ///< the colours it is painted in
    };
    struct Job {
        ContentPtr content;
        Key key{};
    };
    struct Grid {
        std::shared_ptr<const reach::GroundGrid> grid;
        quint64 used = 0;
    };

    void work(const std::stop_token& ending);
    std::shared_ptr<const reach::GroundGrid> grid_of(const Content& content, const Key& key);
    void take(const Key& key, quint64 version, const Values& values, int side);
    void begin(ContentPtr content);
    void ask();
    [[nodiscard]] std::vector<Key> in_sight(const Viewport& view, double ratio) const;
    [[nodiscard]] bool complete() const;
    static void colour(Square& square, const GroundColours& colours, const std::vector<float>& limits);
    static int side_of(const Key& key);

    ContentPtr content_, waiting_;
    Viewport view_;
    double ratio_ = 1;
    quint64 versions_ = 0, colours_version_ = 0;
    std::vector<QRgb> colours_key_;
    std::vector<Amount> limits_key_;
    QHash<Key, Square> shown_, coming_;

    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::deque<Job> jobs_;
    std::vector<std::pair<Key, quint64>> under_way_;
    std::mutex grids_mutex_;
    const reach::Ground* grids_of_ = nullptr;
    std::shared_ptr<const service::Ready> grids_ready_;  ///< keeps the ground that they are of
    QHash<Key, Grid> grids_;
    quint64 clock_ = 0;
    std::vector<std::jthread> threads_;
};

}  // namespace otoro::desktop
