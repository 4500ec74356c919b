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
#include <optional>
#include <vector>

#include "service/assign.h"
#include "service/floating_catchment.h"
#include "service/reach_view.h"

namespace otoro::desktop {

/// How reached ground is drawn: as the question wants it, its limits said.
struct ReachStyle : service::ReachView {
    bool comparing = false;  ///< with another reach: what is gained, lost and kept
    bool one_site = false;   ///< of the site alone that is picked
    bool operator==(const ReachStyle&) const = default;
};

/// Whether fills tell one limit from another; else they say something else, and the farthest limit alone counts.
bool is_banded(const ReachStyle& style);

/// How ground is filled and edged: one entry a band, and one more for ground beyond the last limit.
struct GroundColours {
    std::vector<Amount> limits;
    std::vector<QColor> fill, edge;
    QColor between_sites;       ///< transparent: not drawn
    std::vector<bool> hatched;  ///< told by lines too
};

/// What a site's mark says of its load.
struct SiteGauge {
    double size = 0;             ///< its load, as part of the largest there is
    std::optional<double> full;  ///< as part of its capacity; nothing if it states none
    QString words;               ///< "412 of 450"
};

/// What places are looked at in.
struct LookedAt {
    const service::Ready& ready;
    const service::Outcome& outcome;
    const Amount& limit;                     ///< where the standard ends
    const service::Outcome* base = nullptr;  ///< what it is compared with, of the same places; null: with nothing
    const service::FloatingCatchment* access = nullptr;  ///< of these places; null: not worked out
};

/// The form of a place's mark; all are about as heavy.
enum class PlaceMark : std::uint8_t { dot, speck, up, down, square, cross, plus };

class MapLook {
public:
    virtual ~MapLook() = default;
    /// By which it is known in settings and tests: `time`.
    [[nodiscard]] virtual QString key() const = 0;
    /// As the legend's switch says it.
    [[nodiscard]] virtual QString title() const = 0;

    /// The colours of served places; those of higher numbers are painted over the others.
    [[nodiscard]] virtual std::vector<QColor> place_colours(const service::Outcome& outcome) const = 0;
    /// The number of a served place's colour among them.
    [[nodiscard]] virtual std::size_t colour_of(const LookedAt& at, std::uint32_t place) const = 0;
    /// The form of the marks of that colour.
    [[nodiscard]] virtual PlaceMark mark_of(std::size_t /*colour*/) const { return PlaceMark::dot; }
    /// Whether it shows two answers beside each other, and so needs what the one in sight is compared with.
    [[nodiscard]] virtual bool compares() const { return false; }
    /// Whether it shows access by floating catchments, and is of no use before that is worked out.
    [[nodiscard]] virtual bool shows_access() const { return false; }
    /// The colours of the sites' marks, one a site.
    [[nodiscard]] virtual std::vector<QColor> site_colours(const std::vector<service::SiteOutcome>& sites) const = 0;

    /// Whether nothing about the sites keeps two answers from looking the same.
    [[nodiscard]] virtual bool same_sites(const service::Outcome& a, const service::Outcome& b) const = 0;
    /// Whether one place looks the same in both.
    [[nodiscard]] virtual bool same_place(const service::Outcome& a, const service::Outcome& b,
                                          std::uint32_t place) const = 0;

    /// How much a site has to do, for looks whose marks say it: one a site, nothing for those not in use; empty where
    /// marks do not differ in that.
    [[nodiscard]] virtual std::vector<std::optional<SiteGauge>> gauges(const std::vector<service::SiteOutcome>&) const {
        return {};
    }

    /// How ground is drawn, for looks that draw it. \param standard where the standard ends
    [[nodiscard]] virtual std::optional<GroundColours> ground(const ReachStyle&, const Amount& /*standard*/) const {
        return std::nullopt;
    }

    /// The scale in the legend: a bar of colours with its words below. \param outcome null while there is none
    virtual void paint_legend(QPainter& painter, const QRectF& where, const service::Outcome* outcome,
                              const Amount& limit) const = 0;
};

/// A look in which places differ by what becomes of them, and sites do not differ.
class OutcomeLook : public MapLook {
public:
    [[nodiscard]] std::vector<QColor> site_colours(const std::vector<service::SiteOutcome>& sites) const override;
    [[nodiscard]] bool same_sites(const service::Outcome&, const service::Outcome&) const override { return true; }
    [[nodiscard]] bool same_place(const service::Outcome& a, const service::Outcome& b,
                                  std::uint32_t place) const override {
        const auto &x = a.places[place], &y = b.places[place];
        return x.status == y.status && x.time == y.time && x.distance == y.distance;
    }
};

/// A look that fills ground: places are within the standard or beyond it, and stand back.
class GroundLook : public OutcomeLook {
public:
    [[nodiscard]] std::size_t colour_of(const LookedAt& at, std::uint32_t place) const override {
        return is_within(at.outcome.places[place], at.limit) ? 0 : 1;
    }
    /// As ground is filled where the standard is the only limit.
    void paint_legend(QPainter& painter, const QRectF& where, const service::Outcome* outcome,
                      const Amount& limit) const override;
};

/// All looks, in the order of their switches. They live as long as the program.
const std::vector<const MapLook*>& map_looks();
/// The look with this key; the first for a key that is not known.
const MapLook& look_called(const QString& key);

const MapLook& time_look();
const MapLook& who_serves_look();
const MapLook& load_look();
const MapLook& detour_look();
const MapLook& reach_look();
const MapLook& uncovered_look();
const MapLook& change_look();
const MapLook& access_look();

/// A bar from nothing to a little beyond the last limit, filled as the ground is.
/// \param most the value at its end; 0: a quarter more than the last limit
void paint_ground_legend(QPainter& painter, const QRectF& where, const GroundColours& colours, double most = 0);

/// The value of a place in the measure of the limit, over the limit.
double share_of_limit(const service::PlaceOutcome& place, const Amount& limit);

}  // namespace otoro::desktop
