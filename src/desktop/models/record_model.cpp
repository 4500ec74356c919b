#include "desktop/models/record_model.h"

#include <QApplication>
#include <QPointer>
#include <QThreadPool>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "desktop/models/behind_the_window.h"

namespace otoro::desktop {
namespace {

constexpr std::uint32_t kManyRecords = 20'000;  // from here on off the interface thread

/// Puts records in order of their keys, those without one last.
template <class Key, class Missing>
void sort_by(std::vector<std::uint32_t>& records, const std::vector<Key>& keys, Missing&& missing, bool ascending) {
    std::stable_sort(records.begin(), records.end(), [&](std::uint32_t a, std::uint32_t b) {
        const bool no_a = missing(a), no_b = missing(b);
        if (no_a || no_b) return !no_a && no_b;
        return ascending ? keys[a] < keys[b] : keys[b] < keys[a];
    });
}

}  // namespace

RecordModel::RecordModel(std::shared_ptr<const RecordSource> source, QObject* parent)
    : QAbstractTableModel(parent), source_(source), wanted_(std::move(source)) {}

void RecordModel::show(std::shared_ptr<const RecordSource> source) {
    wanted_ = std::move(source);
    arrange();
}

void RecordModel::set_words(const QString& text) {
    const auto words = text.simplified().split(' ', Qt::SkipEmptyParts);
    if (words == words_) return;
    words_ = words;
    arrange();
}

void RecordModel::sort(int column, Qt::SortOrder order) {
    if (column == column_ && order == sort_order_) return;
    column_ = column;
    sort_order_ = order;
    arrange();
}

RecordModel::Order RecordModel::arrange(const RecordSource& source, const QStringList& words, int column,
                                        Qt::SortOrder order) {
    Order out;
    if (words.isEmpty() && column < 0) return out;
    out.whole = false;
    const std::uint32_t n = source.count();
    if (words.isEmpty()) {
        out.records.resize(n);
        std::iota(out.records.begin(), out.records.end(), 0U);
    } else {
        const auto matches = source.matcher(words);
        for (std::uint32_t i = 0; i < n; ++i)
            if (matches(i)) out.records.push_back(i);
    }
    if (column >= 0 && column < static_cast<int>(source.columns().size())) {
        const bool ascending = order == Qt::AscendingOrder;
        if (source.columns()[static_cast<std::size_t>(column)].number) {
            std::vector<double> keys(n, std::numeric_limits<double>::quiet_NaN());
            for (const auto i : out.records)
                if (const QVariant v = source.value(i, column); v.isValid()) keys[i] = v.toDouble();
            sort_by(
                out.records, keys, [&](std::uint32_t i) { return std::isnan(keys[i]); }, ascending);
        } else {
            std::vector<QString> keys(n);
            for (const auto i : out.records) keys[i] = source.value(i, column).toString();
            sort_by(
                out.records, keys, [&](std::uint32_t i) { return keys[i].isEmpty(); }, ascending);
        }
    }
    out.rows.assign(n, -1);
    for (std::size_t row = 0; row < out.records.size(); ++row)
        out.rows[out.records[row]] = static_cast<std::int32_t>(row);
    return out;
}

void RecordModel::arrange() {
    const quint64 number = ++number_;
    const bool nothing_to_do = words_.isEmpty() && column_ < 0;
    if (nothing_to_do || wanted_->count() < kManyRecords)
        return take(wanted_, arrange(*wanted_, words_, column_, sort_order_));
    emit arranging_changed();
    QThreadPool::globalInstance()->start(
        [guard = QPointer(this), number, source = wanted_, words = words_, column = column_, order = sort_order_] {
            stand_behind_the_window(Behind::closely);
            auto arranged = std::make_shared<Order>(arrange(*source, words, column, order));
            QMetaObject::invokeMethod(qApp, [guard, number, source, arranged] {
                if (guard && guard->number_ == number) guard->take(source, std::move(*arranged));
            });
        });
}

void RecordModel::take(std::shared_ptr<const RecordSource> source, Order order) {
    done_ = number_;
    beginResetModel();
    source_ = std::move(source);
    order_ = std::move(order);
    endResetModel();
    emit arranging_changed();
}

std::uint32_t RecordModel::record(int row) const {
    return order_.whole ? static_cast<std::uint32_t>(row) : order_.records[static_cast<std::size_t>(row)];
}

std::optional<int> RecordModel::row_of(std::uint32_t record) const {
    if (record >= source_->count()) return std::nullopt;
    if (order_.whole) return static_cast<int>(record);
    const auto row = order_.rows[record];
    return row < 0 ? std::nullopt : std::optional<int>(row);
}

int RecordModel::rowCount(const QModelIndex& parent) const {
    if (parent.isValid()) return 0;
    return static_cast<int>(order_.whole ? source_->count() : order_.records.size());
}

QVariant RecordModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const auto& column = source_->columns()[static_cast<std::size_t>(index.column())];
    if (role == Qt::TextAlignmentRole)
        return column.number ? QVariant(Qt::AlignRight | Qt::AlignVCenter) : QVariant(Qt::AlignLeft | Qt::AlignVCenter);
    if (role == kSortRole) return source_->value(record(index.row()), index.column());
    if (role != Qt::DisplayRole) return {};
    return source_->text(record(index.row()), index.column());
}

QVariant RecordModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole || section >= columnCount()) return {};
    return source_->columns()[static_cast<std::size_t>(section)].name;
}

QString as_table_text(const RecordModel& model, const QList<int>& rows, const QList<int>& columns) {
    QString text;
    const auto line = [&](auto&& cell) {
        for (qsizetype i = 0; i < columns.size(); ++i)
            text += (i > 0 ? "\t" : "") + cell(columns[i]).replace('\t', ' ').replace('\n', ' ');
        text += '\n';
    };
    line([&](int c) { return model.headerData(c, Qt::Horizontal, Qt::DisplayRole).toString(); });
    for (const int row : rows) line([&](int c) { return model.source().text(model.record(row), c); });
    return text;
}

}  // namespace otoro::desktop
