#pragma once
/// \file
/// How the map shows an answer: one look a file, with its colours, its legend, and when two answers look the same in
/// it.
///
/// A new look is a file here and a line in `map_looks()`; map, legend, exported pictures and tiles follow.
#include <QColor>
#include <QPainter>
#include <QRectF>
#include <QString>
#include <vector>

#include "service/outcome.h"

namespace otoro::desktop {

class MapLook {
public:
    virtual ~MapLook() = default;
    /// By which it is known in settings and tests: `time`.
    [[nodiscard]] virtual QString key() const = 0;
    /// As the legend's switch says it.
    [[nodiscard]] virtual QString title() const = 0;

    /// The colours of served places; those of higher numbers are painted over the others.
    [[nodiscard]] virtual std::vector<QColor> place_colours(const service::Outcome& outcome) const = 0;
    /// The number of a served place's colour among them. \param limit where the standard ends
    [[nodiscard]] virtual std::size_t colour_of(const service::PlaceOutcome& place, const Amount& limit) const = 0;
    /// The colours of the sites' marks, one a site.
    [[nodiscard]] virtual std::vector<QColor> site_colours(const std::vector<service::SiteOutcome>& sites) const = 0;

    /// Whether nothing about the sites keeps two answers from looking the same.
    [[nodiscard]] virtual bool same_sites(const service::Outcome& a, const service::Outcome& b) const = 0;
    /// Whether one place looks the same in both.
    [[nodiscard]] virtual bool same_place(const service::PlaceOutcome& a, const service::PlaceOutcome& b) const = 0;

    /// The scale in the legend: a bar of colours with its words below. \param outcome null while there is none
    virtual void paint_legend(QPainter& painter, const QRectF& where, const service::Outcome* outcome,
                              const Amount& limit) const = 0;
};

/// All looks, in the order of their switches. They live as long as the program.
const std::vector<const MapLook*>& map_looks();
/// The look with this key; the first for a key that is not known.
const MapLook& look_called(const QString& key);

const MapLook& time_look();
const MapLook& who_serves_look();

/// The value of a place in the measure of the limit, over the limit.
double share_of_limit(const service::PlaceOutcome& place, const Amount& limit);

}  // namespace otoro::desktop
