#include "desktop/parts/gain_line.h"

#include <QApplication>
#include <QLabel>
#include <QPointer>
#include <QThreadPool>
#include <QWidgetAction>

#include "desktop/models/background.h"
#include "desktop/models/behind_the_window.h"
#include "desktop/parts/elided.h"
#include "desktop/parts/verdict_view.h"
#include "desktop/words.h"
#include "service/candidate.h"

namespace otoro::desktop {
namespace {

/// By rules under which places do not choose alone the question is asked again, with the site.
QString gain_by_asking(const PlanAnswer& answer, const std::optional<service::Standard>& standard,
                       const Possible& what) {
    const auto plan = std::visit([&](auto where) { return plan_with(answer.outcome, where); }, what);
    const auto with = service::answer(*answer.ready, plan, Task());
    if (!standard) {
        const auto served = with.tally(service::Status::served).places;
        return QMenu::tr("serves %1").arg(counted(served, QMenu::tr("place"), QMenu::tr("places")));
    }
    const auto before = judge(answer.outcome, *standard), after = judge(with, *standard);
    return QMenu::tr("%1 within %2 (%3 points)")
        .arg(plain(describe(after.share)), plain(describe(standard->limit)), points(before.share, after.share));
}

QString gain(const PlanAnswerPtr& answer, const std::optional<service::Standard>& standard, const Possible& what) {
    if (!places_choose_alone(answer->ready->question)) return gain_by_asking(*answer, standard, what);
    service::Candidates candidates(answer->ready, {answer, &answer->outcome});
    const auto effect = std::visit([&](auto where) { return candidates.add(where); }, what);
    if (!effect.attachment) return QMenu::tr("No road that this traveller may use is near");
    const auto nearer = candidates.tally(effect);
    const QString places =
        QMenu::tr("nearer for %1").arg(counted(nearer.places, QMenu::tr("place"), QMenu::tr("places")));
    if (!standard) return places;
    const auto before = judge(answer->outcome, *standard), after = candidates.judge(effect, *standard);
    return QMenu::tr("%1 within %2 (%3 points), %4")
        .arg(plain(describe(after.share)), plain(describe(standard->limit)), points(before.share, after.share), places);
}

/// A line that cannot be pressed.
QLabel* add_text(QMenu& menu, const QString& text, QWidgetAction*& action) {
    auto* line = new QLabel(elided(text, 70), &menu);
    line->setToolTip(text);
    line->setContentsMargins(14, 4, 14, 4);
    action = new QWidgetAction(&menu);
    action->setDefaultWidget(line);
    menu.addAction(action);
    return line;
}

}  // namespace

void add_title(QMenu& menu, const QString& text) {
    if (!menu.isEmpty()) menu.addSeparator();
    QWidgetAction* action = nullptr;
    auto* line = add_text(menu, text, action);
    QFont bold = line->font();
    bold.setWeight(QFont::DemiBold);
    line->setFont(bold);
}

void add_gain_line(QMenu& menu, const Session& session, const Possible& what) {
    const auto answer = session.answers.shown();
    if (!answer || !session.answers.up_to_date()) return;
    QWidgetAction* action = nullptr;
    auto* line = add_text(menu, QMenu::tr("What it would change is being worked out"), action);
    line->setObjectName("gain");
    QThreadPool::globalInstance()->start([answer, standard = session.document.question().standard, what,
                                          line = QPointer(line), action = QPointer(action)] {
        stand_behind_the_window(Behind::closely);
        QString said;
        try {
            said = gain(answer, standard, what);
        } catch (...) {
            said = what_went_wrong();
        }
        QMetaObject::invokeMethod(qApp, [line, action, said] {
            if (!line || !action) return;
            line->setText(said);
            line->setAccessibleName(said);
            auto* shown = qobject_cast<QMenu*>(line->parentWidget());
            if (shown == nullptr) return;
            // A menu lays its lines out anew only when one of them changes.
            action->setVisible(false);
            action->setVisible(true);
            shown->adjustSize();
        });
    });
}

}  // namespace otoro::desktop
