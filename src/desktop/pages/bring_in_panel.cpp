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
    if (layer.shape == files::Shape::polygon)
        for (const char* word : {"water", "river", "lake", "sea", "coast"})
            if (name.contains(word)) return Role::water;
    for (const char* word : {"post", "site", "school", "depot", "station", "centre", "center", "clinic"})
        if (name.contains(word)) return Role::sites;
    const bool has_state = !files::guess_field(layer.fields, {"state", "status", "capacity"}).empty();
    return has_state ? Role::sites : Role::demand;
}

}  // namespace

BringInPanel::BringInPanel(Session& session, Background& background, QWidget* parent) : QFrame(parent), session_(session), background_(background), counts_(this) {
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
    role_->addItems({tr("roads to travel on"), tr("demand: places to be served"), tr("sites that serve"), tr("water, for the map and for checking")});
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
    for (std::size_t i = 0; i < kFields; ++i) {
        fields_[i] = new QComboBox(this);
        field_labels_[i] = add(QString(), fields_[i], row + static_cast<int>(i) / 2, static_cast<int>(i % 2) * 2);
    }
    row += static_cast<int>(kFields) / 2;
    filter_ = new QLineEdit(this);
    filter_->setPlaceholderText(tr("all; or a condition such as  class IN ('residential', 'service') AND speed >= 30"));
    filter_->setClearButtonEnabled(true);
    filter_effect_ = new QLabel(this);
    filter_effect_->setProperty("role", "soft");
    auto* filter_label = new QLabel(tr("Which records"), this);
    filter_label->setBuddy(filter_);
    filter_->setAccessibleName(tr("Which records are wanted"));
    grid->addWidget(filter_label, row, 0);
    grid->addWidget(filter_, row, 1, 1, 2);
    grid->addWidget(filter_effect_, row++, 3);
    words_ = new QLineEdit(this);
    words_->setPlaceholderText(tr("as they stand; or what words of this file mean, such as  B Road = secondary, FT = along"));
    words_->setClearButtonEnabled(true);
    words_->setAccessibleName(tr("What class and one-way words of the file mean"));
    words_label_ = new QLabel(tr("Words"), this);
    words_label_->setBuddy(words_);
    grid->addWidget(words_label_, row, 0);
    grid->addWidget(words_, row++, 1, 1, 3);
    count_soon_.setSingleShot(true);
    count_soon_.setInterval(250);
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
    connect(filter_, &QLineEdit::textChanged, this, [this] { count_soon_.start(); });
    connect(&count_soon_, &QTimer::timeout, this, &BringInPanel::count_wanted);
    connect(&counts_, &Background::failed, this, [this](const QString& why) { filter_effect_->setText(why); });
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
    title_->setText(files::reach_of(path.toStdString()) == files::Reach::file ? QFileInfo(path).fileName() : path);
    const QSignalBlocker quiet(layer_);
    layer_->clear();
    for (const auto& l : info_.layers) layer_->addItem(plain(l.name));
    if (std::count_if(info_.layers.begin(), info_.layers.end(), [](const files::LayerInfo& l) { return l.shape == files::Shape::line && l.records != 0; }) > 1)
        layer_->addItem(tr("(all layers of lines, merged)"));
    crs_->clear();
    filter_->clear();
    filter_effect_->clear();
    words_->clear();
    show();
    layer_changed();
    accept_->setFocus();
}

bool BringInPanel::all_layers() const { return layer_->currentIndex() >= static_cast<int>(info_.layers.size()); }

const files::LayerInfo& BringInPanel::shown_layer() const {
    if (!all_layers()) return info_.layers[static_cast<std::size_t>(layer_->currentIndex())];
    return *std::find_if(info_.layers.begin(), info_.layers.end(), [](const files::LayerInfo& l) { return l.shape == files::Shape::line && l.records != 0; });
}

