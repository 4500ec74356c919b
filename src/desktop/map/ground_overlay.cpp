#include "desktop/map/ground_overlay.h"

#include <mutex>

namespace otoro::desktop {

/// Made a drawing once, by the first who paints it.
struct GroundOverlay::Content {
    GroundFoundPtr found;
    MapStyle style;
    FlatWorld world;
    [[nodiscard]] const GroundDrawing& drawing() const {
        std::call_once(once_, [this] { drawing_ = drawing_of(*found, style, world, GroundParts::beside_live); });
        return drawing_;
    }

private:
    mutable std::once_flag once_;
    mutable GroundDrawing drawing_;
};

void GroundOverlay::set_found(const GroundFoundPtr& found, const MapStyle& style, const FlatWorld& world, bool stale) {
    if (!found || !draws_beside_live(*found, style)) {
        content_.reset();
        return set_content({});
    }
    const bool same = content_ && content_->found == found && content_->style.look == style.look &&
                      content_->style.limit == style.limit && content_->style.reach == style.reach &&
                      content_->world == world;
    set_stale(stale);
    // What is out of date stays as it was drawn.
    if (same || (stale && content_ && content_->found == found && content_->world == world)) return;
    auto next = std::make_shared<Content>();
    next->found = found;
    next->style = style;
    next->world = world;
    content_ = next;
    set_content([next](QPainter& painter, const Viewport& view) { desktop::paint(painter, view, next->drawing()); });
}

}  // namespace otoro::desktop
