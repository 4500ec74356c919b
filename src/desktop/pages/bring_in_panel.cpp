#include "desktop/pages/bring_in_panel.h"

#include <QComboBox>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>

#include "desktop/theme.h"
#include "geo/amounts.h"

namespace otoro::desktop {
namespace {

QString plain(const std::string& s) { return QString::fromStdString(s); }

/// What a layer is most likely meant as: lines are roads; of points, the many are demand and the few are sites.
Role guess_role(const files::LayerInfo& layer, const QString& path) {
    if (layer.shape == files::Shape::line) return Role::roads;
    const QString name = QFileInfo(path).completeBaseName().toLower();
    for (const char* word : {"post", "site", "school", "depot", "station", "centre", "center", "clinic"})
        if (name.contains(word)) return Role::sites;
    const bool has_state = !files::guess_field(layer.fields, {"state", "status", "capacity"}).empty();
    return has_state ? Role::sites : Role::demand;
}

std::string describe_roads(const files::RoadFields& f) {
    const auto or_none = [](const std::string& s) { return s.empty() ? std::string("none") : "'" + s + "'"; };
    return "class from " + or_none(f.road_class) + ", name from " + or_none(f.name) + ", speed from " + or_none(f.speed) + ", one-way from " + or_none(f.one_way);
}

}  // namespace

BringInPanel::BringInPanel(Session& session, Background& background, QWidget* parent) : QFrame(parent), session_(session), background_(background) {
    setObjectName("popup");
    setAccessibleName(tr("Bring in a file"));
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(16, 12, 16, 12);
    grid->setHorizontalSpacing(12);
    title_ = new QLabel(this);
    title_->setFont(theme::type(1.15, QFont::DemiBold));
    about_ = new QLabel(this);
    about_->setProperty("role", "soft");
    layer_ = new QComboBox(this);
    role_ = new QComboBox(this);
    role_->addItems({tr("roads to travel on"), tr("demand: places to be served"), tr("sites that serve")});
    name_ = new QLineEdit(this);
    crs_ = new QLineEdit(this);
    crs_->setPlaceholderText(tr("the file's own, or an EPSG code such as EPSG:4326"));
    int row = 0;
    grid->addWidget(title_, row++, 0, 1, 4);
    grid->addWidget(about_, row++, 0, 1, 4);
    const auto add = [&](const QString& text, QWidget* w, int r, int c) {
        auto* l = new QLabel(text, this);
        l->setBuddy(w);
        w->setAccessibleName(QString(text).remove('&'));
        grid->addWidget(l, r, c);
        grid->addWidget(w, r, c + 1);
        return l;
    };
    add(tr("&Layer"), layer_, row, 0);
    add(tr("Taken as"), role_, row++, 2);
    add(tr("Called"), name_, row, 0);
    add(tr("Coordinates"), crs_, row++, 2);
    for (int i = 0; i < 6; ++i) {
        fields_[static_cast<std::size_t>(i)] = new QComboBox(this);
        field_labels_[static_cast<std::size_t>(i)] = add(QString(), fields_[static_cast<std::size_t>(i)], row + i / 2, (i % 2) * 2);
    }
    row += 3;
    accept_ = new QPushButton(tr("Bring in"), this);
    accept_->setAccessibleName(tr("Bring this file in"));
    accept_->setDefault(true);
    auto* cancel_button = new QPushButton(tr("Leave it"), this);
    cancel_button->setAccessibleName(tr("Do not bring this file in"));
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(8);
    buttons->addStretch(1);
    buttons->addWidget(cancel_button);
    buttons->addWidget(accept_);
    grid->addLayout(buttons, row, 0, 1, 4);
    grid->setColumnStretch(1, 1);
    grid->setColumnStretch(3, 1);
    connect(layer_, &QComboBox::currentIndexChanged, this, &BringInPanel::layer_changed);
    connect(role_, &QComboBox::currentIndexChanged, this, &BringInPanel::role_changed);
    connect(accept_, &QPushButton::clicked, this, &BringInPanel::accept);
    connect(cancel_button, &QPushButton::clicked, this, &BringInPanel::cancel);
    hide();
}

void BringInPanel::offer(const QString& path) {
    queue_.append(path);
    if (!taken_) next();
}

void BringInPanel::next() {
    path_.clear();
    hide();
    taken_ = !queue_.isEmpty();
    if (!taken_) return;
    const QString path = queue_.takeFirst();
    background_.run([this, path](const Task&) -> Background::Then {
        try {
            auto info = files::describe_file(path.toStdString());
            return [this, path, info = std::move(info)] { show_file(path, info); };
        } catch (const InputError& e) {
            return [this, why = QString::fromUtf8(e.what())] {
                emit background_.failed(why);
                next();
            };
        }
    });
}

void BringInPanel::show_file(const QString& path, files::FileInfo info) {
    path_ = path;
    info_ = std::move(info);
    title_->setText(QFileInfo(path).fileName());
    const QSignalBlocker quiet(layer_);
    layer_->clear();
    for (const auto& l : info_.layers) layer_->addItem(plain(l.name));
    crs_->clear();
    show();
    layer_changed();
    accept_->setFocus();
}

void BringInPanel::layer_changed() {
    const auto i = layer_->currentIndex();
    if (i < 0) return;
    const auto& l = info_.layers[static_cast<std::size_t>(i)];
    const QString records = l.records >= 0 ? tr("%1 records").arg(l.records) : tr("roads");
    about_->setText(tr("%1, %2, coordinate system: %3").arg(plain(info_.format), records, l.crs.empty() ? tr("not named (longitude and latitude unless you say otherwise)") : plain(l.crs)));
    const Role role = guess_role(l, path_);
    name_->setText(role == Role::roads ? tr("roads") : plain(files::set_name_from(path_.toStdString())));
    if (role_->currentIndex() == static_cast<int>(role)) role_changed();
    else role_->setCurrentIndex(static_cast<int>(role));
}

void BringInPanel::role_changed() {
    const auto i = layer_->currentIndex();
    if (i < 0) return;
    const auto& available = info_.layers[static_cast<std::size_t>(i)].fields;
    const bool table = info_.format.find("CSV") != std::string::npos || info_.format.find("Comma") != std::string::npos;
    std::vector<std::pair<QString, std::string>> wanted;
    const bool osm = info_.format == "OpenStreetMap";
    switch (static_cast<Role>(role_->currentIndex())) {
        case Role::roads: {
            const auto g = files::guess_road_fields(available);
            wanted = {{tr("Class from"), g.road_class}, {tr("Name from"), g.name}, {tr("Speed from"), g.speed}, {tr("One-way from"), g.one_way}};
            break;
        }
        case Role::demand: {
            const auto g = files::guess_demand_fields(available);
            wanted = {{tr("Id from"), g.id}, {tr("Weight from"), g.weight}};
            break;
        }
        case Role::sites: {
            const auto g = files::guess_site_fields(available);
            wanted = {{tr("Id from"), g.id}, {tr("Name from"), g.name}, {tr("State from"), g.state}, {tr("Capacity from"), g.capacity}};
            break;
        }
    }
    if (table) {
        wanted.resize(4);
        wanted.push_back({tr("Longitude or x from"), files::guess_field(available, {"lon", "lng", "long", "longitude", "x", "easting"})});
        wanted.push_back({tr("Latitude or y from"), files::guess_field(available, {"lat", "latitude", "y", "northing"})});
    }
    for (std::size_t f = 0; f < fields_.size(); ++f) {
        const bool used = f < wanted.size() && !wanted[f].first.isEmpty();
        field_labels_[f]->setVisible(used);
        fields_[f]->setVisible(used);
        fields_[f]->clear();
        if (!used) continue;
        field_labels_[f]->setText(wanted[f].first);
        fields_[f]->setAccessibleName(wanted[f].first);
        fields_[f]->addItem(tr("(none)"), QString());
        for (const auto& a : available) fields_[f]->addItem(plain(a), plain(a));
        fields_[f]->setCurrentIndex(std::max(0, fields_[f]->findData(plain(wanted[f].second))));
        fields_[f]->setEnabled(!osm);
    }
    const bool roads = role_->currentIndex() == static_cast<int>(Role::roads);
    name_->setEnabled(!roads);
}

std::string BringInPanel::chosen_field(int i) const { return fields_[static_cast<std::size_t>(i)]->currentData().toString().toStdString(); }

files::LayerChoice BringInPanel::layer_choice() const {
    files::LayerChoice c{path_.toStdString(), layer_->currentText().toStdString(), crs_->text().trimmed().toStdString(), "", ""};
    if (field_labels_[4]->isVisibleTo(this)) {
        c.x_field = chosen_field(4);
        c.y_field = chosen_field(5);
    }
    return c;
}

void BringInPanel::accept() {
    if (path_.isEmpty()) return;
    const auto layer = layer_choice();
    const auto name = name_->text().trimmed().toStdString();
    const std::string file = QFileInfo(path_).fileName().toStdString();
    const auto finish = [this, file = plain(file)](const QString& what, std::function<void(service::Study&)> change) -> Background::Then {
        return [this, file, what, change = std::move(change)] {
            session_.edit(tr("bring in %1").arg(file), change);
            emit brought_in(what);
        };
    };
    switch (static_cast<Role>(role_->currentIndex())) {
        case Role::roads: {
            files::RoadChoice choice{layer, files::RoadFields{chosen_field(0), chosen_field(1), chosen_field(2), chosen_field(3)}};
            if (files::is_osm(layer.path)) choice.fields.reset();
            background_.run([=](const Task& task) {
                auto read = files::read_roads(choice, task);
                service::RoadsIn in{std::make_shared<const roads::Network>(join(std::move(read.lines), task)), {file, layer.layer, describe_roads(read.fields), read.flaws}};
                for (const auto& [word, count] : read.unknown_words)
                    in.origin.flaws.push_back({file, 0, "", std::to_string(count) + " records say '" + word + "', which is no known class or one-way word", false});
                const QString what = tr("%1: %2 roads").arg(plain(file)).arg(in.network->link_count());
                return finish(what, [in](service::Study& s) { s = with_roads(std::move(s), in); });
            });
            break;
        }
        case Role::demand:
            background_.run([=, id = chosen_field(0), weight = chosen_field(1)](const Task& task) {
                auto read = files::read_demand({layer, id, weight}, task);
                if (!name.empty()) read.demand.name = name;
                const QString what = tr("%1: %2 demand places").arg(plain(file)).arg(read.demand.count());
                const std::string about = "id from " + (id.empty() ? std::string("the record number") : "'" + id + "'") + ", weight from " + (weight.empty() ? std::string("none") : "'" + weight + "'");
                const service::DemandIn in{std::make_shared<const places::DemandSet>(std::move(read.demand)), {file, layer.layer, about, read.flaws}};
                return finish(what, [in](service::Study& s) { s = with_demand(std::move(s), in); });
            });
            break;
        case Role::sites:
            background_.run([=, id = chosen_field(0), title = chosen_field(1), state = chosen_field(2), capacity = chosen_field(3)](const Task& task) {
                auto read = files::read_sites({layer, id, title, state, capacity}, task);
                if (!name.empty()) read.sites.name = name;
                const QString what = tr("%1: %2 sites").arg(plain(file)).arg(read.sites.count());
                const std::string about = "id from " + (id.empty() ? std::string("the record number") : "'" + id + "'") + ", state from " + (state.empty() ? std::string("none: all open") : "'" + state + "'");
                const service::SitesIn in{std::make_shared<const places::SiteSet>(std::move(read.sites)), {file, layer.layer, about, read.flaws}};
                return finish(what, [in](service::Study& s) { s = with_sites(std::move(s), in); });
            });
            break;
    }
    next();
}

void BringInPanel::cancel() {
    if (open()) next();
}

}  // namespace otoro::desktop
