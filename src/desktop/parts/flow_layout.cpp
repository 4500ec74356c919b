#include "desktop/parts/flow_layout.h"

#include <QWidget>
#include <utility>
#include <vector>

namespace otoro::desktop {

FlowLayout::FlowLayout(QWidget* parent, int gap, int line_gap) : QLayout(parent), gap_(gap), line_gap_(line_gap) {}

FlowLayout::~FlowLayout() { qDeleteAll(items_); }

QSize FlowLayout::minimumSize() const {
    QSize s;
    for (const auto* item : items_) s = s.expandedTo(item->minimumSize());
    const auto m = contentsMargins();
    return s + QSize(m.left() + m.right(), m.top() + m.bottom());
}

void FlowLayout::setGeometry(const QRect& r) {
    QLayout::setGeometry(r);
    arrange(r, true);
}

int FlowLayout::arrange(const QRect& r, bool place) const {
    const QRect inside = r.marginsRemoved(contentsMargins());
    int x = inside.x();
    int y = inside.y();
    int line_height = 0;
    std::vector<std::pair<QLayoutItem*, QRect>> line;
    // Boxes and fields of one line stand on one middle.
    const auto end_line = [&] {
        for (const auto& [item, at] : line)
            if (place) item->setGeometry(at.translated(0, (line_height - at.height()) / 2));
        line.clear();
    };
    for (int i = 0; i < items_.size(); ++i) {
        auto* item = items_[i];
        if (item->isEmpty()) continue;  // hidden
        const QSize s = item->sizeHint();
        if (x > inside.x() && x + s.width() > inside.right() + 1) {
            end_line();
            x = inside.x();
            y += line_height + line_gap_;
            line_height = 0;
        }
        line.emplace_back(item, QRect(QPoint(x, y), s));
        // Punctuation stands close to the word before it.
        const auto* next = i + 1 < items_.size() ? items_[i + 1]->widget() : nullptr;
        x += s.width() + (next && next->property("closes_up").toBool() ? 0 : gap_);
        line_height = std::max(line_height, s.height());
    }
    end_line();
    return y + line_height - r.y() + contentsMargins().bottom();
}

}  // namespace otoro::desktop
