#pragma once
/// \file
/// The records of the answer as tables: one row a demand place, one row a site.
#include <QAbstractTableModel>
#include <QSortFilterProxyModel>

#include "desktop/models/session.h"

namespace otoro::desktop {

/// Role under which a cell gives its value for sorting.
inline constexpr int kSortRole = Qt::UserRole + 1;

class DemandRecords : public QAbstractTableModel {
    Q_OBJECT
public:
    enum Column {
        kId,
        kWeight,
        kStatus,
        kMinutes,
        kKilometres,
        kSite,
        kOffRoad,
        kStraight,
        kZone,
        kGroup,
        kWhy,
        kColumns
    };
    using QAbstractTableModel::QAbstractTableModel;
    void show(const PlanAnswerPtr& answer);
    /// Whether the answer has anything to say in a column.
    [[nodiscard]] bool has(Column column) const;
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& = {}) const override { return kColumns; }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

private:
    [[nodiscard]] QVariant value(std::uint32_t row, int column) const;
    PlanAnswerPtr answer_;
};

class SiteRecords : public QAbstractTableModel {
    Q_OBJECT
public:
    enum Column { kName, kState, kPlaces, kLoad, kCapacity, kShare, kWorst, kColumns };
    using QAbstractTableModel::QAbstractTableModel;
    void show(const PlanAnswerPtr& answer);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& = {}) const override { return kColumns; }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

private:
    [[nodiscard]] QVariant value(std::uint32_t row, int column) const;
    PlanAnswerPtr answer_;
};

/// Sorts by value, those without one last whichever way, and keeps the rows that contain every word of the filter.
class RecordFilter : public QSortFilterProxyModel {
    Q_OBJECT
public:
    explicit RecordFilter(QObject* parent = nullptr) : QSortFilterProxyModel(parent) { setSortRole(kSortRole); }
    void set_words(const QString& text);

protected:
    [[nodiscard]] bool lessThan(const QModelIndex& a, const QModelIndex& b) const override;
    [[nodiscard]] bool filterAcceptsRow(int row, const QModelIndex& parent) const override;

private:
    QStringList words_;
};

/// Rows as text for a spreadsheet: tabs between cells, a header first.
QString as_table_text(const QAbstractItemModel& model, const QList<int>& rows);

}  // namespace otoro::desktop
