#include "desktop/pages/study_page.h"

#include <QFrame>
#include <QHBoxLayout>
#include <QMenu>
#include <QSplitter>
#include <QVBoxLayout>

#include "desktop/map/map_view.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/question_line.h"
#include "desktop/parts/records_panel.h"
#include "desktop/parts/verdict_view.h"

namespace otoro::desktop {

StudyPage::StudyPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("page");
    question_ = new QuestionLine(session, this);
    verdict_ = new VerdictView(session, this);
    plans_ = new PlanList(session, this);
    map_ = new MapView(session, this);
    legend_ = new Legend(session, *map_, this);
    answer_ = new AnswerPanel(session, this);
    records_ = new RecordsPanel(session, this);

    auto* top = new QFrame(this);
    top->setObjectName("bar");
    auto* top_box = new QHBoxLayout(top);
    top_box->setContentsMargins(16, 8, 12, 8);
    top_box->addWidget(question_, 1);
    top_box->addWidget(verdict_, 0, Qt::AlignVCenter);

    auto* across = new QSplitter(Qt::Horizontal, this);
    across->addWidget(plans_);
    auto* map_and_legend = new QWidget(this);
    auto* map_box = new QVBoxLayout(map_and_legend);
    map_box->setContentsMargins(0, 0, 0, 0);
    map_box->setSpacing(0);
    map_box->addWidget(map_, 1);
    map_box->addWidget(legend_);
    across->addWidget(map_and_legend);
    across->addWidget(answer_);
    across->setStretchFactor(1, 1);
    across->setSizes({210, 740, 330});
    across->setChildrenCollapsible(false);
    across->setHandleWidth(1);
    auto* down = new QSplitter(Qt::Vertical, this);
    down->addWidget(across);
    down->addWidget(records_);
    down->setStretchFactor(0, 1);
    down->setSizes({540, 150});
    down->setHandleWidth(2);

    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    box->addWidget(top);
    box->addWidget(down, 1);
    connect(map_, &MapView::site_menu_wanted, this, &StudyPage::offer_site_menu);
}

void StudyPage::offer_site_menu(SiteIndex index, const QPoint& at) {
    const auto answer = session_.answer();
    if (!answer || index.value() >= answer->outcome.sites.size()) return;
    const auto& planned = answer->outcome.sites[index.value()].planned;
    const QString name = QString::fromStdString(service::label(planned.site));
    const auto change = [this, id = planned.site.id](service::Change c, const QString& plan_name) { session_.change_plan(plan_name, {c, id, std::nullopt}); };
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addSection(name);
    const bool today = session_.plan_index() == 0;
    if (planned.site.state != places::SiteState::open)
        menu->addAction(today ? tr("New plan: open %1").arg(name) : tr("Open %1 in this plan").arg(name), this, [=] { change(service::Change::open, StudyPage::tr("%1 opens").arg(name)); });
    else
        menu->addAction(today ? tr("New plan: close %1").arg(name) : tr("Close %1 in this plan").arg(name), this, [=] { change(service::Change::close, StudyPage::tr("%1 closes").arg(name)); });
    menu->addAction(tr("Pick the places it serves"), this, [this, index] {
        Selection s;
        s.site = index;
        if (const auto a = session_.answer())
            for (std::uint32_t i = 0; i < a->outcome.places.size(); ++i)
                if (a->outcome.places[i].served() && a->outcome.places[i].nearest == index) s.places.push_back(i);
        session_.select(std::move(s));
    });
    menu->popup(at);
}

}  // namespace otoro::desktop
