#pragma once
#include <QDialog>

#include "desktop/models/jobs.h"
#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "files/pairs_between.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QSpinBox;
class QTableView;

namespace otoro::desktop {
class MatrixModel;

/// All pairs between two of the study's sets, or of one with itself: how far everything is from everything, without
/// anybody being served by anybody. Travelled as the question in sight says, on the roads of the plan in sight.
class PairsSheet : public QDialog {
    Q_OBJECT
public:
    PairsSheet(Session& session, Jobs& jobs, QWidget* parent = nullptr);
    /// A matrix, and what it comes to.
    struct Found {
        files::PairsBetween between;
        service::Plan plan;
        service::PairMatrix matrix;
        service::MatrixStatistics statistics;
        bool with_itself = false, by_time = true;
        std::vector<std::string> left_out;  ///< why pairs have no way
    };
    [[nodiscard]] QComboBox& from() const { return *from_; }
    [[nodiscard]] QComboBox& to() const { return *to_; }
    [[nodiscard]] QTableView& table() const { return *table_; }
    [[nodiscard]] QString summary() const;
    [[nodiscard]] QPushButton& show_button() const { return *show_; }
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }
    /// Larger ones are not shown, but summed up and written.
    static constexpr std::size_t kMostShown = 4'000'000, kMostAcross = 20'000;
    /// Writes every pair, by the ending of the path.
    void export_to(const QString& path);

signals:
    void trouble(const QString& why);
    void done(const QString& said);

private:
    /// One of the study's sets: it becomes points where that is worked with, since it may be large.
    struct Points {
        std::shared_ptr<const places::SiteSet> sites;
        std::shared_ptr<const places::DemandSet> demand;
        [[nodiscard]] explicit operator bool() const { return sites || demand; }
        [[nodiscard]] std::uint32_t count() const { return sites ? sites->count() : demand->count(); }
        [[nodiscard]] std::shared_ptr<const places::SiteSet> points() const;
    };
    struct Asked {
        std::shared_ptr<const roads::Network> network;
        service::Question question;
        service::Plan plan;
        Points begins, ends;
        bool with_itself = false;
        std::uint32_t nearest = 0;
        std::shared_ptr<const service::Ready> earlier;
        [[nodiscard]] files::PairsBetween between(bool for_nearest, const Task& task) const;
    };
    /// Nothing, and said why, while a set or the roads are missing.
    [[nodiscard]] std::optional<Asked> asked() const;
    [[nodiscard]] Points set_at(const QComboBox& box) const;
    void fill_sets();
    void size_changed();
    void ask();
    void refresh();
    void choose_export();
    Session& session_;
    Jobs& jobs_;
    WorkedOut<Found> work_;
    QString failed_;  ///< why the last could not be worked out
    QComboBox *from_, *to_, *unit_;
    QSpinBox* nearest_;
    QLabel *size_, *summary_;
    QPushButton *show_, *export_;
    QTableView* table_;
    MatrixModel* model_;
};

}  // namespace otoro::desktop
