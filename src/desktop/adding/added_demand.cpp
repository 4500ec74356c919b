/// Demand: places to be served.
#include <QCoreApplication>
#include <QFileInfo>

#include "desktop/adding/added_kind.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

class AddedDemand : public AddedKind {
    Q_DECLARE_TR_FUNCTIONS(AddedDemand)
public:
    [[nodiscard]] QString title() const override { return tr("demand: places to be served"); }
    [[nodiscard]] files::Shape shape() const override { return files::Shape::point; }
    /// What nothing else fits.
    [[nodiscard]] int fits(const files::LayerInfo&, const QString&) const override { return 1; }
    [[nodiscard]] std::optional<service::SetKind> sets() const override { return service::SetKind::demand; }
    [[nodiscard]] std::vector<AskedField> fields(const files::LayerInfo& layer) const override {
        const auto g = files::guess_demand_fields(layer.fields, layer.key);
        return {{tr("Id from"), g.id},       {tr("Weight from"), g.weight},          {tr("Road it is on from"), g.road},
                {tr("Group from"), g.group}, {tr("Recorded site from"), g.recorded}, {tr("Priority from"), g.priority}};
    }
    [[nodiscard]] Added add(const AddChoice& choice, const Task& task) const override {
        const auto& f = choice.fields;
        const auto in = files::add_demand({choice.layer, f[0], f[1], f[2], f[3], f[4], f[5]}, choice.name, task);
        const QString file = QFileInfo(QString::fromStdString(choice.layer.path)).fileName();
        return {tr("%1: %2").arg(file, counted(in.set->count(), tr("demand place"), tr("demand places"))),
                [in](service::Study& s) { s = with_demand(std::move(s), in); }};
    }
};

}  // namespace

const AddedKind& added_demand() {
    static const AddedDemand kind;
    return kind;
}

}  // namespace otoro::desktop
