#include "desktop/adding/added_kind.h"

#include <QFileInfo>
#include <algorithm>

namespace otoro::desktop {

const std::vector<const AddedKind*>& added_kinds() {
    static const std::vector<const AddedKind*> all{&added_roads(), &added_demand(), &added_sites(),
                                                   &added_zones(), &added_water(),  &added_pairs()};
    return all;
}

int likely_kind(const files::LayerInfo& layer, const QString& path) {
    const QString file = QFileInfo(path).completeBaseName().toLower();
    const auto& all = added_kinds();
    const auto best = std::max_element(all.begin(), all.end(), [&](const AddedKind* a, const AddedKind* b) {
        return a->fits(layer, file) < b->fits(layer, file);
    });
    return static_cast<int>(best - all.begin());
}

bool named_like(const QString& file, std::initializer_list<const char*> words) {
    return std::any_of(words.begin(), words.end(), [&](const char* word) { return file.contains(word); });
}

}  // namespace otoro::desktop
