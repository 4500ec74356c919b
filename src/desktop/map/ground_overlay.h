#pragma once
/// \file
/// A drawing of ground over the map.
#include "desktop/map/ground_drawing.h"
#include "desktop/map/painted_ahead.h"

namespace otoro::desktop {

/// Draws what was found of ground ahead.
class GroundOverlay : public PaintedAhead {
public:
    using PaintedAhead::PaintedAhead;
    /// What was found, as a style draws it beside the live layer. Null: nothing. \param stale what is asked for by now
    /// is something else: it stands back
    void set_found(const GroundFoundPtr& found, const MapStyle& style, const FlatWorld& world, bool stale);

private:
    struct Content;
    std::shared_ptr<const Content> content_;
};

}  // namespace otoro::desktop
