/// Sites that serve.
#include <QCoreApplication>
#include <QFileInfo>

#include "desktop/adding/added_kind.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

class AddedSites : public AddedKind {
    Q_DECLARE_TR_FUNCTIONS(AddedSites)
public:
    [[nodiscard]] QString title() const override { return tr("sites that serve"); }
    [[nodiscard]] files::Shape shape() const override { return files::Shape::point; }
    [[nodiscard]] int fits(const files::LayerInfo& layer, const QString& file) const override {
        const bool named =
            named_like(file, {"post", "site", "school", "depot", "station", "centre", "center", "clinic"});
        const bool has_state = !files::guess_field(layer.fields, {"state", "status", "capacity"}).empty();
        return named || has_state ? 5 : 0;
    }
    [[nodiscard]] std::optional<service::SetKind> sets() const override { return service::SetKind::sites; }
    [[nodiscard]] std::vector<AskedField> fields(const files::LayerInfo& layer) const override {
        const auto g = files::guess_site_fields(layer.fields, layer.key);
        return {{tr("Id from"), g.id},          {tr("Name from"), g.name},
                {tr("State from"), g.state},    {tr("Capacity from"), g.capacity},
                {tr("Zone from"), g.zone},      {tr("Cost from"), g.cost},
                {tr("Limit from"), g.limit},    {tr("Least from"), g.least},
                {tr("Turnout from"), g.turnout}};
    }
    [[nodiscard]] Added add(const AddChoice& choice, const Task& task) const override {
        const auto& f = choice.fields;
        const auto in =
            files::add_sites({choice.layer, f[0], f[1], f[2], f[3], f[4], f[5], f[6], f[7], f[8]}, choice.name, task);
        const QString file = QFileInfo(QString::fromStdString(choice.layer.path)).fileName();
        return {tr("%1: %2").arg(file, counted(in.set->count(), tr("site"), tr("sites"))),
                [in](service::Study& s) { s = with_sites(std::move(s), in); }};
    }
};

}  // namespace

const AddedKind& added_sites() {
    static const AddedSites kind;
    return kind;
}

}  // namespace otoro::desktop
