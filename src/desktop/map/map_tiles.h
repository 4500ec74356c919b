#pragma once
/// \file
/// The ground of the map in square pictures, drawn on threads of their own and kept, so that moving the map only moves
/// pictures.
///
/// At one scale the world is cut into tiles of 256 points. Those in sight are drawn first, from the middle outwards,
/// then a ring around them. What is on the screen is changed as a whole: when the answer or the looks change, the tiles
/// of before stay until all in sight are there anew, so that two answers are never seen side by side. Tiles in which
/// nothing differs are taken over. An answer that comes while the one before is still being drawn waits, so that under
/// a moving mouse something is always finished. While a new scale is being drawn the old one is stretched over it, and
/// where that has nothing, a picture of the whole study: the map is never blank.
#include <QHash>
#include <QImage>
#include <QObject>
#include <QRegion>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>
#include <vector>

#include "desktop/map/map_painter.h"

namespace otoro::desktop {

class MapTiles : public QObject {
    Q_OBJECT
public:
    explicit MapTiles(QObject* parent = nullptr);
    ~MapTiles() override;

    /// What is to be drawn. Nothing happens if it is what it was.
    void set_content(std::shared_ptr<const MapScene> scene, PlanAnswerPtr answer, const MapStyle& style);
    /// Which part of it is in sight.
    void look_at(const Viewport& view, double device_pixel_ratio);
    [[nodiscard]] double device_pixel_ratio() const { return ratio_; }
    /// Paints what there is: a few pictures, in a millisecond or two.
    void paint(QPainter& painter, const Viewport& view);
    /// Whether all tiles in sight show the latest content.
    [[nodiscard]] bool settled() const { return scene_ == nullptr || (!waiting_ && complete(view_, version_)); }
    /// Whether nothing is left to be drawn: neither in sight, nor around it, nor of the whole.
    [[nodiscard]] bool idle();
    /// How many tiles were drawn so far.
    [[nodiscard]] quint64 drawn_count() const { return drawn_; }

    static constexpr int kSide = 256;  ///< points

signals:
    void changed();  ///< there is more to paint
    void failed(const QString& why);

private:
    struct Key {
        double scale;
        int x, y;
        quint64 version;
        bool operator==(const Key&) const = default;
        friend size_t qHash(const Key& k, size_t seed = 0) { return qHashMulti(seed, k.scale, k.x, k.y, k.version); }
    };
    struct Content {
        std::shared_ptr<const MapScene> scene;
        PlanAnswerPtr answer;
        MapStyle style;
        double device_pixel_ratio = 1;
        quint64 version = 0;
        PlanAnswerPtr before;  ///< the answer that was drawn before, with all else the same, and its version
        quint64 before_version = 0;
    };
    struct Job {
        std::shared_ptr<const Content> content;
        Key key{};
        bool whole = false;  ///< the picture of the whole study
        QImage before;       ///< the tile as it was under the answer before
    };
    struct Kept {
        QImage image;
        quint64 used = 0;
    };
    struct Range {
        int left, top, right, bottom;  ///< inclusive
    };

    void draw_loop(const std::stop_token& ending);
    static QImage draw(const Content& content, const Viewport& view, const QImage& before);
    void change_to(PlanAnswerPtr answer);
    static Viewport view_of(const Key& key);
    [[nodiscard]] static Range in_sight(const Viewport& view, int ring);
    [[nodiscard]] bool complete(const Viewport& view, quint64 version) const;
    void take(const Key& key, const QImage& image, bool whole, QRectF whole_world);
    void ask();
    /// All in sight is there: the screen changes to it.
    void show_this(double scale);
    void forget_old();
    /// Paints what there is of one scale and version; says where there was nothing.
    QRegion paint_layer(QPainter& painter, const Viewport& view, double scale, quint64 version, const QRegion& where);

    std::shared_ptr<const MapScene> scene_;
    PlanAnswerPtr answer_, before_answer_;
    quint64 before_answer_version_ = 0;
    PlanAnswerPtr waiting_;  ///< to be drawn when what is being drawn is done
    MapStyle style_;
    double ratio_ = 1;
    quint64 version_ = 0;  ///< of the content
    quint64 shown_ = 0;    ///< the version on the screen
    quint64 whole_version_ = 0;
    Viewport view_;
    double before_scale_ = 0;  ///< the last scale that was wholly there, and its version
    quint64 before_version_ = 0;
    QHash<Key, Kept> kept_;
    quint64 clock_ = 0, drawn_ = 0;
    QImage whole_;
    QRectF whole_world_;

    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::deque<Job> jobs_;
    std::vector<Key> under_way_;
    int drawing_ = 0;  ///< taken from the jobs and not handed in yet
    std::vector<std::jthread> threads_;
};

}  // namespace otoro::desktop
