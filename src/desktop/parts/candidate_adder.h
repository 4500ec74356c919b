#pragma once
/// \file
/// Candidates where nobody has named any: a set of its own, made off the interface thread, that the question is about
/// from then on.
#include <QObject>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"

class QMenu;

namespace otoro::desktop {

class CandidateAdder : public QObject {
    Q_OBJECT
public:
    enum class Where : std::uint8_t { grid, junctions, demand };
    explicit CandidateAdder(Session& session, QObject* parent = nullptr);
    /// One action for each kind of spot.
    void add_actions_to(QMenu& menu);
    /// \param spacing of a grid
    void add(Where where, Millimetres spacing = Millimetres::metres(1'000));
    [[nodiscard]] bool busy() const { return work_.busy(); }

signals:
    void changed();
    void trouble(const QString& why);

private:
    void take();
    Session& session_;
    WorkedOut<places::SiteSet> work_;
};

}  // namespace otoro::desktop
