#include "desktop/words.h"

#include <QCoreApplication>

namespace otoro::desktop {
namespace {

struct Words {
    Q_DECLARE_TR_FUNCTIONS(Words)
};

}  // namespace

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
        case service::Status::bad_location:
            return Words::tr("bad location");
    }
    return {};
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

QString number(std::uint64_t n) {
    return QString::fromStdString(describe(Weight(static_cast<std::int64_t>(n) * 1'000'000)));
}

QString counted(std::uint64_t n, const QString& one, const QString& many) {
    return QString("%1 %2").arg(number(n), n == 1 ? one : many);
}

}  // namespace otoro::desktop
