#include "desktop/models/record_models.h"

#include <QLocale>
#include <array>

#include "desktop/words.h"
#include "service/breakdown.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

QString plain(const std::string& s) { return QString::fromStdString(s); }

/// A number as shown: fixed decimals, never grouped, so that it pastes as a number.
QString shown(const QVariant& v, int decimals) {
    return v.isValid() ? QLocale::c().toString(v.toDouble(), 'f', decimals).remove(',') : QString();
}

}  // namespace

void DemandRecords::show(const PlanAnswerPtr& answer) {
    if (answer == answer_) return;
    beginResetModel();
    answer_ = answer;
    endResetModel();
}

bool DemandRecords::has(Column column) const {
    if (!answer_) return column != kZone && column != kGroup;
    if (column == kZone) return can_sum_up(*answer_->ready, service::SummedBy::zone);
    if (column == kGroup) return can_sum_up(*answer_->ready, service::SummedBy::group);
    return true;
}

int DemandRecords::rowCount(const QModelIndex& parent) const {
    return parent.isValid() || !answer_ ? 0 : static_cast<int>(answer_->outcome.places.size());
}

QVariant DemandRecords::value(std::uint32_t row, int column) const {
    const auto& o = answer_->outcome;
    const auto& p = o.places[row];
    switch (column) {
        case kId:
            return plain(answer_->ready->inputs.demand.at(row).id);
        case kWeight:
            return o.weights[row].value();
        case kStatus:
            return words(p.status);
        case kMinutes:
            return p.served() ? QVariant(p.time.minutes()) : QVariant();
        case kKilometres:
            return p.served() ? QVariant(p.distance.kilometres()) : QVariant();
        case kSite:
            return p.served() ? QVariant(plain(service::label(o.sites[p.nearest->value()].planned.site))) : QVariant();
        case kOffRoad:
            return (*answer_->ready->attached)[row] ? QVariant((*answer_->ready->attached)[row]->off_road.metres())
                                                    : QVariant();
        case kStraight:
            return p.served()
                       ? QVariant(straight_line(o, answer_->ready->inputs.demand.at(row).position, p).kilometres())
                       : QVariant();
        case kZone:
            return plain(name_of(*answer_->ready, DemandIndex(row), service::SummedBy::zone));
        case kGroup:
            return plain(name_of(*answer_->ready, DemandIndex(row), service::SummedBy::group));
        case kWhy:
            return p.served() ? QVariant() : QVariant(plain(reason(o, DemandIndex(row))));
        default:
            return {};
    }
}

QVariant DemandRecords::data(const QModelIndex& index, int role) const {
    if (!answer_ || !index.isValid()) return {};
    const int column = index.column();
    const bool number =
        column == kWeight || column == kMinutes || column == kKilometres || column == kOffRoad || column == kStraight;
    if (role == Qt::TextAlignmentRole)
        return number ? QVariant(Qt::AlignRight | Qt::AlignVCenter) : QVariant(Qt::AlignLeft | Qt::AlignVCenter);
    if (role != Qt::DisplayRole && role != kSortRole) return {};
    const QVariant v = value(static_cast<std::uint32_t>(index.row()), column);
    if (role == kSortRole || !number) return v;
    constexpr std::array<int, kColumns> kDecimals{0, 0, 0, 2, 2, 0, 0, 2, 0, 0, 0};
    const int decimals =
        column == kWeight && v.toDouble() != std::floor(v.toDouble()) ? 2 : kDecimals[static_cast<std::size_t>(column)];
    return shown(v, decimals);
}

QVariant DemandRecords::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    const QString weight =
        answer_ && answer_->outcome.question.by_weight && !service::weight_name(answer_->ready->inputs.demand).empty()
            ? plain(service::weight_name(answer_->ready->inputs.demand))
            : tr("weight");
    const std::array<QString, kColumns> names{tr("id"),         weight,          tr("status"),     tr("minutes"),
                                              tr("km by road"), tr("served by"), tr("m off road"), tr("km straight"),
                                              tr("zone"),       tr("group"),     tr("why not")};
    return names[static_cast<std::size_t>(section)];
}

