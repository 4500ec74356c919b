#pragma once
/// \file
/// Finding sites, demand places and roads by what they are called, one match after another.
#include <QString>
#include <optional>
#include <vector>

#include "desktop/models/session.h"

namespace otoro::desktop {

/// One thing that was found.
struct Match {
    enum class Kind : std::uint8_t { site, demand, road };
    Kind kind = Kind::road;
    geo::LonLat where;
    QString name;
    QString set;               ///< of a site or a demand place
    std::uint32_t number = 0;  ///< of an outcome's site or of a set's place; only where `asked_about`
    bool asked_about = false;  ///< it belongs to a set of the question
};

/// What is looked through.
struct FindIn {
    service::Study study;
    PlanAnswerPtr answer;  ///< may be null
};

inline constexpr std::size_t kMostFound = 1000;

/// Looks through all sets of a study, those of the question first, then through the names of roads. Sites match by a
/// part of their name or by their whole id, demand places by their whole id, or else by a part of it, roads by a part
/// of their name; case aside. At most `kMostFound`. Goes through every id: a tenth of a second for half a million.
std::vector<Match> find_places(const FindIn& in, const QString& text);

}  // namespace otoro::desktop
