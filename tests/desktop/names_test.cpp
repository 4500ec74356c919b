/// Names from files are plain text wherever they stand.
#include <QAbstractButton>
#include <QAction>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTextDocument>
#include <QToolTip>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/legend.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

const QString kOdd = "A & B <i>%1";

/// The town, and everything in it that has a name of its own has this one.
void give_odd_names(Desk& desk) {
    desk.add_saltmere();
    desk.add(test::saltmere("zones.geojson"));
    desk.session().document.edit("rename", [](service::Study& s) {
        const std::string odd = kOdd.toStdString();
        auto demand = std::make_shared<places::DemandSet>(*s.demand[0].set);
        demand->name = odd;
        demand->weight_name = odd;
        s.demand[0].set = demand;
        auto sites = std::make_shared<places::SiteSet>(*s.sites[0].set);
        sites->name = odd;
        for (auto& site : sites->sites) site.name = odd + " " + site.name;
        s.sites[0].set = sites;
        auto zones = std::make_shared<places::ZoneSet>(*s.zones[0].set);
        zones->name = odd;
        for (auto& zone : zones->zones) zone.name = odd + " " + zone.name;
        s.zones[0].set = zones;
        s.name = odd;
        auto& q = s.question();
        q.name = odd;
        q.demand = {odd};
        q.sites = {odd};
        q.profile.name = odd;
        service::Plan plan;
        plan.name = odd;
        plan.note = odd;
        s.plans.push_back(plan);
    });
    REQUIRE(desk.settle());
}

/// What a person sees of a text that may be marked up.
QString seen(const QString& text, Qt::TextFormat format) {
    if (format == Qt::PlainText || (format == Qt::AutoText && !Qt::mightBeRichText(text))) return text;
    QTextDocument document;
    document.setHtml(text);
    return document.toPlainText();
}

/// Looks at all that is on the screen; what is shown otherwise than as the name is reported.
class Looking {
public:
    void look() {
        for (auto* w : QApplication::allWidgets()) {
            tell(w, "tip", w->toolTip());  // tips are plain: see below
            // What was never shown is made plain when it is.
            if (qobject_cast<QLabel*>(w) != nullptr) w->ensurePolished();
            if (const auto* label = qobject_cast<QLabel*>(w))
                tell(w, "label",
                     label->buddy() != nullptr ? unmarked(label->text()) : seen(label->text(), label->textFormat()));
            if (const auto* button = qobject_cast<QAbstractButton*>(w)) tell(w, "button", unmarked(button->text()));
            for (const auto* action : w->actions()) {
                tell(w, "action", unmarked(action->text()));
            }
        }
    }
    [[nodiscard]] int times() const { return times_; }

private:
    /// A single & is not shown: what follows is underlined.
    static QString unmarked(QString text) {
        QString out;
        for (int i = 0; i < text.size(); ++i)
            if (text[i] != '&' || (++i < text.size() && text[i] == '&'))
                out += text[i];
            else if (i < text.size())
                out += text[i];
        return out;
    }
    void tell(const QWidget* w, const char* what, const QString& shown) {
        // Whichever part of the name is there, the rest is, unless it is cut short.
        for (auto at = shown.indexOf("A "); at >= 0; at = shown.indexOf("A ", at + 1)) {
            const QString part = shown.mid(at, kOdd.size());
            const auto cut = part.indexOf(QString::fromUtf8("\u2026"));
            if (!part.startsWith("A &") && !part.startsWith("A B") && !part.startsWith("A  B")) continue;
            ++times_;
            const QString want = cut >= 0 ? kOdd.left(cut) : kOdd;
            if ((cut >= 0 ? part.left(cut) : part) == want) continue;
            INFO(w->metaObject()->className()
                 << " '" << w->objectName().toStdString() << "' " << w->accessibleName().toStdString() << ": " << what
                 << ": " << shown.toStdString());
            CHECK(part.toStdString() == want.toStdString());
        }
    }
    int times_ = 0;
};

}  // namespace

TEST_CASE("A name with marks in it is shown as it is in every label, button, menu and tip") {
    Desk desk;
    give_odd_names(desk);
    Looking looking;
    desk.window.show_study();
    REQUIRE(desk.settle_plans());
    looking.look();
    QStringList keys;
    for (const auto* blank : desk.page().question().findChildren<QPushButton*>("blank"))
        if (blank->isVisible() && blank->isEnabled()) keys << blank->property("key").toString();
    CHECK(keys.size() > 5);
    for (const auto& key : keys) {
        desk.press_blank(key);
        looking.look();
        Desk::close_editor();
    }
    int looks = 0;
    for (auto* look : desk.page().legend().findChildren<QPushButton*>()) {
        if (!look->isCheckable() || !look->isVisible()) continue;
        look->click();
        ++looks;
        REQUIRE(wait_for([&] { return desk.map().settled(); }));
        looking.look();
    }
    CHECK(looks > 3);
    desk.session().document.edit(kOdd + " opens", [](service::Study& s) { s.plans.back().note += "."; });
    for (auto* menu : desk.window.findChildren<QMenu*>()) {
        emit menu->aboutToShow();
        looking.look();
    }
    desk.window.show_data();
    looking.look();
    desk.session().document.choose_plan(1);
    REQUIRE(desk.settle());
    looking.look();
    CHECK(looking.times() > 50);
    QToolTip::showText(desk.window.mapToGlobal(QPoint(100, 100)), kOdd, &desk.window);
    int tips = 0;
    for (const auto* w : QApplication::allWidgets())
        if (const auto* tip = qobject_cast<const QLabel*>(w); tip != nullptr && tip->inherits("QTipLabel")) {
            ++tips;
            CHECK(seen(tip->text(), tip->textFormat()) == kOdd);
        }
    CHECK(tips == 1);
}
