/// A table of pairs of places and sites, each with a value.
#include <QCoreApplication>
#include <QFileInfo>

#include "desktop/adding/added_kind.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

class AddedPairs : public AddedKind {
    Q_DECLARE_TR_FUNCTIONS(AddedPairs)
public:
    [[nodiscard]] QString title() const override { return tr("pairs: values of places with sites"); }
    [[nodiscard]] files::Shape shape() const override { return files::Shape::none; }
    [[nodiscard]] int fits(const files::LayerInfo& layer, const QString& file) const override {
        const auto g = files::guess_pair_fields(layer.fields);
        const bool places = layer.shape != files::Shape::none || !files::guess_coordinates(layer.fields).first.empty();
        if (places || g.demand.empty() || g.site.empty() || g.demand == g.site) return 0;
        return named_like(file, {"pair", "visit", "trip", "use"}) || !g.value.empty() ? 12 : 4;
    }
    [[nodiscard]] std::optional<service::SetKind> sets() const override { return std::nullopt; }
    [[nodiscard]] QString takes_place_of(const service::Study& study) const override {
        return study.pairs ? tr("This table takes the place of the one that is there; that can be undone.") : QString();
    }
    [[nodiscard]] std::vector<AskedField> fields(const files::LayerInfo& layer) const override {
        const auto g = files::guess_pair_fields(layer.fields);
        return {
            {tr("Id of the demand from"), g.demand}, {tr("Id of the site from"), g.site}, {tr("Value from"), g.value}};
    }
    [[nodiscard]] Added add(const AddChoice& choice, const Task& task) const override {
        const auto& f = choice.fields;
        const auto in = files::add_pairs({choice.layer, f[0], f[1], f[2]}, task);
        const QString file = QFileInfo(QString::fromStdString(choice.layer.path)).fileName();
        return {tr("%1: %2").arg(file, counted(in.values->count(), tr("pair"), tr("pairs"))),
                [in](service::Study& s) { s.pairs = in; }};
    }
};

}  // namespace

const AddedKind& added_pairs() {
    static const AddedPairs kind;
    return kind;
}

}  // namespace otoro::desktop
