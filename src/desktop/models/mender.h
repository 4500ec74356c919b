#pragma once
/// \file
/// Checks the study whenever it changes, and mends it, off the interface thread.
#include <QObject>
#include <optional>
#include <vector>

#include "desktop/models/background.h"
#include "desktop/models/session.h"
#include "service/findings.h"
#include "service/join_report.h"

namespace otoro::desktop {

class Mender : public QObject {
    Q_OBJECT
public:
    Mender(Session& session, Background& background, QObject* parent = nullptr);

    [[nodiscard]] const std::vector<service::Finding>& findings() const { return findings_; }
    [[nodiscard]] const std::vector<service::JoinEvidence>& join_evidence() const { return evidence_; }
    /// What the last check worked out; null before the first.
    [[nodiscard]] std::shared_ptr<const service::Checked> checked() const { return checked_; }
    /// Whether the findings are of the study as it is now.
    [[nodiscard]] bool up_to_date() const { return up_to_date_; }

    /// Mends, as a step that can be undone. A single gap is told as closed at once; the roads follow.
    void mend(service::Mend mend, const QString& what);
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
    /// The network summary as it stands.
    [[nodiscard]] QString summary() const;

signals:
    void findings_changed();
    void evidence_changed();

private:
    void look_again();
    /// Works on a copy of the study off the thread, and keeps its roads and sets if nothing else changed them meanwhile.
    void change(const QString& what, std::function<service::Study(service::Study, const Task&)> work);

    Session& session_;
    Background& background_;
    Background checks_;
    std::shared_ptr<const service::Checked> checked_;
    std::vector<service::Finding> findings_;
    std::vector<service::JoinEvidence> evidence_;
    bool up_to_date_ = false;
    quint64 looked_ = 0;
};

}  // namespace otoro::desktop
