#include "desktop/parts/question_line.h"

#include <QApplication>
#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QKeyEvent>
#include <QLabel>
#include <QRadioButton>
#include <QScreen>
#include <QVBoxLayout>
#include <array>

#include "desktop/parts/elided.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/parts/number_box.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

/// A list of choices; the one chosen is reported at once.
void add_choices(QVBoxLayout& box, QWidget& popup, const QStringList& choices, int current,
                 const std::function<void(int)>& chosen) {
    auto* group = new QButtonGroup(&popup);
    for (int i = 0; i < choices.size(); ++i) {
        auto* button = new QRadioButton(popup.fontMetrics().elidedText(choices[i], Qt::ElideMiddle, 420), &popup);
        button->setToolTip(choices[i]);
        button->setAccessibleName(choices[i]);
        button->setChecked(i == current);
        group->addButton(button, i);
        box.addWidget(button);
        if (i == std::max(0, current)) button->setFocus();
    }
    QObject::connect(group, &QButtonGroup::idClicked, &popup, [chosen](int i) { chosen(i); });
}

/// A number with a unit, reported as it changes.
void add_amount(QVBoxLayout& box, QWidget& popup, const QString& name, const Amount& now, bool units_open,
                const std::function<void(Amount)>& changed) {
    auto* row = new QHBoxLayout;
    auto* number = new NumberBox(&popup);
    auto* unit = new QComboBox(&popup);
    number->setObjectName("amount");
    number->setAccessibleName(name);
    number->setDecimals(2);
    number->setRange(0.1, 600);
    number->setStepType(QAbstractSpinBox::AdaptiveDecimalStepType);
    unit->setAccessibleName(QuestionLine::tr("Unit"));
    unit->addItems({QuestionLine::tr("min"), QuestionLine::tr("km")});
    const bool time = std::holds_alternative<Millis>(now);
    number->setValue(time ? std::get<Millis>(now).minutes() : std::get<Millimetres>(now).kilometres());
    unit->setCurrentIndex(time ? 0 : 1);
    unit->setEnabled(units_open);
    row->addWidget(number);
    row->addWidget(unit);
    box.addLayout(row);
    const auto report = [number, unit, changed] {
        changed(unit->currentIndex() == 0 ? Amount(Millis(std::llround(number->value() * 60'000)))
                                          : Amount(Millimetres(std::llround(number->value() * 1'000'000))));
    };
    QObject::connect(number, &QDoubleSpinBox::valueChanged, &popup, report);
    QObject::connect(unit, &QComboBox::currentIndexChanged, &popup, report);
    number->setFocus();
    number->selectAll();
}

QString plain(const std::string& s) { return QString::fromStdString(s); }

constexpr int kWidestBlank = 420;  // points; longer names are elided, and whole in the tooltip

}  // namespace

QuestionLine::QuestionLine(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setAccessibleName(tr("The question"));
    build();
    connect(&session_, &Session::question_changed, this, &QuestionLine::refresh);
    connect(&session_, &Session::data_changed, this, &QuestionLine::refresh);
    refresh();
}

void QuestionLine::build() {
    new FlowLayout(this);
    const auto editor = [this](void (QuestionLine::*edit)(QVBoxLayout&, QWidget&)) {
        return [this, edit](QVBoxLayout& box, QWidget& popup) { (this->*edit)(box, popup); };
    };
    add_words(tr("The"));
    add_blank("demand", tr("Who is to be served"), editor(&QuestionLine::edit_demand));
    add_words(tr(","), true);
    add_blank("weight", tr("How each place counts"), editor(&QuestionLine::edit_weight));
    add_words(tr(","), true);
    add_words(tr("are each served by the"));
    add_blank("measure", tr("What nearest means"), editor(&QuestionLine::edit_measure));
    add_words(tr("of the"));
    add_blank("sites", tr("Which sites may serve"), editor(&QuestionLine::edit_sites));
    add_words(tr(","), true);
    add_blank("travel", tr("How they travel"), editor(&QuestionLine::edit_travel));
    add_blank("towards", tr("Which way they travel"), editor(&QuestionLine::edit_towards));
    add_words(tr(","), true);
    add_blank("limit", tr("How far at most"), editor(&QuestionLine::edit_limit));
    add_words(tr(";"), true);
    add_blank("share", tr("The share that must be within the standard"), editor(&QuestionLine::edit_share));
    add_words(tr("must be within"));
    add_blank("standard", tr("The limit of the standard"), editor(&QuestionLine::edit_standard));
    add_words(tr("."), true);
}

void QuestionLine::add_words(const QString& words, bool closes_up) {
    auto* label = new QLabel(words, this);
    label->setFont(theme::type(1.2));
    label->setProperty("closes_up", closes_up);
    label->setContentsMargins(0, 2, 0, 2);
    layout()->addWidget(label);
}

QPushButton* QuestionLine::add_blank(const QString& key, const QString& what,
                                     std::function<void(QVBoxLayout&, QWidget&)> editor) {
    auto* button = new QPushButton(this);
    button->setObjectName("blank");
    button->setProperty("key", key);
    button->setProperty("what", what);
    button->setToolTip(what);
    button->setFont(theme::type(1.2, QFont::DemiBold));
    button->setAutoDefault(true);
    layout()->addWidget(button);
    blanks_[key] = button;
    connect(button, &QPushButton::clicked, this, [this, button, what, editor = std::move(editor)] {
        auto* popup = new QFrame(this, Qt::Popup);
        popup->setObjectName("popup");
        popup->setAttribute(Qt::WA_DeleteOnClose);
        popup->setAccessibleName(what);
        auto* box = new QVBoxLayout(popup);
        auto* title = new QLabel(what, popup);
        title->setProperty("role", "soft");
        box->addWidget(title);
        editor(*box, *popup);
        popup->adjustSize();
        QPoint at = button->mapToGlobal(QPoint(0, button->height() + 2));
        if (const auto* screen = button->screen())
            at.setX(std::min(at.x(), screen->availableGeometry().right() - popup->width()));
        popup->move(at);
        popup->show();
    });
    return button;
}

QPushButton* QuestionLine::blank(const QString& key) const { return blanks_.at(key); }

QString QuestionLine::text() const {
    QString s;
    for (int i = 0; i < layout()->count(); ++i) {
        auto* w = layout()->itemAt(i)->widget();
        const auto* label = qobject_cast<QLabel*>(w);
        const QString word = label ? label->text() : qobject_cast<QPushButton*>(w)->text();
        s += (s.isEmpty() || w->property("closes_up").toBool() ? "" : " ") + word;
    }
    return s;
}

void QuestionLine::refresh() {
    const auto& q = session_.question();
    const auto& study = session_.study();
    const auto* demand = study.find_demand(q.demand);
    const std::array<QString, 4> travel{tr("driving"), tr("responding with priority"), tr("walking"), tr("cycling")};
    const auto set = [&](const QString& key, const QString& text, bool enabled = true) {
        auto* b = blanks_.at(key);
        const QString shown = b->fontMetrics().elidedText(text, Qt::ElideMiddle, kWidestBlank);
        b->setText(shown);
        b->setToolTip(text == shown ? b->property("what").toString() : text);
        b->setEnabled(enabled);
        b->setAccessibleName(tr("%1: %2").arg(b->property("what").toString(), text));
    };
    set("demand", demand ? plain(q.demand) : tr("(no demand yet)"), !study.demand.empty());
    set("weight",
        q.by_weight && demand && !demand->set->weight_name.empty()
            ? tr("counted by %1").arg(plain(demand->set->weight_name))
            : tr("each counted once"),
        demand);
    set("measure", q.measure == routing::Measure::time ? tr("nearest by time") : tr("nearest by distance"));
    const QString sites = study.find_sites(q.sites) ? plain(q.sites) : tr("(no sites yet)");
    set("sites", q.use == service::SiteUse::open ? tr("open %1").arg(sites) : tr("open and candidate %1").arg(sites),
        !study.sites.empty());
    QString how = q.profile.name.empty()
                      ? travel[static_cast<std::size_t>(q.profile.mode)]
                      : tr("%1 as %2").arg(travel[static_cast<std::size_t>(q.profile.mode)], plain(q.profile.name));
    if (q.profile.one_speed) how += tr(" at %1 on all roads").arg(plain(describe(*q.profile.one_speed)));
    if (q.off_road_speed) how += tr(", off-road legs at %1").arg(plain(describe(*q.off_road_speed)));
    set("travel", how);
    set("towards", q.towards == service::Towards::demand ? tr("to the place") : tr("to the site"));
    set("limit", q.limit ? tr("at most %1").arg(plain(describe(*q.limit))) : tr("however far"));
    set("share", q.standard ? plain(describe(q.standard->share)) : tr("no share"), q.standard.has_value());
    set("standard", q.standard ? plain(describe(q.standard->limit)) : tr("no limit"), q.standard.has_value());
    updateGeometry();
}

void QuestionLine::change(const QString& what, const std::function<void(service::Question&)>& change) {
    session_.edit(what, [&](service::Study& s) { change(s.question); });
}

void QuestionLine::edit_demand(QVBoxLayout& box, QWidget& popup) {
    QStringList names;
    int current = -1;
    for (const auto& d : session_.study().demand) {
        if (d.set->name == session_.question().demand) current = static_cast<int>(names.size());
        names.append(plain(d.set->name));
    }
    add_choices(box, popup, names, current,
                [this, names](int i) { change(tr("demand"), [&](auto& q) { q.demand = names[i].toStdString(); }); });
}

void QuestionLine::edit_weight(QVBoxLayout& box, QWidget& popup) {
    const auto* demand = session_.study().find_demand(session_.question().demand);
    QStringList choices{tr("each counted once")};
    if (demand && !demand->set->weight_name.empty())
        choices.append(tr("counted by %1").arg(plain(demand->set->weight_name)));
    add_choices(box, popup, choices, session_.question().by_weight ? static_cast<int>(choices.size()) - 1 : 0,
                [this](int i) { change(tr("weight"), [&](auto& q) { q.by_weight = i == 1; }); });
}

void QuestionLine::edit_measure(QVBoxLayout& box, QWidget& popup) {
    add_choices(
        box, popup, {tr("nearest by time"), tr("nearest by distance")}, static_cast<int>(session_.question().measure),
        [this](int i) { change(tr("measure"), [&](auto& q) { q.measure = static_cast<routing::Measure>(i); }); });
}

void QuestionLine::edit_sites(QVBoxLayout& box, QWidget& popup) {
    QStringList names;
    int current = -1;
    for (const auto& s : session_.study().sites) {
        if (s.set->name == session_.question().sites) current = static_cast<int>(names.size());
        names.append(plain(s.set->name));
    }
    add_choices(box, popup, names, current,
                [this, names](int i) { change(tr("sites"), [&](auto& q) { q.sites = names[i].toStdString(); }); });
    auto* candidates = new QCheckBox(tr("candidates serve too"), &popup);
    candidates->setAccessibleName(tr("Candidate sites serve too"));
    candidates->setChecked(session_.question().use == service::SiteUse::open_and_candidate);
    box.addWidget(candidates);
    connect(candidates, &QCheckBox::toggled, this, [this](bool on) {
        change(tr("candidates"),
               [&](auto& q) { q.use = on ? service::SiteUse::open_and_candidate : service::SiteUse::open; });
    });
}

void QuestionLine::edit_travel(QVBoxLayout& box, QWidget& popup) {
    QStringList names{tr("driving"), tr("responding with priority (1.15 times as fast)"), tr("walking"), tr("cycling")};
    const auto now_profile = session_.question().profile;
    int current = now_profile.name.empty() ? static_cast<int>(now_profile.mode) : -1;
    for (const auto& p : session_.study().profiles) {
        if (p.name == now_profile.name) current = static_cast<int>(names.size());
        names.append(plain(p.name));
    }
    add_choices(box, popup, names, current, [this](int i) {
        change(tr("way of travelling"), [&](auto& q) {
            const auto one_speed = q.profile.one_speed;
            const auto own = static_cast<std::size_t>(i) - 4;
            if (i >= 4 && own >= session_.study().profiles.size()) return;
            if (i >= 4)
                q.profile = session_.study().profiles[own];
            else
                q.profile = {static_cast<travel::Mode>(i), one_speed};
        });
    });
    auto* one = new QCheckBox(tr("at one speed on all roads, km/h:"), &popup);
    auto* speed = new NumberBox(&popup);
    one->setAccessibleName(tr("One speed on all roads"));
    speed->setAccessibleName(tr("Speed in kilometres an hour"));
    speed->setRange(1, 200);
    speed->setDecimals(1);
    const auto now = session_.question().profile.one_speed;
    one->setChecked(now.has_value());
    speed->setEnabled(now.has_value());
    speed->setValue(now ? now->km_per_hour() : 40);
    box.addWidget(one);
    box.addWidget(speed);
    const auto report = [this, one, speed] {
        speed->setEnabled(one->isChecked());
        change(tr("speed"), [&](auto& q) {
            q.profile.one_speed = one->isChecked() ? std::optional(Speed::km_per_hour(speed->value())) : std::nullopt;
        });
    };
    connect(one, &QCheckBox::toggled, this, report);
    connect(speed, &QDoubleSpinBox::valueChanged, this, report);
    auto* off = new QCheckBox(tr("off-road legs count too, at km/h:"), &popup);
    auto* off_speed = new NumberBox(&popup);
    off->setAccessibleName(tr("Off-road legs count too"));
    off_speed->setAccessibleName(tr("Speed of off-road legs in kilometres an hour"));
    off_speed->setRange(0.5, 50);
    off_speed->setDecimals(1);
    const auto off_now = session_.question().off_road_speed;
    off->setChecked(off_now.has_value());
    off_speed->setEnabled(off_now.has_value());
    off_speed->setValue(off_now ? off_now->km_per_hour() : 4.8);
    box.addWidget(off);
    box.addWidget(off_speed);
    const auto report_off = [this, off, off_speed] {
        off_speed->setEnabled(off->isChecked());
        change(tr("off-road legs"), [&](auto& q) {
            q.off_road_speed = off->isChecked() ? std::optional(Speed::km_per_hour(off_speed->value())) : std::nullopt;
        });
    };
    connect(off, &QCheckBox::toggled, this, report_off);
    connect(off_speed, &QDoubleSpinBox::valueChanged, this, report_off);
    auto* more = new QPushButton(tr("Travel profiles\u2026"), &popup);
    more->setAccessibleName(tr("Open the travel profiles"));
    box.addWidget(more);
    connect(more, &QPushButton::clicked, this, [this, p = &popup] {
        p->close();
        emit profiles_wanted();
    });
}

void QuestionLine::edit_towards(QVBoxLayout& box, QWidget& popup) {
    add_choices(box, popup, {tr("to the place (a response)"), tr("to the site (a journey to school)")},
                static_cast<int>(session_.question().towards), [this](int i) {
                    change(tr("direction"), [&](auto& q) { q.towards = static_cast<service::Towards>(i); });
                });
}

void QuestionLine::edit_limit(QVBoxLayout& box, QWidget& popup) {
    const auto now = session_.question().limit;
    auto* on = new QCheckBox(tr("places farther than this are not served:"), &popup);
    on->setAccessibleName(tr("Serve only up to a limit"));
    on->setChecked(now.has_value());
    box.addWidget(on);
    auto* holder = new QWidget(&popup);
    auto* inner = new QVBoxLayout(holder);
    inner->setContentsMargins(0, 0, 0, 0);
    auto amount = std::make_shared<Amount>(now.value_or(Millis::minutes(20)));
    holder->setEnabled(now.has_value());
    add_amount(*inner, *holder, tr("Limit"), *amount, true, [this, amount, on](const Amount& a) {
        *amount = a;
        if (on->isChecked()) change(tr("limit"), [&](auto& q) { q.limit = a; });
    });
    box.addWidget(holder);
    connect(on, &QCheckBox::toggled, this, [this, amount, holder](bool checked) {
        holder->setEnabled(checked);
        change(tr("limit"), [&](auto& q) { q.limit = checked ? std::optional(*amount) : std::nullopt; });
    });
}

void QuestionLine::edit_share(QVBoxLayout& box, QWidget& popup) {
    auto* share = new NumberBox(&popup);
    share->setObjectName("amount");
    share->setAccessibleName(tr("Share in per cent"));
    share->setRange(0.1, 100);
    share->setDecimals(1);
    share->setSuffix(tr(" %"));
    share->setValue(session_.question().standard->share.percent());
    box.addWidget(share);
    share->setFocus();
    share->selectAll();
    connect(share, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { change(tr("share"), [&](auto& q) { q.standard->share = Share::percent(v); }); });
}

void QuestionLine::edit_standard(QVBoxLayout& box, QWidget& popup) {
    add_amount(box, popup, tr("Limit of the standard"), session_.question().standard->limit, true,
               [this](const Amount& a) { change(tr("standard"), [&](auto& q) { q.standard->limit = a; }); });
}

}  // namespace otoro::desktop
