#pragma once
/// \file
/// Records as a table that sorts and filters. Half a million rows are gone through off the interface thread; until that
/// is done the table stays as it was.
#include <QAbstractTableModel>
#include <optional>

#include "desktop/models/record_source.h"

namespace otoro::desktop {

/// Role under which a cell gives its value for sorting.
inline constexpr int kSortRole = Qt::UserRole + 1;

class RecordModel : public QAbstractTableModel {
    Q_OBJECT
public:
    explicit RecordModel(std::shared_ptr<const RecordSource> source, QObject* parent = nullptr);
    void show(std::shared_ptr<const RecordSource> source);
    /// Keeps the rows that contain every word, case aside.
    void set_words(const QString& text);
    /// By value, equal ones in file order; rows without a value are last whichever way. Column -1: file order.
    void sort(int column, Qt::SortOrder order) override;

    [[nodiscard]] const RecordSource& source() const { return *source_; }
    /// How many records there are, filtered or not.
    [[nodiscard]] std::uint32_t all() const { return source_->count(); }
    /// The record in a row, and the row of a record; nothing if it is filtered out.
    [[nodiscard]] std::uint32_t record(int row) const;
    [[nodiscard]] std::optional<int> row_of(std::uint32_t record) const;
    /// Whether rows are being put in order.
    [[nodiscard]] bool arranging() const { return number_ != done_; }
    [[nodiscard]] bool filtered() const { return !words_.isEmpty(); }

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& = {}) const override {
        return static_cast<int>(source_->columns().size());
    }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

signals:
    void arranging_changed();

private:
    /// Which records there are in which order; nothing: all, as they come.
    struct Order {
        bool whole = true;
        std::vector<std::uint32_t> records;
        std::vector<std::int32_t> rows;  ///< of each record; -1 if it is filtered out
    };
    static Order arrange(const RecordSource& source, const QStringList& words, int column, Qt::SortOrder order);
    void arrange();
    void take(std::shared_ptr<const RecordSource> source, Order order);

    std::shared_ptr<const RecordSource> source_, wanted_;
    QStringList words_;
    int column_ = -1;
    Qt::SortOrder sort_order_ = Qt::AscendingOrder;
    Order order_;
    quint64 number_ = 0, done_ = 0;
};

/// Rows and columns as text for a spreadsheet: tabs between cells, a header first.
QString as_table_text(const RecordModel& model, const QList<int>& rows, const QList<int>& columns);

}  // namespace otoro::desktop
