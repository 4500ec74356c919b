#include "desktop/parts/sources_list.h"

#include <QFileDialog>
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/theme.h"
#include "geo/amounts.h"

namespace otoro::desktop {
namespace {
constexpr const char* kWaterKey = "\n water";  // no set can be called that
QString plain(const std::string& s) { return QString::fromStdString(s); }
QString number(std::uint32_t v) { return plain(describe(Weight(std::int64_t{v} * 1'000'000))); }
}  // namespace

SourcesList::SourcesList(Session& session, Mender& mender, QWidget* parent) : QWidget(parent), session_(session), mender_(mender) {
    box_ = new QVBoxLayout(this);
    box_->setContentsMargins(0, 0, 0, 0);
    box_->setSpacing(3);
    connect(&session_, &Session::data_changed, this, &SourcesList::refresh);
    refresh();
}

void SourcesList::add(const QString& kind, const QString& name, const QString& count, const service::Origin& origin, const QString& set) {
    auto* card = new QFrame(this);
    card->setObjectName("card");
    auto* row = new QHBoxLayout(card);
    row->setContentsMargins(8, 2, 4, 2);
    auto* text = new QLabel(tr("<b>%1</b> %2<br><span style='color:#5C5A58'>%3, from %4</span>").arg(kind.toHtmlEscaped(), name.toHtmlEscaped(), count, plain(origin.file).toHtmlEscaped()), card);
    text->setTextFormat(Qt::RichText);
    text->setToolTip(plain(origin.description));
    auto* more = new QPushButton(QString::fromUtf8("\u22ef"), card);
    more->setObjectName("flat");
    more->setAccessibleName(tr("What can be done with %1 %2").arg(kind, name));
    auto* menu = new QMenu(more);
    connect(menu, &QMenu::aboutToShow, this, [this, menu, set] {
        menu->clear();
        fill_menu(*menu, set);
    });
    more->setMenu(menu);
    row->addWidget(text, 1);
    row->addWidget(more);
    box_->addWidget(card);
}

void SourcesList::refresh() {
    while (auto* item = box_->takeAt(0)) {
        if (item->widget()) item->widget()->deleteLater();
        delete item;
    }
    const auto& study = session_.study();
    if (study.roads) add(tr("Roads"), {}, tr("%1 links, %2 km").arg(number(study.roads->network->link_count()), number(static_cast<std::uint32_t>(study.roads->network->total_length().kilometres()))), study.roads->origin, {});
    for (const auto& d : study.demand) add(tr("Demand"), plain(d.set->name), tr("%1 places").arg(number(d.set->count())), d.origin, plain(d.set->name));
    for (const auto& s : study.sites) add(tr("Sites"), plain(s.set->name), tr("%1 sites").arg(number(s.set->count())), s.origin, plain(s.set->name));
    if (study.water) {
        add(tr("Water"), {}, tr("%1 stretches").arg(number(static_cast<std::uint32_t>(study.water->areas->size()))), study.water->origin, QString(kWaterKey));
    }
    const auto step = [&](bool there, const QString& what, const QString& about) {
        if (there) return;
        auto* l = new QLabel(tr("<b>%1</b>&nbsp; %2").arg(what, about), this);
        l->setTextFormat(Qt::RichText);
        l->setWordWrap(true);
        l->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
        box_->addWidget(l);
    };
    const bool roads = study.roads.has_value();
    const bool demand = !study.demand.empty();
    const bool sites = !study.sites.empty();
    if (!roads || !demand || !sites) {
        auto* needed = new QLabel(study.empty() ? tr("A study starts from three files. Press \u2018Bring in a file\u2019, or drop them anywhere on the window.") : tr("Still needed:"), this);
        needed->setWordWrap(true);
        needed->setProperty("role", "soft");
        needed->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
        box_->addWidget(needed);
    }
    step(roads, tr("Roads"), tr("lines to travel on, with class, speed and one-way if there are any: GeoPackage, shapefile, GeoJSON, DXF, KML, GPX, GML, OpenStreetMap and more"));
    step(demand, tr("Demand"), tr("the households, pupils or premises to be served: points, areas, or a table with longitude and latitude"));
    step(sites, tr("Sites"), tr("the stations, schools or depots that serve, open or candidate: points or a table"));
}

void SourcesList::fill_menu(QMenu& menu, const QString& set) {
    const auto name = set.toStdString();
    if (set == kWaterKey) {
        menu.addAction(tr("Leave out of the study"), this, [this] { session_.edit(tr("leave out the water"), [](service::Study& s) { s.water.reset(); }); });
        return;
    }
    if (set.isEmpty()) {
        menu.addAction(tr("Who may use which road, how fast\u2026"), this, &SourcesList::profiles_wanted);
        menu.addAction(tr("Heights from an elevation model\u2026"), this, [this] {
            const QString path = QFileDialog::getOpenFileName(this, tr("An elevation model"), {}, tr("GeoTIFF (*.tif *.tiff)"));
            if (!path.isEmpty()) mender_.take_heights(path);
        });
        return;
    }
    menu.addAction(tr("How its places are attached\u2026"), this, [this, set] { emit attaching_wanted(set); });
    if (const auto* d = session_.study().find_demand(name)) {
        menu.addAction(tr("Use as sites too"), this, [this, in = *d] {
            session_.edit(tr("use as sites"), [&](service::Study& s) { s = with_sites(std::move(s), sites_from(in)); });
        });
        menu.addAction(tr("Leave out of the study"), this, [this, name] {
            session_.edit(tr("leave out %1").arg(QString::fromStdString(name)), [&](service::Study& s) { std::erase_if(s.demand, [&](const auto& in) { return in.set->name == name; }); });
        });
    } else if (const auto* x = session_.study().find_sites(name)) {
        menu.addAction(tr("Use as demand too"), this, [this, in = *x] {
            session_.edit(tr("use as demand"), [&](service::Study& s) { s = with_demand(std::move(s), demand_from(in)); });
        });
        menu.addAction(tr("Leave out of the study"), this, [this, name] {
            session_.edit(tr("leave out %1").arg(QString::fromStdString(name)), [&](service::Study& s) { std::erase_if(s.sites, [&](const auto& in) { return in.set->name == name; }); });
        });
    }
}

}  // namespace otoro::desktop
