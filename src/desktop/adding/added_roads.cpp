/// Roads: lines to travel on.
#include <QCoreApplication>
#include <QFileInfo>

#include "desktop/adding/added_kind.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

class AddedRoads : public AddedKind {
    Q_DECLARE_TR_FUNCTIONS(AddedRoads)
public:
    [[nodiscard]] QString title() const override { return tr("roads to travel on"); }
    [[nodiscard]] files::Shape shape() const override { return files::Shape::line; }
    [[nodiscard]] int fits(const files::LayerInfo& layer, const QString&) const override {
        return layer.shape == files::Shape::line ? 10 : 0;
    }
    [[nodiscard]] std::optional<service::SetKind> sets() const override { return std::nullopt; }
    [[nodiscard]] QString takes_place_of(const service::Study& study) const override {
        return study.roads ? tr("These roads take the place of those that are there; that can be undone.") : QString();
    }
    [[nodiscard]] bool takes_words() const override { return true; }
    [[nodiscard]] std::vector<AskedField> fields(const files::LayerInfo& layer) const override {
        const auto g = files::guess_road_fields(layer.fields);
        return {{tr("Class from"), g.road_class},
                {tr("Name from"), g.name},
                {tr("Speed from"), g.speed, true},
                {tr("One-way from"), g.one_way},
                {tr("Minutes from"), g.minutes, true},
                {tr("Minutes back from"), g.minutes_back, true},
                {tr("Length to compare"), g.length, true},
                {tr("Level from"), g.level, true},
                {tr("Bridges from"), g.bridge},
                {tr("Tunnels from"), g.tunnel}};
    }
    [[nodiscard]] Added add(const AddChoice& choice, const Task& task) const override {
        const auto& f = choice.fields;
        files::RoadChoice roads{choice.layer,
                                files::RoadFields{f[0], f[1], f[2], f[3], f[4], f[5], f[6], f[7], f[8], f[9]}};
        roads.fields->words = choice.words;
        if (files::is_osm(choice.layer.path)) roads.fields.reset();
        roads.more = choice.more;
        const auto in = files::add_roads(roads, {}, task);
        const QString file = QFileInfo(QString::fromStdString(choice.layer.path)).fileName();
        return {tr("%1: %2").arg(file, counted(in.network->link_count(), tr("road"), tr("roads"))),
                [in](service::Study& s) { s = with_roads(std::move(s), in); }};
    }
};

}  // namespace

const AddedKind& added_roads() {
    static const AddedRoads kind;
    return kind;
}

}  // namespace otoro::desktop
