#pragma once
/// \file
/// Lines from places to the sites that serve them, those that lie together drawn as one, so that a hundred thousand do
/// not drown the map.
///
/// \par Method
/// Served places are put into squares some fifty pixels wide; all of a square that go to one site are one line from
/// their middle, by weight, as wide as they are heavy.
///
/// \par Cost
/// Linear in the places; worked out and drawn off the interface thread. Where there are more than two thousand lines,
/// squares are made wider until there are not, or four of them hold everything.
#include <QObject>
#include <QPainter>
#include <QPointF>
#include <memory>
#include <vector>

#include "desktop/map/map_painter.h"
#include "desktop/map/painted_ahead.h"
#include "desktop/models/worked_out.h"

namespace otoro::desktop {

struct DesireLine {
    QPointF from;  ///< in flat metres
    std::uint32_t site = 0;
    std::uint32_t places = 0;
    double weight = 0;
};

/// \param square its width in metres, at least \throws Stopped
std::vector<DesireLine> desire_lines(const MapScene& scene, const service::Outcome& outcome, double square,
                                     const Task& task);

void paint_desire_lines(QPainter& painter, const Viewport& view, const FlatWorld& world,
                        const std::vector<DesireLine>& lines, const service::Outcome& outcome);

/// The lines of a map, for its answer and scale; those of before stay until the new ones are there.
class DesireLayer : public QObject {
    Q_OBJECT
public:
    explicit DesireLayer(QObject* parent);
    /// Nothing is shown without an answer.
    void set_content(const std::shared_ptr<const MapScene>& scene, const PlanAnswerPtr& answer, const Viewport& view,
                     double device_pixel_ratio);
    void paint(QPainter& painter, const Viewport& view) const { picture_.paint(painter, view); }
    [[nodiscard]] bool settled() const { return !work_.busy() && picture_.settled(); }
    /// What is drawn.
    [[nodiscard]] const std::vector<DesireLine>& lines() const;

signals:
    void changed();
    void failed(const QString& why);

private:
    struct Found {
        std::shared_ptr<const MapScene> scene;
        PlanAnswerPtr answer;
        std::vector<DesireLine> lines;
    };
    std::shared_ptr<const MapScene> scene_;
    PlanAnswerPtr answer_;
    double square_ = 0;
    WorkedOut<Found> work_;
    PaintedAhead picture_;
};

}  // namespace otoro::desktop
