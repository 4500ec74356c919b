/// Water: for the map, and for checking what crosses it.
#include <QCoreApplication>
#include <QFileInfo>

#include "desktop/adding/added_kind.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

class AddedWater : public AddedKind {
    Q_DECLARE_TR_FUNCTIONS(AddedWater)
public:
    [[nodiscard]] QString title() const override { return tr("water, for the map and for checking"); }
    [[nodiscard]] files::Shape shape() const override { return files::Shape::polygon; }
    [[nodiscard]] int fits(const files::LayerInfo& layer, const QString& file) const override {
        const bool water = named_like(file, {"water", "river", "lake", "sea", "coast"});
        return layer.shape == files::Shape::polygon && water ? 9 : 0;
    }
    [[nodiscard]] std::optional<service::SetKind> sets() const override { return std::nullopt; }
    [[nodiscard]] QString takes_place_of(const service::Study& study) const override {
        return study.water ? tr("This water takes the place of what is there; that can be undone.") : QString();
    }
    [[nodiscard]] std::vector<AskedField> fields(const files::LayerInfo&) const override { return {}; }
    [[nodiscard]] Added add(const AddChoice& choice, const Task& task) const override {
        const auto in = files::add_water(choice.layer, task);
        const QString file = QFileInfo(QString::fromStdString(choice.layer.path)).fileName();
        return {tr("%1: %2 of water").arg(file, counted(in.areas->size(), tr("stretch"), tr("stretches"))),
                [in](service::Study& s) { s.water = in; }};
    }
};

}  // namespace

const AddedKind& added_water() {
    static const AddedWater kind;
    return kind;
}

}  // namespace otoro::desktop
