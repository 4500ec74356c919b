#include "desktop/parts/sources_list.h"

#include <QFileDialog>
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/parts/elided.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/amounts.h"

namespace otoro::desktop {
SourcesList::SourcesList(Session& session, Fixer& fixer, QWidget* parent)
    : QWidget(parent), session_(session), fixer_(fixer) {
    box_ = new QVBoxLayout(this);
    box_->setContentsMargins(0, 0, 0, 0);
    box_->setSpacing(3);
    connect(&session_.document, &Document::data_changed, this, &SourcesList::refresh);
    refresh();
}

void SourcesList::add(const QString& kind, const QString& name, const QString& count, const service::Origin& origin,
                      const std::function<void(QMenu&)>& fill) {
    auto* card = new QFrame(this);
    card->setObjectName("card");
    auto* row = new QHBoxLayout(card);
    row->setContentsMargins(8, 2, 4, 2);
    constexpr int kRoom = 28;  // letters that the column has room for
    auto* text = new QLabel(tr("<b>%1</b> %2").arg(kind.toHtmlEscaped(), elided(name, kRoom).toHtmlEscaped()), card);
    auto* about = new ElidedLabel(tr("%1, from %2").arg(count, plain(origin.file)), card);
    about->setProperty("role", "soft");
    text->setTextFormat(Qt::RichText);
    text->setMinimumWidth(1);  // never wider than the column
    text->setToolTip(name + (name.isEmpty() ? "" : "\n") + plain(origin.file) + "\n" + plain(origin.description) +
                     (kind == tr("Roads") ? tr("\nA link is a stretch of road between two junctions.") : QString()));
    auto* more = new QPushButton(QString::fromUtf8("\u22ef"), card);
    more->setObjectName("flat");
    more->setAccessibleName(tr("What can be done with %1 %2").arg(kind, name));
    auto* menu = new QMenu(more);
    connect(menu, &QMenu::aboutToShow, this, [menu, fill] {
        menu->clear();
        fill(*menu);
    });
    more->setMenu(menu);
    auto* column = new QVBoxLayout;
    column->setSpacing(0);
    column->addWidget(text);
    column->addWidget(about);
    // Where the file could have been understood otherwise, how it was.
    const QString description = plain(origin.description);
    if (const auto at = description.indexOf("; "); at >= 0) {
        constexpr int kMost = 600;
        auto* taken = new QLabel(elided(description.mid(at + 2), kMost), card);
        taken->setObjectName("taken");
        taken->setTextFormat(Qt::PlainText);
        taken->setProperty("role", "soft");
        taken->setWordWrap(true);
        taken->setMinimumWidth(1);
        taken->setToolTip(description);
        column->addWidget(taken);
    }
    row->addLayout(column, 1);
    row->addWidget(more, 0, Qt::AlignTop);
    box_->addWidget(card);
}

void SourcesList::refresh() {
    while (auto* item = box_->takeAt(0)) {
        if (item->widget()) item->widget()->deleteLater();
        delete item;
    }
    const auto& study = session_.document.study();
    const auto of_set = [this](service::SetKind kind, const std::string& name = {}) {
        return [this, set = service::SetName{kind, name}](QMenu& menu) { fill_menu(menu, set); };
    };
    if (study.roads) {
        const QString size =
            tr("%1, %2 %3")
                .arg(counted(study.roads->network->link_count(), tr("link"), tr("links")),
                     number(static_cast<std::uint64_t>(in_long_units(study.roads->network->total_length()))),
                     long_unit());
        add(tr("Roads"), {}, size, study.roads->origin, of_set(service::SetKind::roads));
    }
    for (const auto& d : study.demand)
        add(tr("Demand"), plain(d.set->name), counted(d.set->count(), tr("place"), tr("places")), d.origin,
            of_set(service::SetKind::demand, d.set->name));
    for (const auto& s : study.sites)
        add(tr("Sites"), plain(s.set->name), counted(s.set->count(), tr("site"), tr("sites")), s.origin,
            of_set(service::SetKind::sites, s.set->name));
    for (const auto& z : study.zones)
        add(tr("Zones"), plain(z.set->name), counted(z.set->count(), tr("zone"), tr("zones")), z.origin,
            of_set(service::SetKind::zones, z.set->name));
    if (study.water)
        add(tr("Water"), {}, counted(study.water->areas->size(), tr("stretch"), tr("stretches")), study.water->origin,
            [this](QMenu& menu) { fill_water_menu(menu); });
    if (study.pairs)
        add(tr("Pairs"), plain(study.pairs->values->name),
            counted(study.pairs->values->count(), tr("pair"), tr("pairs")), study.pairs->origin, [this](QMenu& menu) {
                menu.addAction(tr("Remove"), this, [this] {
                    session_.document.edit(tr("remove the table of pairs"), [](service::Study& s) { s.pairs.reset(); });
                });
            });
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
        auto* needed = new QLabel(
            study.empty()
                ? tr("A study starts from three files. Press \u2018Add data\u2019, or drop them anywhere on the "
                     "window.")
                : tr("Still needed:"),
            this);
        needed->setWordWrap(true);
        needed->setProperty("role", "soft");
        needed->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
        box_->addWidget(needed);
    }
    step(roads, tr("Roads"),
         tr("lines to travel on, with class, speed and one-way if there are any: GeoPackage, shapefile, GeoJSON, "
            "DXF, KML, GPX, GML, OpenStreetMap and more"));
    step(demand, tr("Demand"),
         tr("the households, pupils or premises to be served: points, areas, or a table with longitude and latitude"));
    step(sites, tr("Sites"), tr("the stations, schools or depots that serve, open or candidate: points or a table"));
}

