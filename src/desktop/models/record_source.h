#pragma once
/// \file
/// What a table of records shows: immutable, so that it can be sorted and gone through on any thread.
#include <QCoreApplication>
#include <QString>
#include <QStringList>
#include <QVariant>
#include <functional>
#include <memory>
#include <vector>

#include "desktop/models/answerer.h"
#include "service/floating_catchment.h"

namespace otoro::desktop {

class RecordSource {
public:
    struct Column {
        QString key;   ///< by which it is known in settings: `status`
        QString name;  ///< as it heads the column; says its unit
        bool number = false;
        int decimals = 0;
        bool there = true;          ///< whether the answer has anything to say in it
        bool whole_mostly = false;  ///< shown with decimals only where they are not zero
    };
    virtual ~RecordSource() = default;
    [[nodiscard]] const std::vector<Column>& columns() const { return columns_; }
    [[nodiscard]] virtual std::uint32_t count() const = 0;
    /// A number or a text; invalid if the record has none.
    [[nodiscard]] virtual QVariant value(std::uint32_t row, int column) const = 0;
    /// As it is shown: fixed decimals, never grouped, so that it pastes as a number.
    [[nodiscard]] QString text(std::uint32_t row, int column) const;
    /// Tells of a row whether every word stands somewhere in its cells, case aside.
    [[nodiscard]] virtual std::function<bool(std::uint32_t row)> matcher(const QStringList& words) const;

protected:
    std::vector<Column> columns_;
};

/// One row a demand place.
class DemandSource : public RecordSource {
    Q_DECLARE_TR_FUNCTIONS(DemandSource)
public:
    enum Index {
        kId,
        kWeight,
        kStatus,
        kMinutes,
        kKilometres,
        kSite,
        kOffRoad,
        kStraight,
        kDetour,
        kZone,
        kGroup,
        kAccess,
        kWhy,
        kColumns
    };
    using AccessPtr = std::shared_ptr<const service::FloatingCatchment>;
    /// \param access by floating catchments, of the same places; null: not worked out
    explicit DemandSource(PlanAnswerPtr answer, AccessPtr access = nullptr);
    [[nodiscard]] std::uint32_t count() const override;
    [[nodiscard]] QVariant value(std::uint32_t row, int column) const override;
    [[nodiscard]] std::function<bool(std::uint32_t row)> matcher(const QStringList& words) const override;

private:
    PlanAnswerPtr answer_;
    AccessPtr access_;
};

/// One row a site.
class SiteSource : public RecordSource {
    Q_DECLARE_TR_FUNCTIONS(SiteSource)
public:
    enum Index { kName, kState, kPlaces, kLoad, kCapacity, kLeast, kShare, kWorst, kTurnout, kColumns };
    explicit SiteSource(PlanAnswerPtr answer);
    [[nodiscard]] std::uint32_t count() const override;
    [[nodiscard]] QVariant value(std::uint32_t row, int column) const override;

private:
    PlanAnswerPtr answer_;
};

}  // namespace otoro::desktop
