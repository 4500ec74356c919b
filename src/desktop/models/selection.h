#pragma once
/// \file
/// What is picked out, everywhere at once.
#include <QObject>
#include <algorithm>
#include <cstdint>
#include <optional>
#include <utility>
#include <vector>

#include "geo/ids.h"

namespace otoro::desktop {

/// Demand places and a site, by their numbers in the answer.
struct Picked {
    std::vector<std::uint32_t> places;  ///< ascending
    std::optional<SiteIndex> site;
    bool operator==(const Picked&) const = default;
};

/// The one thing that says what is picked: map, records and sums only follow it.
class Selection : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;
    [[nodiscard]] const Picked& picked() const { return picked_; }
    void pick(Picked picked) {
        std::sort(picked.places.begin(), picked.places.end());
        if (picked == picked_) return;
        picked_ = std::move(picked);
        emit changed();
    }

signals:
    void changed();

private:
    Picked picked_;
};

}  // namespace otoro::desktop