void SourcesList::fill_water_menu(QMenu& menu) {
    menu.addAction(tr("Remove"), this, [this] {
        session_.document.edit(tr("remove the water"), [](service::Study& s) { s.water.reset(); });
    });
}

void SourcesList::fill_menu(QMenu& menu, const service::SetName& set) {
    const std::string& name = set.name;
    if (set.kind == service::SetKind::roads) {
        menu.addAction(tr("Who may use which road, how fast\u2026"), this, &SourcesList::profiles_wanted);
        menu.addAction(tr("Heights from an elevation model\u2026"), this, [this] {
            const QString path =
                QFileDialog::getOpenFileName(this, tr("An elevation model"), {}, tr("GeoTIFF (*.tif *.tiff)"));
            if (!path.isEmpty()) fixer_.take_heights(path);
        });
        menu.addAction(tr("Remove"), this, [this] {
            session_.document.edit(tr("remove the roads"), [](service::Study& s) { s.roads.reset(); });
        });
        return;
    }
    if (set.kind == service::SetKind::zones) {
        menu.addAction(tr("Remove"), this, [this, name] {
            session_.document.edit(tr("remove %1").arg(elided(plain(name))), [&](service::Study& s) {
                std::erase_if(s.zones, [&](const auto& in) { return in.set->name == name; });
            });
        });
        return;
    }
    menu.addAction(tr("How its places are attached\u2026"), this, [this, set] { emit attaching_wanted(set); });
    const QString leave_out = tr("remove %1").arg(elided(plain(name)));
    if (const auto* d = set.kind == service::SetKind::demand ? session_.document.study().find_demand(name) : nullptr) {
        menu.addAction(tr("Use as sites too"), this, [this, in = *d] {
            session_.document.edit(tr("use as sites"), [&](service::Study& s) {
                auto more = renamed(sites_from(in), set_names(s, service::SetKind::sites));
                s = with_sites(std::move(s), std::move(more));
            });
        });
        menu.addAction(tr("Remove"), this, [this, name, leave_out] {
            session_.document.edit(leave_out, [&](service::Study& s) { s = without_demand(std::move(s), name); });
        });
    } else if (const auto* x =
                   set.kind == service::SetKind::sites ? session_.document.study().find_sites(name) : nullptr) {
        menu.addAction(tr("Use as demand too"), this, [this, in = *x] {
            session_.document.edit(tr("use as demand"), [&](service::Study& s) {
                auto more = renamed(demand_from(in), set_names(s, service::SetKind::demand));
                s = with_demand(std::move(s), std::move(more));
            });
        });
        menu.addAction(tr("Remove"), this, [this, name, leave_out] {
            session_.document.edit(leave_out, [&](service::Study& s) { s = without_sites(std::move(s), name); });
        });
    }
}

}  // namespace otoro::desktop
