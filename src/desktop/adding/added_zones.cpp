/// Zones: areas with names, by which answers are summed up.
#include <QCoreApplication>
#include <QFileInfo>

#include "desktop/adding/added_kind.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

class AddedZones : public AddedKind {
    Q_DECLARE_TR_FUNCTIONS(AddedZones)
public:
    [[nodiscard]] QString title() const override { return tr("zones: areas to sum up by"); }
    [[nodiscard]] files::Shape shape() const override { return files::Shape::polygon; }
    [[nodiscard]] int fits(const files::LayerInfo& layer, const QString& file) const override {
        const bool zones = named_like(file, {"zone", "district", "ward", "area", "catchment", "boundar"});
        return layer.shape == files::Shape::polygon && zones ? 8 : 0;
    }
    [[nodiscard]] std::optional<service::SetKind> sets() const override { return service::SetKind::zones; }
    [[nodiscard]] std::vector<AskedField> fields(const files::LayerInfo& layer) const override {
        const auto g = files::guess_zone_fields(layer.fields, layer.key);
        return {{tr("Id from"), g.id}, {tr("Name from"), g.name}};
    }
    [[nodiscard]] Added add(const AddChoice& choice, const Task& task) const override {
        const auto& f = choice.fields;
        const auto in = files::add_zones({choice.layer, f[0], f[1]}, choice.name, task);
        const QString file = QFileInfo(QString::fromStdString(choice.layer.path)).fileName();
        return {tr("%1: %2").arg(file, counted(in.set->count(), tr("zone"), tr("zones"))),
                [in](service::Study& s) { s = with_zones(std::move(s), in); }};
    }
};

}  // namespace

const AddedKind& added_zones() {
    static const AddedZones kind;
    return kind;
}

}  // namespace otoro::desktop
