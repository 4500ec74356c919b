#include <QVBoxLayout>

#include "desktop/blanks/blank_editors.h"

namespace otoro::desktop {
namespace {

/// The rules that can be chosen, as the sentence says them. One that is refined further would add its widgets below.
const std::vector<service::Serving>& rules() {
    static const std::vector<service::Serving> all{service::Nearest{routing::Measure::time},
                                                   service::Nearest{routing::Measure::distance}};
    return all;
}

}  // namespace

void edit_serving(const BlankDesk& desk, QVBoxLayout& box, QWidget& popup) {
    QStringList names;
    int current = -1;
    for (const auto& rule : rules()) {
        if (rule == desk.question().serving) current = static_cast<int>(names.size());
        names.append(QString::fromStdString(describe(rule)));
    }
    add_choices(box, popup, names, current, [desk](int i) {
        desk.change(Blanks::tr("rule of serving"), [&](auto& q) { q.serving = rules()[static_cast<std::size_t>(i)]; });
    });
}

}  // namespace otoro::desktop