void SiteRecords::show(const PlanAnswerPtr& answer) {
    if (answer == answer_) return;
    beginResetModel();
    answer_ = answer;
    endResetModel();
}

int SiteRecords::rowCount(const QModelIndex& parent) const {
    return parent.isValid() || !answer_ ? 0 : static_cast<int>(answer_->outcome.sites.size());
}

QVariant SiteRecords::value(std::uint32_t row, int column) const {
    const auto& s = answer_->outcome.sites[row];
    const Weight all = answer_->outcome.all.weight;
    switch (column) {
        case kName:
            return plain(service::label(s.planned.site));
        case kState:
            return words(s.planned.site.state);
        case kPlaces:
            return s.places;
        case kLoad:
            return s.load.value();
        case kCapacity:
            return s.planned.site.capacity ? QVariant(s.planned.site.capacity->value()) : QVariant();
        case kShare:
            return all.count() > 0 ? 100.0 * s.load.value() / all.value() : 0.0;
        case kWorst:
            return s.places > 0 ? QVariant(s.worst_time.minutes()) : QVariant();
        default:
            return {};
    }
}

QVariant SiteRecords::data(const QModelIndex& index, int role) const {
    if (!answer_ || !index.isValid()) return {};
    const int column = index.column();
    if (role == Qt::TextAlignmentRole)
        return column >= kPlaces ? QVariant(Qt::AlignRight | Qt::AlignVCenter)
                                 : QVariant(Qt::AlignLeft | Qt::AlignVCenter);
    if (role == Qt::DecorationRole && column == kName) return {};
    if (role != Qt::DisplayRole && role != kSortRole) return {};
    const QVariant v = value(static_cast<std::uint32_t>(index.row()), column);
    if (role == kSortRole || column < kPlaces) return v;
    return shown(v, column == kShare || column == kWorst ? 1 : 0);
}

QVariant SiteRecords::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    const std::array<QString, kColumns> names{tr("site"),     tr("state"),    tr("places"),       tr("load"),
                                              tr("capacity"), tr("% of all"), tr("farthest, min")};
    return names[static_cast<std::size_t>(section)];
}

void RecordFilter::set_words(const QString& text) {
    words_ = text.simplified().split(' ', Qt::SkipEmptyParts);
    invalidateFilter();
}

bool RecordFilter::lessThan(const QModelIndex& a, const QModelIndex& b) const {
    const bool has_a = a.data(kSortRole).isValid();
    const bool has_b = b.data(kSortRole).isValid();
    if (has_a != has_b) return has_a == (sortOrder() == Qt::AscendingOrder);
    return QSortFilterProxyModel::lessThan(a, b);
}

bool RecordFilter::filterAcceptsRow(int row, const QModelIndex& parent) const {
    for (const QString& word : words_) {
        bool found = false;
        for (int c = 0; c < sourceModel()->columnCount() && !found; ++c)
            found = sourceModel()->index(row, c, parent).data().toString().contains(word, Qt::CaseInsensitive);
        if (!found) return false;
    }
    return true;
}

QString as_table_text(const QAbstractItemModel& model, const QList<int>& rows) {
    QString text;
    const auto line = [&](auto&& cell) {
        for (int c = 0; c < model.columnCount(); ++c)
            text += (c > 0 ? "\t" : "") + cell(c).replace('\t', ' ').replace('\n', ' ');
        text += '\n';
    };
    line([&](int c) { return model.headerData(c, Qt::Horizontal, Qt::DisplayRole).toString(); });
    for (const int row : rows) line([&](int c) { return model.index(row, c).data().toString(); });
    return text;
}

}  // namespace otoro::desktop