void BringInPanel::layer_changed() {
    if (layer_->currentIndex() < 0) return;
    const auto& l = shown_layer();
    const QString records = l.records >= 0 ? tr("%1 records").arg(l.records) : tr("roads");
    about_->setText(tr("%1, %2, coordinate system: %3").arg(plain(info_.format), records, l.crs.empty() ? tr("not named (longitude and latitude unless you say otherwise)") : plain(l.crs)));
    const Role role = guess_role(l, path_);
    name_->setText(role == Role::roads ? tr("roads") : plain(files::set_name_from(path_.toStdString())));
    if (role_->currentIndex() == static_cast<int>(role)) role_changed();
    else role_->setCurrentIndex(static_cast<int>(role));
}

void BringInPanel::role_changed() {
    if (layer_->currentIndex() < 0) return;
    const auto& available = shown_layer().fields;
    const bool table = shown_layer().shape == files::Shape::none && static_cast<Role>(role_->currentIndex()) != Role::roads;
    std::vector<std::pair<QString, std::string>> wanted;
    const bool osm = info_.format == "OpenStreetMap";
    switch (static_cast<Role>(role_->currentIndex())) {
        case Role::roads: {
            const auto g = files::guess_road_fields(available);
            wanted = {{tr("Class from"), g.road_class}, {tr("Name from"), g.name}, {tr("Speed from"), g.speed}, {tr("One-way from"), g.one_way},
                      {tr("Minutes from"), g.minutes}, {tr("Minutes back from"), g.minutes_back}, {tr("Length to compare"), g.length}, {tr("Level from"), g.level}};
            break;
        }
        case Role::water: break;
        case Role::demand: {
            const auto g = files::guess_demand_fields(available);
            wanted = {{tr("Id from"), g.id}, {tr("Weight from"), g.weight}, {tr("Road it is on from"), g.road}};
            break;
        }
        case Role::sites: {
            const auto g = files::guess_site_fields(available);
            wanted = {{tr("Id from"), g.id}, {tr("Name from"), g.name}, {tr("State from"), g.state}, {tr("Capacity from"), g.capacity}};
            break;
        }
    }
    if (table) {
        wanted.resize(kFields - 2);
        wanted.push_back({tr("Longitude or x from"), files::guess_field(available, {"lon", "lng", "long", "longitude", "x", "easting"})});
        wanted.push_back({tr("Latitude or y from"), files::guess_field(available, {"lat", "latitude", "y", "northing"})});
    }
    const bool takes_formulas = static_cast<Role>(role_->currentIndex()) == Role::roads && !osm;
    for (std::size_t f = 0; f < fields_.size(); ++f) {
        const bool used = f < wanted.size() && !wanted[f].first.isEmpty();
        field_labels_[f]->setVisible(used);
        fields_[f]->setVisible(used);
        fields_[f]->clear();
        fields_[f]->setEditable(takes_formulas && f >= 2 && f != 3);
        fields_[f]->setToolTip(fields_[f]->isEditable() ? tr("A field, or a formula after an equals sign: = length_m / 1000 / kmh * 60") : QString());
        if (!used) continue;
        field_labels_[f]->setText(wanted[f].first);
        fields_[f]->setAccessibleName(wanted[f].first);
        fields_[f]->addItem(tr("(none)"), QString());
        for (const auto& a : available) fields_[f]->addItem(plain(a), plain(a));
        fields_[f]->setCurrentIndex(std::max(0, fields_[f]->findData(plain(wanted[f].second))));
        fields_[f]->setEnabled(!osm);
    }
    const auto role = static_cast<Role>(role_->currentIndex());
    for (QWidget* w : std::initializer_list<QWidget*>{words_, words_label_}) w->setVisible(role == Role::roads && !osm);
    name_->setEnabled(role == Role::demand || role == Role::sites);
}

std::string BringInPanel::chosen_field(int i) const {
    const auto* box = fields_[static_cast<std::size_t>(i)];
    const bool typed = box->isEditable() && box->findText(box->currentText()) < 0;
    return (typed ? box->currentText().trimmed() : box->currentData().toString()).toStdString();
}

files::LayerChoice BringInPanel::layer_choice() const {
    files::LayerChoice c{path_.toStdString(), shown_layer().name, crs_->text().trimmed().toStdString(), "", "", filter_->text().trimmed().toStdString()};
    if (field_labels_[kFields - 2]->isVisibleTo(this)) {
        c.x_field = chosen_field(kFields - 2);
        c.y_field = chosen_field(kFields - 1);
    }
    return c;
}

