#pragma once
/// \file
/// What is asked about ground, worked out off the interface thread.
#include <QObject>

#include "desktop/models/background.h"
#include "desktop/models/ground_finder.h"

namespace otoro::desktop {

/// Follows what is asked of it last: work for what was asked before is stopped, and its answer never given.
class ReachAsker : public QObject {
    Q_OBJECT
public:
    explicit ReachAsker(QObject* parent = nullptr);

    /// Nothing happens if that is there, or being worked out.
    void ask(GroundAsked asked);
    /// Nothing is wanted.
    void forget();

    /// What was asked for last, and before it is there what was found before it; null until something is there.
    [[nodiscard]] GroundFoundPtr found() const { return found_; }
    /// Whether that is just what is asked here.
    [[nodiscard]] bool has(const GroundAsked& asked) const { return found_ && found_->asked == asked; }
    [[nodiscard]] bool busy() const { return busy_; }
    [[nodiscard]] Background& work() { return work_; }
    void stop();

    /// Patches without places that are smaller are counted and not listed.
    static constexpr double kLeastPatch = 1000;

signals:
    void changed();
    void progressed(const QString& step, double done);
    void failed(const QString& why);

private:
    std::optional<GroundAsked> wanted_;
    quint64 piece_ = 0, number_ = 0;
    bool busy_ = false;
    GroundFoundPtr found_;
    Background work_;
};

}  // namespace otoro::desktop
