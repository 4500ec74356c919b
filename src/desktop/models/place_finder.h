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

/// Looks through all sets of a study, those of the question first, then through the names of roads. Sites match by a
/// part of their name or by their whole id, demand places by their whole id, or else by a part of it, roads by a part
/// of their name; case aside.
class PlaceFinder {
public:
    static constexpr std::size_t kMost = 1000;

    /// The first match; asked again for the same text, the next one, and after the last the first. Nothing if there is
    /// none.
    std::optional<Match> next(const Session& session, const QString& text);
    /// Which of how many the last one was, from 1.
    [[nodiscard]] std::size_t number() const { return at_ + 1; }
    [[nodiscard]] std::size_t count() const { return found_.size(); }

private:
    QString text_;
    Document::Point point_;
    std::size_t plan_ = 0;
    std::vector<Match> found_;
    std::size_t at_ = 0;
};

}  // namespace otoro::desktop
