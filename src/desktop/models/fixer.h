#pragma once
/// \file
/// Checks the study whenever it changes, and fixes it, off the interface thread.
#include <QObject>
#include <optional>
#include <vector>

#include "desktop/models/jobs.h"
#include "desktop/models/session.h"
#include "service/findings.h"
#include "service/join_report.h"

namespace otoro::desktop {

class Fixer : public QObject {
    Q_OBJECT
public:
    Fixer(Session& session, Jobs& jobs, QObject* parent = nullptr);

    [[nodiscard]] const std::vector<service::Finding>& findings() const { return findings_; }
    [[nodiscard]] const std::vector<service::JoinEvidence>& join_evidence() const { return evidence_; }
    /// What the last check worked out; null before the first.
    [[nodiscard]] std::shared_ptr<const service::Checked> checked() const { return checked_; }
    /// Whether the findings are of the study as it is now.
    [[nodiscard]] bool up_to_date() const { return up_to_date_; }

    /// Mends, as a step that can be undone. A single gap is told as closed at once; the roads follow.
    void fix(service::Fix fix, const QString& what);
    void accept(const service::Finding& finding, const QString& note);
    void reopen(const service::Finding& finding);
    void set_join_rule(roads::JoinRule rule);
    void set_gap_tolerance(Millimetres tolerance);
    /// Gives the roads heights from a GeoTIFF.
    void take_heights(const QString& path);
    /// Takes back a closed gap.
    void reopen_gap(const roads::ClosedGap& gap);
    /// Works out what each rule of joining would give; `evidence_changed` says when.
    void compare_rules();
    /// The looking, which can be stopped and begun again.
    [[nodiscard]] Background& checks() { return checks_; }
    void look_again();
    /// The network summary as it stands.
    [[nodiscard]] QString summary() const;

signals:
    void findings_changed();
    void evidence_changed();
    /// A fix could not be applied since what it was for is not there any more.
    void outdated(const QString& what);

private:
    /// Works on a copy of the study off the thread and takes over the parts that it changed. Where one of those was
    /// changed meanwhile, the work is done again on what is there now. \param still says whether the work still makes
    /// sense on another study
    using Work = std::function<service::Study(service::Study, const Task&)>;
    using Still = std::function<bool(const service::Study& then, const service::Study& now)>;
    void change(const QString& what, Work work, Still still = {});
    void take_over(const QString& what, const Work& work, const Still& still, const service::Study& before,
                   const service::Study& after);

    Session& session_;
    Background& fixing_;
    Background checks_;
    std::shared_ptr<const service::Checked> checked_;
    std::vector<service::Finding> findings_;
    std::vector<service::JoinEvidence> evidence_;
    bool up_to_date_ = false;
    quint64 looked_ = 0;
};

}  // namespace otoro::desktop
