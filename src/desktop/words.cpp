#include "desktop/words.h"

#include <QCoreApplication>
#include <QLabel>
#include <QLocale>
#include <QRegularExpression>
#include <QSettings>
#include <QStringList>
#include <algorithm>
#include <cmath>
#include <utility>
#include <variant>
#include <vector>

#include "geo/error.h"

namespace otoro::desktop {
namespace {

constexpr const char* kMiles = "units/miles";

struct Words {
    Q_DECLARE_TR_FUNCTIONS(Words)
};

}  // namespace

QString explained(const QString& text) {
    static const std::vector<std::pair<QString, QString>> terms{
        {"piece", Words::tr("A piece is a set of roads connected to one another. A sound network is one piece.")},
        {"link", Words::tr("A link is a stretch of road between two places where roads meet or end.")},
        {"vert", Words::tr("A vertex is a point at which a drawn line bends.")},
        {"level", Words::tr("The level says what passes over what: 0 on the ground, 1 on a bridge, -1 in a tunnel.")},
        {"weight", Words::tr("The weight of a place is how many it counts for, such as its residents.")},
        {"percentile", Words::tr("Nine tenths of the weight are served at the 90th percentile or sooner.")},
        {"EPSG", Words::tr("An EPSG code names the coordinate system that a file\u2019s numbers are in.")}};
    QStringList lines;
    for (const auto& [term, meaning] : terms)
        if (text.contains(QRegularExpression("\\b" + term))) lines << meaning;
    return lines.join('\n');
}

QString words(service::Status status) {
    switch (status) {
        case service::Status::served:
            return Words::tr("served");
        case service::Status::beyond_limit:
            return Words::tr("beyond the limit");
        case service::Status::no_road_near:
            return Words::tr("no road near");
        case service::Status::cut_off:
            return Words::tr("cut off");
        case service::Status::site_full:
            return Words::tr("site full");
        case service::Status::not_recorded:
            return Words::tr("not recorded");
        case service::Status::bad_location:
            return Words::tr("bad location");
    }
    return {};
}

QString judged_words(service::Judged judged) {
    switch (judged) {
        case service::Judged::met:
            return Words::tr("met");
        case service::Judged::missed:
            return Words::tr("not met");
        case service::Judged::nobody:
            return Words::tr("nobody there");
    }
    return {};
}

QString marked_words(service::Judged judged) {
    const QString mark = judged == service::Judged::met      ? QString::fromUtf8("\u2713 ")
                         : judged == service::Judged::missed ? QString::fromUtf8("\u2717 ")
                                                             : QString();
    return mark + judged_words(judged);
}

QLabel* out_of_date(QWidget* parent) {
    auto* label = new QLabel(Words::tr("out of date"), parent);
    label->setObjectName("out of date");
    label->setStyleSheet("color: #7A5200; background: #F6E7C4; padding: 0px 4px;");
    label->setAccessibleName(label->text());
    label->hide();
    return label;
}

QString words(places::SiteState state) {
    switch (state) {
        case places::SiteState::open:
            return Words::tr("open");
        case places::SiteState::candidate:
            return Words::tr("candidate");
        case places::SiteState::closed:
            return Words::tr("closed");
    }
    return {};
}

QString decimal(double v, int decimals) { return QString::fromStdString(said(v, decimals)); }

QString percent(Weight part, Weight whole) {
    return whole.count() > 0 ? QString::fromStdString(describe(share_of(part, whole))) : QString::fromUtf8("\u2013");
}
QString percent(double part, double whole) {
    if (!(whole > 0)) return QString::fromUtf8("\u2013");
    return QString::fromStdString(describe(Share(static_cast<std::int32_t>(std::floor(part / whole * 1e6)))));
}

QString long_unit() { return QString::fromStdString(otoro::long_unit()); }

QString unit_of(routing::Measure measure) {
    return measure == routing::Measure::time ? QStringLiteral("min") : long_unit();
}

double counts_per_unit(routing::Measure measure) {
    return measure == routing::Measure::time ? 60'000.0 : static_cast<double>(from_long_units(1).count());
}

QString long_length(Millimetres length, int decimals) { return QString::fromStdString(said_long(length, decimals)); }

void take_wording() {
    const QLocale here;
    Wording w;
    // A mark that is neither of the two would not be understood when it is typed.
    w.decimal = here.decimalPoint() == "," ? ',' : '.';
    const QByteArray group = here.groupSeparator().toUtf8();
    w.group = {w.decimal == ',' ? '.' : ','};
    if (group.size() < static_cast<qsizetype>(w.group.size()) && group != QByteArray(1, w.decimal)) {
        w.group = {};
        std::copy(group.begin(), group.end(), w.group.begin());
    }
    w.miles = QSettings().value(kMiles, here.measurementSystem() != QLocale::MetricSystem).toBool();
    set_wording(w);
}

void choose_miles(bool miles) {
    QSettings().setValue(kMiles, miles);
    take_wording();
}

QString number(std::uint64_t n) { return QString::fromStdString(said_whole(static_cast<std::int64_t>(n))); }

QString counted(std::uint64_t n, const QString& one, const QString& many) {
    return QString("%1 %2").arg(number(n), n == 1 ? one : many);
}

QString said_limits(const std::vector<Amount>& limits) {
    if (limits.empty()) return {};
    const bool time = std::holds_alternative<Millis>(limits.front());
    QStringList numbers;
    for (const Amount& a : limits) {
        const double v = time ? std::get<Millis>(a).minutes() : std::get<Millimetres>(a).metres();
        numbers << QString::fromStdString(said_shortly(v));
    }
    return numbers.join(", ") + (time ? " min" : " m");
}

std::vector<Amount> limits_from(const QString& text) {
    static const QRegularExpression unit("\\s*(min|m|km)\\s*$");
    QString numbers = text.trimmed();
    QString of = "min";
    if (const auto found = unit.match(numbers); found.hasMatch()) {
        of = found.captured(1);
        numbers.truncate(found.capturedStart());
    }
    static const QRegularExpression apart("(,\\s+|;\\s*|\\s+)");
    std::vector<Amount> out;
    try {
        for (const QString& one : numbers.split(apart, Qt::SkipEmptyParts)) {
            const std::string said = (QString(one).replace(',', '.') + of).toStdString();
            out.push_back(of == "min" ? Amount(parse_time(said)) : Amount(parse_length(said)));
        }
    } catch (const InputError&) {
        return {};
    }
    constexpr std::size_t kMost = 100;
    const auto count = [](const Amount& a) { return std::visit([](auto v) { return v.count(); }, a); };
    std::sort(out.begin(), out.end(), [&](const Amount& a, const Amount& b) { return count(a) < count(b); });
    out.erase(std::unique(out.begin(), out.end()), out.end());
    if (out.size() > kMost || (!out.empty() && count(out.front()) <= 0)) return {};
    return out;
}

}  // namespace otoro::desktop
