#include "desktop/models/record_source.h"

#include <QLocale>
#include <cmath>

#include "desktop/words.h"
#include "service/breakdown.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

bool contains(const QString& text, const QString& word) { return text.contains(word, Qt::CaseInsensitive); }

}  // namespace

QString RecordSource::text(std::uint32_t row, int column) const {
    const QVariant v = value(row, column);
    const Column& c = columns_[static_cast<std::size_t>(column)];
    if (!v.isValid() || !c.number) return v.toString();
    const double number = v.toDouble();
    // Weights are whole nearly always; where one is not, its decimals are shown.
    return decimal(number, c.whole_mostly && number != std::floor(number) ? 2 : c.decimals);
}

std::function<bool(std::uint32_t)> RecordSource::matcher(const QStringList& words) const {
    return [this, words](std::uint32_t row) {
        return std::all_of(words.begin(), words.end(), [&](const QString& word) {
            for (int c = 0; c < static_cast<int>(columns_.size()); ++c)
                if (columns_[static_cast<std::size_t>(c)].there && contains(text(row, c), word)) return true;
            return false;
        });
    };
}

DemandSource::DemandSource(PlanAnswerPtr answer, AccessPtr access)
    : answer_(std::move(answer)), access_(std::move(access)) {
    if (!answer_ || (access_ && access_->access.size() != answer_->outcome.places.size())) access_ = nullptr;
    QString weight = tr("weight");
    bool zone = false, group = false;
    if (answer_) {
        const auto named = service::weight_name(answer_->ready->inputs.demand);
        if (answer_->outcome.question.by_weight && !named.empty()) weight = plain(named);
        zone = can_sum_up(*answer_->ready, service::SummedBy::zone);
        group = can_sum_up(*answer_->ready, service::SummedBy::group);
    }
    columns_ = {{"id", tr("id")},
                {"weight", weight, true, 0, true, true},
                {"status", tr("status")},
                {"minutes", tr("minutes"), true, 2},
                {"distance", tr("%1 by road").arg(long_unit()), true, 2},
                {"site", tr("served by")},
                {"off_road", tr("m off road"), true, 0},
                {"straight", tr("%1 straight").arg(long_unit()), true, 2},
                {"detour", tr("times as far"), true, 2},
                {"zone", tr("zone"), false, 0, zone},
                {"group", tr("group"), false, 0, group},
                {"access", tr("access, per 1,000"), true, 3, access_ != nullptr},
                {"why", tr("why not")}};
}

std::uint32_t DemandSource::count() const {
    return answer_ ? static_cast<std::uint32_t>(answer_->outcome.places.size()) : 0;
}

QVariant DemandSource::value(std::uint32_t row, int column) const {
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
            return p.served() ? QVariant(in_long_units(p.distance)) : QVariant();
        case kSite:
            return p.served() ? QVariant(plain(service::label(o.sites[p.site->value()].planned.site))) : QVariant();
        case kOffRoad: {
            const auto& attached = (*answer_->ready->attached)[row];
            return attached ? QVariant(attached->off_road.metres()) : QVariant();
        }
        case kStraight:
            return p.served()
                       ? QVariant(in_long_units(straight_line(o, answer_->ready->inputs.demand.at(row).position, p)))
                       : QVariant();
        case kDetour: {
            const auto factor =
                p.served() ? detour(o, answer_->ready->inputs.demand.at(row).position, p) : std::nullopt;
            return factor ? QVariant(*factor) : QVariant();
        }
        case kZone:
            return plain(name_of(*answer_->ready, DemandIndex(row), service::SummedBy::zone));
        case kGroup:
            return plain(name_of(*answer_->ready, DemandIndex(row), service::SummedBy::group));
        case kAccess:
            return access_ ? QVariant(1'000 * access_->access[row]) : QVariant();
        case kWhy:
            return p.served() ? QVariant() : QVariant(plain(reason(o, DemandIndex(row))));
        default:
            return {};
    }
}

std::function<bool(std::uint32_t)> DemandSource::matcher(const QStringList& words) const {
    if (!answer_) return RecordSource::matcher(words);
    // What many rows have in common is looked at once a word: statuses and sites. Numbers and names follow only where
    // that has not settled it.
    struct Word {
        QString text;
        std::array<bool, 16> status{};
        std::vector<bool> sites;
        bool number = false;  ///< may stand in a number
    };
    std::vector<Word> wanted;
    for (const QString& text : words) {
        Word w;
        w.text = text;
        for (const auto status : service::kAllStatuses)
            w.status[static_cast<std::size_t>(status)] = contains(desktop::words(status), text);
        for (const auto& s : answer_->outcome.sites)
            w.sites.push_back(contains(plain(service::label(s.planned.site)), text));
        w.number = std::all_of(text.begin(), text.end(), [](QChar c) { return c.isDigit() || c == '.' || c == ','; });
        wanted.push_back(std::move(w));
    }
    return [this, wanted = std::move(wanted)](std::uint32_t row) {
        const auto& p = answer_->outcome.places[row];
        return std::all_of(wanted.begin(), wanted.end(), [&](const Word& w) {
            if (w.status[static_cast<std::size_t>(p.status)]) return true;
            if (p.served() && w.sites[p.site->value()]) return true;
            if (contains(plain(answer_->ready->inputs.demand.at(row).id), w.text)) return true;
            for (const int c : {kZone, kGroup})
                if (columns_[static_cast<std::size_t>(c)].there && contains(text(row, c), w.text)) return true;
            if (!p.served() && contains(text(row, kWhy), w.text)) return true;
            if (!w.number) return false;
            for (const int c : {kWeight, kMinutes, kKilometres, kOffRoad, kStraight, kDetour})
                if (contains(text(row, c), w.text)) return true;
            return false;
        });
    };
}

SiteSource::SiteSource(PlanAnswerPtr answer) : answer_(std::move(answer)) {
    const bool turns_out = answer_ && std::any_of(answer_->outcome.sites.begin(), answer_->outcome.sites.end(),
                                                  [](const service::SiteOutcome& s) {
                                                      return s.attachment && s.attachment->turnout.count() > 0;
                                                  });
    columns_ = {{"site", tr("site")},
                {"state", tr("state")},
                {"places", tr("places"), true, 0},
                {"load", tr("load"), true, 0},
                {"capacity", tr("capacity"), true, 0},
                {"least", tr("least"), true, 0},
                {"share", tr("% of all"), true, 1},
                {"farthest", tr("farthest, min"), true, 1},
                {"turnout", tr("turnout, min"), true, 1, turns_out}};
}

std::uint32_t SiteSource::count() const {
    return answer_ ? static_cast<std::uint32_t>(answer_->outcome.sites.size()) : 0;
}

QVariant SiteSource::value(std::uint32_t row, int column) const {
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
        case kLeast:
            return s.planned.site.least ? QVariant(s.planned.site.least->value()) : QVariant();
        case kShare:
            return all.count() > 0 ? 100.0 * s.load.value() / all.value() : 0.0;
        case kTurnout:
            return s.attachment ? QVariant(s.attachment->turnout.minutes()) : QVariant();
        case kWorst:
            return s.load > Weight() ? QVariant(s.worst_time.minutes()) : QVariant();
        default:
            return {};
    }
}

}  // namespace otoro::desktop
