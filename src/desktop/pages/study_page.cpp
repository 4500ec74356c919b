#include "desktop/pages/study_page.h"

#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QFileInfo>
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QVBoxLayout>

#include "desktop/map/map_view.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/elided.h"
#include "desktop/parts/gain_line.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/question_line.h"
#include "desktop/parts/question_list.h"
#include "desktop/parts/records_panel.h"
#include "desktop/parts/verdict_view.h"
#include "desktop/theme.h"
#include "files/closure_file.h"
#include "files/read_places.h"
#include "service/findings.h"
#include "service/road_reading.h"

namespace otoro::desktop {

StudyPage::StudyPage(Session& session, Jobs& jobs, QWidget* parent) : QWidget(parent), session_(session), jobs_(jobs) {
    setObjectName("page");
    question_ = new QuestionLine(session.document, this);
    questions_ = new QuestionList(session.document, session.answers, this);
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

    auto* across = across_ = new QSplitter(Qt::Horizontal, this);
    auto* left = left_ = new QSplitter(Qt::Vertical, this);
    left->addWidget(questions_);
    left->addWidget(plans_);
    left->setStretchFactor(1, 1);
    left->setSizes({theme::scaled(250), theme::scaled(330)});
    left->setChildrenCollapsible(false);
    left->setHandleWidth(1);
    across->addWidget(left);
    auto* map_and_legend = new QWidget(this);
    auto* map_box = new QVBoxLayout(map_and_legend);
    map_box->setContentsMargins(0, 0, 0, 0);
    map_box->setSpacing(0);
    map_box->addWidget(map_, 1);
    map_box->addWidget(legend_);
    across->addWidget(map_and_legend);
    across->addWidget(answer_);
    across->setStretchFactor(1, 1);
    across->setSizes({theme::scaled_column(215), 740, theme::scaled_column(330)});
    across->setChildrenCollapsible(false);
    across->setHandleWidth(1);
    auto* down = new QSplitter(Qt::Vertical, this);
    down->addWidget(across);
    down->addWidget(records_);
    down->setStretchFactor(0, 1);
    down->setSizes({540, records_->is_open() ? 150 : 1});  // the least there is room for
    down->setChildrenCollapsible(false);
    connect(records_, &RecordsPanel::opened, down, [down](bool open) {
        const int all = down->height();
        down->setSizes({open ? all * 2 / 3 : all, open ? all / 3 : 1});
    });
    down->setHandleWidth(2);

    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    box->addWidget(top);
    box->addWidget(down, 1);
    connect(map_, &MapView::site_menu_wanted, this, &StudyPage::offer_site_menu);
    connect(map_, &MapView::spot_menu_wanted, this, &StudyPage::offer_spot_menu);
    connect(map_, &MapView::road_pressed, this, &StudyPage::show_road);
    connect(map_, &MapView::closure_drawn, this, &StudyPage::take_closure);
    connect(map_, &MapView::drawing_ended, this, &StudyPage::remark);
    connect(map_, &MapView::trouble, this, &StudyPage::trouble);
    connect(records_, &RecordsPanel::picked, this, &StudyPage::show_picked);
    connect(question_, &QuestionLine::profiles_wanted, this, &StudyPage::profiles_wanted);
    recall();
}

namespace {
constexpr const char* kAcross = "study/across";
constexpr const char* kLeft = "study/left";
constexpr const char* kLook = "map/look";
}  // namespace

void StudyPage::remember() const {
    QSettings settings;
    settings.setValue(kAcross, across_->saveState());
    settings.setValue(kLeft, left_->saveState());
    settings.setValue(kLook, map_->style_now().look->key());
}

void StudyPage::recall() {
    const QSettings settings;
    across_->restoreState(settings.value(kAcross).toByteArray());
    left_->restoreState(settings.value(kLeft).toByteArray());
    map_->set_look(look_called(settings.value(kLook).toString()));
}

void StudyPage::show_picked() {
    const auto answer = session_.answers.shown();
    if (!answer) return;
    std::vector<geo::LonLat> where;
    const auto& demand = answer->ready->inputs.demand;
    for (const std::uint32_t i : session_.selection.picked().places)
        if (i < demand.count() && demand.at(i).position) where.push_back(*demand.at(i).position);
    if (const auto site = session_.selection.picked().site; site && site->value() < answer->outcome.sites.size())
        if (const auto& p = answer->outcome.sites[site->value()].planned.site.position) where.push_back(*p);
    map_->bring_into_sight(where);
}

void StudyPage::offer_site_menu(SiteIndex index, const QPoint& at) {
    const auto answer = session_.answers.shown();
    if (!answer || index.value() >= answer->outcome.sites.size()) return;
    const auto& planned = answer->outcome.sites[index.value()].planned;
    const QString name = elided(QString::fromStdString(service::label(planned.site)));
    const auto change = [this, planned](service::Change c, const QString& plan_name) {
        session_.document.change_plan(plan_name, change_of(planned, c));
    };
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    add_title(*menu, planned.in_use ? name : tr("%1, if it were open").arg(name));
    if (!planned.in_use) add_gain_line(*menu, session_, index);
    const bool today = session_.document.plan_index() == 0;
    if (planned.site.state != places::SiteState::open)
        menu->addAction(today ? tr("New plan: open %1").arg(name) : tr("Open %1 in this plan").arg(name), this,
                        [=] { change(service::Change::open, StudyPage::tr("%1 opens").arg(name)); });
    else
        menu->addAction(today ? tr("New plan: close %1").arg(name) : tr("Close %1 in this plan").arg(name), this,
                        [=] { change(service::Change::close, StudyPage::tr("%1 closes").arg(name)); });
    if (planned.added)
        menu->addAction(tr("Take %1 out of this plan").arg(name), this,
                        [this, planned] { session_.document.take_out(change_of(planned, service::Change::add)); });
    if (planned.in_use)
        menu->addAction(tr("Pick the places it serves"), this, [this, index] {
            Picked s;
            s.site = index;
            if (const auto a = session_.answers.shown())
                for (std::uint32_t i = 0; i < a->outcome.places.size(); ++i)
                    if (a->outcome.places[i].served() && a->outcome.places[i].nearest == index) s.places.push_back(i);
            session_.selection.pick(std::move(s));
        });
    menu->popup(at);
}

void StudyPage::offer_spot_menu(geo::LonLat spot, const QPoint& at) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName("spot");
    if (session_.answers.shown()) {
        add_title(*menu, tr("A site here"));
        add_gain_line(*menu, session_, spot);
        menu->addAction(tr("New site here"), this, [this, spot] {
            std::vector<std::string> taken;
            for (const auto& s : session_.answers.shown()->outcome.sites) taken.push_back(s.planned.site.id);
            const auto id = service::free_name(tr("New site").toStdString(), taken);
            session_.document.change_plan(QString::fromStdString(id), {service::Change::add, id, spot});
        });
    }
    if (session_.answers.shown() && session_.answers.up_to_date()) {
        const bool here = session_.document.question().towards == service::Towards::demand;
        menu->addAction(here ? tr("The way here, turn by turn") : tr("The way from here, turn by turn"), this,
                        [this, spot, at] { show_way(spot, at); });
    }
    const auto& asked = session_.document.question().demand;
    const QString demand = asked.empty() ? tr("places drawn") : QString::fromStdString(asked.front());
    menu->addAction(tr("Add a place to the %1 here").arg(elided(demand)), this, [this, spot, demand] {
        session_.document.edit(tr("add a place"), [&](service::Study& s) {
            s = service::with_place(std::move(s), demand.toStdString(), spot, Weight::one());
        });
    });
    if (const auto& picked = session_.selection.picked().places; picked.size() == 1)
        menu->addAction(tr("Attach the picked place here"), this, [this, spot, place = picked.front()] {
            session_.document.edit(tr("attach by hand"), [&](service::Study& s) {
                const auto asked = s.demand_of(s.question());
                if (place >= asked.count()) return;
                const service::SetName set{service::SetKind::demand, asked.set_of(place).name};
                const service::AttachAnyway by_hand{set, {{asked.local(place), spot}}};
                s = service::fixed(std::move(s), by_hand, Task());
            });
        });
    add_title(*menu, tr("Roads closed or slowed (in this plan)"));
    menu->addAction(tr("Close the road here"), this,
                    [this, spot] { take_closure(roads::ClosureShape::point, {spot}); });
    menu->addAction(tr("Close along a line\u2026"), this, [this] { map_->start_drawing(roads::ClosureShape::line); });
    menu->addAction(tr("Close an area\u2026"), this, [this] { map_->start_drawing(roads::ClosureShape::area); });
    menu->addAction(tr("Closures from a file\u2026"), this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, tr("Closures from a file"));
        if (!path.isEmpty()) add_closures_from(path);
    });
    const auto index = session_.document.plan_index();
    for (std::size_t i = 0; i < session_.document.plan().closures.size(); ++i) {
        auto* one = menu->addMenu(elided(QString::fromStdString(session_.document.plan().closures[i].name)));
        const auto change = [this, index, i](const QString& what, const std::function<void(roads::Closure&)>& to) {
            session_.document.edit(what, [&](service::Study& s) {
                if (index < s.plans.size() && i < s.plans[index].closures.size()) to(s.plans[index].closures[i]);
            });
        };
        one->addAction(tr("Closed"), this, [change] {
            change(StudyPage::tr("closure"), [](auto& c) { c.effect = roads::ClosureEffect::closed; });
        });
        one->addAction(tr("Slowed to half speed"), this, [change] {
            change(StudyPage::tr("closure"), [](auto& c) {
                c.effect = roads::ClosureEffect::slowed;
                c.factor_per_mille = 2000;
            });
        });
        one->addAction(tr("Slowed by a factor\u2026"), this, [this, change] {
            const auto factor = ask_number(this, tr("Slowed by a factor"),
                                           tr("How many times as long it takes to pass"), 1.5, 1, 1000, 2);
            if (factor)
                change(StudyPage::tr("closure"), [&](auto& c) {
                    c.effect = roads::ClosureEffect::slowed;
                    c.factor_per_mille = static_cast<std::uint32_t>(std::lround(*factor * 1000));
                });
        });
        one->addAction(tr("A delay\u2026"), this, [this, change] {
            const auto minutes = ask_number(this, tr("A delay"), tr("Minutes for passing"), 2, 0, 600, 1);
            if (minutes)
                change(StudyPage::tr("closure"), [&](auto& c) {
                    c.effect = roads::ClosureEffect::delay;
                    c.delay = Millis(std::llround(*minutes * 60'000));
                });
        });
        one->addAction(tr("Open again"), this, [this, index, i] {
            session_.document.edit(tr("open a road again"), [&](service::Study& s) {
                if (index < s.plans.size() && i < s.plans[index].closures.size())
                    s.plans[index].closures.erase(s.plans[index].closures.begin() + static_cast<std::ptrdiff_t>(i));
            });
        });
    }
    menu->popup(at);
}

void StudyPage::take_closure(roads::ClosureShape shape, const std::vector<geo::LonLat>& vertices) {
    roads::Closure c;
    c.shape = shape;
    c.vertices = vertices;
    const auto& in = session_.document.study().roads;
    if (!in) return;
    if (!touches_a_road(*in->network, c)) {
        emit trouble(shape == roads::ClosureShape::point
                         ? tr("There is no road within 50 m of this spot; nothing was closed.")
                         : tr("What was drawn touches no road; nothing was closed."));
        return;
    }
    std::string name = tr("Roads closed").toStdString();
    if (shape == roads::ClosureShape::point)
        if (const auto road = service::road_at(*in->network, vertices.front(), Millimetres::metres(50));
            road && !in->network->name(*road).empty())
            name = tr("%1 closed").arg(QString::fromStdString(in->network->name(*road))).toStdString();
    std::vector<std::string> taken;
    for (const auto& o : session_.document.plan().closures) taken.push_back(o.name);
    c.name = service::free_name(name, taken);
    session_.document.add_closures(c.name, {c});
    if (shape != roads::ClosureShape::point) return;
    if (const auto taken_for = service::describe_point(*in->network, c); !taken_for.empty())
        emit remark(tr("Closed: %1").arg(QString::fromStdString(taken_for)));
}

void StudyPage::add_closures_from(const QString& path) {
    jobs_.reading.run([this, path,
                       document = session_.document.point().document](const Task& task) -> Background::Then {
        auto closures = files::read_closures(path.toStdString(), task);
        return [this, path, document, closures = std::move(closures)] {
            if (document != session_.document.point().document)
                return emit trouble(tr("Another study was opened while %1 was being read; its closures were not added.")
                                        .arg(QFileInfo(path).fileName()));
            session_.document.add_closures(files::set_name_from(path.toStdString()), closures);
            emit remark(tr("%1 closures from %2.").arg(closures.size()).arg(QFileInfo(path).fileName()));
        };
    });
}

void StudyPage::show_way(geo::LonLat spot, const QPoint& at) {
    const auto answer = session_.answers.shown();
    if (!answer || !session_.answers.up_to_date()) return;
    const auto reading = service::read_spot(*answer->ready, answer->outcome, spot);
    auto* card = new QFrame(this, Qt::Popup);
    card->setObjectName("popup");
    card->setAttribute(Qt::WA_DeleteOnClose);
    card->setAccessibleName(tr("The way, turn by turn"));
    auto* box = new QVBoxLayout(card);
    auto* title = new QLabel(card);
    title->setObjectName("way");
    title->setTextFormat(Qt::PlainText);
    QFont bold = title->font();
    bold.setWeight(QFont::DemiBold);
    title->setFont(bold);
    box->addWidget(title);
    if (!reading.outcome.nearest) {
        title->setText(reading.attachment ? tr("Cut off: no site in use can be reached from here, or reach it")
                                          : tr("No road that this traveller may use is near"));
    } else {
        const QLocale c = QLocale::c();
        const QString site = QString::fromStdString(
            service::label(answer->outcome.sites[reading.outcome.nearest->value()].planned.site));
        const bool here = session_.document.question().towards == service::Towards::demand;
        title->setText((here ? tr("From %1: %2 min, %3 km by road") : tr("To %1: %2 min, %3 km by road"))
                           .arg(site, c.toString(reading.outcome.time.minutes(), 'f', 1),
                                c.toString(reading.outcome.distance.kilometres(), 'f', 2)));
        QStringList lines;
        for (const auto& s : reading.steps) {
            const QString road = s.road.empty() ? tr("an unnamed road") : QString::fromStdString(s.road);
            lines << tr("%1. %2 %3, %4 m")
                         .arg(lines.size() + 1)
                         .arg(QString::fromUtf8(describe(s.turn).data()), road,
                              c.toString(s.distance.metres(), 'f', 0));
        }
        auto* list = new QPlainTextEdit(lines.join('\n'), card);
        list->setObjectName("steps");
        list->setReadOnly(true);
        list->setAccessibleName(tr("Turns"));
        list->setFrameShape(QFrame::NoFrame);
        constexpr int kWide = 380, kMostLines = 14;
        list->setMinimumWidth(kWide);
        list->setFixedHeight(static_cast<int>(std::min<qsizetype>(lines.size(), kMostLines) + 1) *
                                 list->fontMetrics().lineSpacing() +
                             6);
        box->addWidget(list);
        auto* copy = new QPushButton(tr("Copy"), card);
        copy->setAccessibleName(tr("Copy the way"));
        connect(copy, &QPushButton::clicked, card, [card, text = title->text() + "\n" + lines.join('\n')] {
            QApplication::clipboard()->setText(text);
            card->close();
        });
        box->addWidget(copy, 0, Qt::AlignLeft);
    }
    card->adjustSize();
    card->move(at + QPoint(10, 10));
    card->show();
    map_->read_at(map_->screen_of(spot));  // the same way, drawn
}

void StudyPage::show_road(LinkId link, geo::LonLat spot, const QPoint& at) {
    const auto answer = session_.answers.shown();
    if (!answer) return;
    const auto& network = *answer->ready->inputs.network;
    if (link.value() >= network.link_count()) return;
    const auto reading = service::read_road(network, *answer->outcome.traces->costed, link);
    auto* card = new QFrame(this, Qt::Popup);
    card->setObjectName("popup");
    card->setAttribute(Qt::WA_DeleteOnClose);
    card->setAccessibleName(tr("What is known of this road"));
    auto* text = new QLabel(card);
    text->setObjectName("road");
    QStringList lines = QString::fromStdString(service::describe(reading, network)).split('\n');
    lines[0] = "<b>" + lines[0].toHtmlEscaped() + "</b>";
    for (int i = 1; i < lines.size(); ++i) lines[i] = lines[i].toHtmlEscaped();
    text->setText(lines.join("<br>"));
    text->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* shut = new QPushButton(tr("Close it here, in a plan"), card);
    shut->setAccessibleName(shut->text());
    auto* box = new QVBoxLayout(card);
    box->addWidget(text);
    box->addWidget(shut, 0, Qt::AlignLeft);
    connect(shut, &QPushButton::clicked, card, [this, card, spot] {
        card->close();
        take_closure(roads::ClosureShape::point, {spot});
    });
    card->adjustSize();
    card->move(at + QPoint(10, 10));
    card->show();
}

}  // namespace otoro::desktop
