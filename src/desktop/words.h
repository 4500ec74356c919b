#pragma once
/// \file
/// Words of the trade as a person reads them: never a code.
#include <QString>

#include "geo/amounts.h"
#include "places/demand.h"
#include "service/outcome.h"

namespace otoro::desktop {

/// "beyond the limit".
QString words(service::Status status);
/// "open", "candidate", "closed".
QString words(places::SiteState state);
/// A whole number, its thousands apart: "12,345".
QString number(std::uint64_t n);
/// "1 record", "2 records". \param one, many translated already
QString counted(std::uint64_t n, const QString& one, const QString& many);

}  // namespace otoro::desktop