files::RoadChoice BringInPanel::road_choice() const {
    const auto layer = layer_choice();
    files::RoadChoice choice{layer, files::RoadFields{chosen_field(0), chosen_field(1), chosen_field(2), chosen_field(3), chosen_field(4), chosen_field(5), chosen_field(6), chosen_field(7)}};
    for (const QString& pair : words_->text().split(',', Qt::SkipEmptyParts)) {
        const auto at = pair.lastIndexOf('=');
        // What is not a pair is kept as a word without a meaning, which the reader refuses by name.
        choice.fields->words[pair.left(at < 0 ? pair.size() : at).trimmed().toStdString()] = at < 0 ? std::string() : pair.mid(at + 1).trimmed().toStdString();
    }
    if (files::is_osm(layer.path)) choice.fields.reset();
    if (!all_layers()) return choice;
    for (const auto& l : info_.layers) {
        if (l.shape != files::Shape::line || l.records == 0 || l.name == layer.layer) continue;
        choice.more.push_back(layer);
        choice.more.back().layer = l.name;
    }
    return choice;
}

QString BringInPanel::filter_effect() const { return filter_effect_->text(); }

void BringInPanel::count_wanted() {
    counts_.stop();
    filter_effect_->clear();
    if (path_.isEmpty() || filter_->text().trimmed().isEmpty()) return;
    const auto role = static_cast<Role>(role_->currentIndex());
    const auto shape = role == Role::roads ? files::Shape::line : role == Role::water ? files::Shape::polygon : files::Shape::point;
    counts_.run([this, choice = layer_choice(), shape](const Task& task) -> Background::Then {
        const auto n = files::count_records(choice, shape, task);
        return [this, n] { filter_effect_->setText(tr("%1 of %2 records").arg(n.wanted).arg(n.all)); };
    });
}

void BringInPanel::accept() {
    if (path_.isEmpty()) return;
    const auto layer = layer_choice();
    const auto name = name_->text().trimmed().toStdString();
    const QString file = QFileInfo(path_).fileName();
    const auto finish = [this, file](const QString& what, std::function<void(service::Study&)> change) -> Background::Then {
        return [this, file, what, change = std::move(change)] {
            session_.edit(tr("bring in %1").arg(file), change);
            emit brought_in(what);
        };
    };
    switch (static_cast<Role>(role_->currentIndex())) {
        case Role::roads:
            background_.run([=, choice = road_choice()](const Task& task) {
                const auto in = files::bring_in_roads(choice, {}, task);
                return finish(tr("%1: %2 roads").arg(file).arg(in.network->link_count()), [in](service::Study& s) { s = with_roads(std::move(s), in); });
            });
            break;
        case Role::water:
            background_.run([=](const Task& task) {
                const auto in = files::bring_in_water(layer, task);
                return finish(tr("%1: %2 stretches of water").arg(file).arg(in.areas->size()), [in](service::Study& s) { s.water = in; });
            });
            break;
        case Role::demand:
            background_.run([=, id = chosen_field(0), weight = chosen_field(1), road = chosen_field(2)](const Task& task) {
                const auto in = files::bring_in_demand({layer, id, weight, road}, name, task);
                return finish(tr("%1: %2 demand places").arg(file).arg(in.set->count()), [in](service::Study& s) { s = with_demand(std::move(s), in); });
            });
            break;
        case Role::sites:
            background_.run([=, id = chosen_field(0), title = chosen_field(1), state = chosen_field(2), capacity = chosen_field(3)](const Task& task) {
                const auto in = files::bring_in_sites({layer, id, title, state, capacity}, name, task);
                return finish(tr("%1: %2 sites").arg(file).arg(in.set->count()), [in](service::Study& s) { s = with_sites(std::move(s), in); });
            });
            break;
    }
    next();
}

void BringInPanel::cancel() {
    if (open()) next();
}

}  // namespace otoro::desktop
