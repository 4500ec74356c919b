#include "desktop/pages/add_panel.h"

#include <QComboBox>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRadioButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/parts/elided.h"
#include "desktop/parts/preview_view.h"
#include "desktop/parts/scrolled.h"
#include "desktop/parts/shown_name.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/amounts.h"

namespace otoro::desktop {
AddPanel::AddPanel(Session& session, Background& background, QWidget* parent)
    : QFrame(parent), session_(session), background_(background), counts_(this), previews_(this) {
    setObjectName("popup");
    setAccessibleName(tr("Add data"));
    title_ = new ElidedLabel({}, this);
    title_->setFont(theme::type(1.15, QFont::DemiBold));
    about_ = new ElidedLabel({}, this);
    about_->setProperty("role", "soft");
    form_ = new QWidget(this);
    message_ = new QLabel(this);
    message_->setObjectName("message");
    message_->setWordWrap(true);
    message_->setTextFormat(Qt::PlainText);
    build_form();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 12, 16, 12);
    column->addWidget(title_);
    column->addWidget(about_);
    column->addWidget(scroll_ = new Scrolled(form_, this));
    column->addWidget(message_);
    column->addLayout(build_buttons());
    connect_parts();
    hide();
}

void AddPanel::build_form() {
    auto* grid = new QGridLayout(form_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(12);
    layer_ = new QComboBox(this);
    role_ = new QComboBox(this);
    for (const auto* kind : added_kinds()) role_->addItem(kind->title());
    name_ = new QLineEdit(this);
    crs_ = new QLineEdit(this);
    crs_->setToolTip(
        tr("An EPSG code names the coordinate system that a file's numbers are in. Leave it empty unless its places "
           "land in the wrong spot."));
    crs_->setPlaceholderText(tr("the file's own, or an EPSG code such as EPSG:4326"));
    int row = 0;
    // Two beside one another, or one at large type.
    const int beside = theme::is_large() ? 1 : 2;
    const auto add = [&](const QString& text, QWidget* w, int nth) {
        auto* l = new QLabel(text, this);
        l->setBuddy(w);
        w->setAccessibleName(QString(text).remove('&'));
        grid->addWidget(l, row + nth / beside, nth % beside * 2);
        grid->addWidget(w, row + nth / beside, nth % beside * 2 + 1);
        return l;
    };
    add(tr("&Layer"), layer_, 0);
    add(tr("Taken as"), role_, 1);
    add(tr("Called"), name_, 2);
    add(tr("Coordinates"), crs_, 3);
    row += 4 / beside;
    for (std::size_t i = 0; i < kFields; ++i) {
        fields_[i] = new QComboBox(this);
        field_labels_[i] = add(QString(), fields_[i], static_cast<int>(i));
    }
    row += static_cast<int>(kFields) / beside;
    build_rest_of_form(*grid, row);
}

void AddPanel::build_rest_of_form(QGridLayout& grid, int row) {
    filter_ = new QLineEdit(this);
    filter_->setPlaceholderText(tr("all; or a condition such as  class IN ('residential', 'service') AND speed >= 30"));
    filter_->setClearButtonEnabled(true);
    filter_effect_ = new QLabel(this);
    filter_effect_->setProperty("role", "soft");
    auto* filter_label = new QLabel(tr("Which records"), this);
    filter_label->setBuddy(filter_);
    filter_->setAccessibleName(tr("Which records are wanted"));
    grid.addWidget(filter_label, row, 0);
    if (theme::is_large()) {
        grid.addWidget(filter_, row++, 1);
        grid.addWidget(filter_effect_, row++, 1);
    } else {
        grid.addWidget(filter_, row, 1, 1, 2);
        grid.addWidget(filter_effect_, row++, 3);
    }
    words_ = new QLineEdit(this);
    words_->setPlaceholderText(
        tr("as they stand; or what words of this file mean, such as  B Road = secondary, X = as drawn"));
    words_->setClearButtonEnabled(true);
    words_->setAccessibleName(tr("What class and one-way words of the file mean"));
    words_label_ = new QLabel(tr("Words"), this);
    words_label_->setBuddy(words_);
    grid.addWidget(words_label_, row, 0);
    grid.addWidget(words_, row++, 1, 1, 3);
    for (auto* box : findChildren<QComboBox*>()) {
        constexpr int kLetters = 8;  // names of layers and fields may be of any length
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(kLetters);
    }
    clash_ = new QWidget(this);
    auto* clash_row = new QHBoxLayout(clash_);
    clash_row->setContentsMargins(0, 2, 0, 2);
    clash_text_ = new QLabel(clash_);
    replace_ = new QRadioButton(tr("replace"), clash_);
    beside_ = new QRadioButton(tr("add beside"), clash_);
    replace_->setAccessibleName(tr("Replace the set of this name"));
    beside_->setAccessibleName(tr("Add beside the set of this name, under another name"));
    beside_->setChecked(true);
    clash_row->addWidget(clash_text_);
    clash_row->addWidget(beside_);
    clash_row->addWidget(replace_);
    clash_row->addStretch(1);
    grid.addWidget(clash_, row++, 0, 1, 4);
    preview_ = new PreviewView(this);
    grid.addWidget(preview_, row++, 0, 1, 4);
    grid.setColumnStretch(1, 1);
    grid.setColumnStretch(3, 1);
}

QLayout* AddPanel::build_buttons() {
    accept_ = new QPushButton(tr("Add"), this);
    accept_->setAccessibleName(tr("Add this file"));
    accept_->setDefault(true);
    accept_all_ = new QPushButton(this);
    accept_all_->setAccessibleName(tr("Add this file and all that wait"));
    accept_all_->setToolTip(tr("Each as it is recognised; it stops where something has to be decided"));
    cancel_ = new QPushButton(tr("Skip"), this);
    cancel_->setAccessibleName(tr("Skip this file"));
    more_ = new ElidedLabel({}, this);
    more_->setProperty("role", "soft");
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(8);
    buttons->addWidget(more_, 1);
    buttons->addWidget(cancel_);
    buttons->addWidget(accept_all_);
    buttons->addWidget(accept_);
    return buttons;
}

void AddPanel::connect_parts() {
    count_soon_.setSingleShot(true);
    count_soon_.setInterval(250);
    connect(name_, &QLineEdit::textChanged, this, &AddPanel::refresh_clash);
    connect(&session_.document, &Document::data_changed, this, &AddPanel::refresh_clash);
    connect(layer_, &QComboBox::currentIndexChanged, this, &AddPanel::layer_changed);
    connect(role_, &QComboBox::currentIndexChanged, this, &AddPanel::role_changed);
    connect(accept_, &QPushButton::clicked, this, &AddPanel::accept);
    connect(accept_all_, &QPushButton::clicked, this, &AddPanel::accept_all);
    connect(cancel_, &QPushButton::clicked, this, &AddPanel::cancel);
    preview_soon_.setSingleShot(true);
    preview_soon_.setInterval(60);
    connect(&preview_soon_, &QTimer::timeout, this, &AddPanel::preview);
    connect(&previews_, &Background::failed, this, [this](const QString& why) { preview_->clear(why); });
    connect(crs_, &QLineEdit::editingFinished, this, &AddPanel::preview_soon);
    for (auto* field : fields_)
        connect(field, &QComboBox::activated, this, &AddPanel::preview_soon);  // a table's coordinates, perhaps
    connect(filter_, &QLineEdit::textChanged, this, [this] { count_soon_.start(); });
    connect(&count_soon_, &QTimer::timeout, this, &AddPanel::count_wanted);
    connect(&counts_, &Background::failed, this, [this](const QString& why) { filter_effect_->setText(why); });
}

QStringList AddPanel::waiting() const {
    QStringList all = queue_;
    if (stage_ != Stage::none) all.prepend(path_);
    return all;
}

QString AddPanel::message() const { return message_->isVisibleTo(this) ? message_->text() : QString(); }

void AddPanel::say(const QString& text, bool trouble) {
    message_->setText(text);
    message_->setVisible(!text.isEmpty());
    message_->setStyleSheet(trouble ? QString("color: %1; font-weight: 600;").arg(theme::kNotMet.name()) : QString());
}

void AddPanel::enter(Stage stage) {
    stage_ = stage;
    emit waiting_changed();  // first, so that room is made before it is taken
    setVisible(stage != Stage::none);
    const bool form = stage == Stage::shown || stage == Stage::adding;
    scroll_->setVisible(form);
    about_->setVisible(form);
    form_->setEnabled(stage == Stage::shown);
    accept_->setVisible(form);
    accept_->setEnabled(stage == Stage::shown);
    accept_all_->setVisible(form && !queue_.isEmpty());
    accept_all_->setEnabled(stage == Stage::shown);
    accept_all_->setText(tr("Add all %1").arg(queue_.size() + 1));
    if (stage == Stage::none) all_ = false;
    if (stage == Stage::looking) say(tr("Looking at what is in it\u2026"), false);
    if (stage == Stage::adding) say(tr("Being added\u2026"), false);
    QString then;
    if (!queue_.isEmpty()) then = tr("Then: %1").arg(elided(shown_name(queue_.front())));
    if (queue_.size() > 1) then += tr(" and %1 more").arg(queue_.size() - 1);
    more_->set_whole(then);
}

QString AddPanel::shown_name(const QString& location) {
    return files::reach_of(location.toStdString()) == files::Reach::file
               ? QFileInfo(location).fileName()
               : plain(files::without_password(location.toStdString()));
}

void AddPanel::offer(const QString& path, const QString& note) {
    queue_.append(path);
    if (!note.isEmpty()) notes_.insert(path, note);
    if (stage_ == Stage::none)
        next();
    else
        enter(stage_);
}

void AddPanel::next() {
    ++looked_;
    path_.clear();
    if (queue_.isEmpty()) return enter(Stage::none);
    path_ = queue_.takeFirst();
    title_->set_whole(shown_name(path_));
    enter(Stage::looking);
    work_ = background_.run(
        [this, path = path_, number = looked_](const Task& task) -> Background::Then {
            auto info = files::describe_file(path.toStdString(), task);
            return [this, path, number, info = std::move(info)] {
                if (number == looked_) show_file(path, info);
            };
        },
        [this, number = looked_](const QString&) {
            if (number == looked_) next();  // what was wrong is said; the others go on
        });
}

void AddPanel::show_file(const QString& path, files::FileInfo info) {
    path_ = path;
    info_ = std::move(info);
    const QSignalBlocker quiet(layer_);
    layer_->clear();
    for (const auto& l : info_.layers) layer_->addItem(plain(l.name));
    if (std::count_if(info_.layers.begin(), info_.layers.end(),
                      [](const files::LayerInfo& l) { return l.shape == files::Shape::line && l.records != 0; }) > 1)
        layer_->addItem(tr("(all layers of lines, merged)"));
    crs_->clear();
    filter_->clear();
    filter_effect_->clear();
    words_->clear();
    beside_->setChecked(true);
    say({}, false);
    layer_changed();
    enter(Stage::shown);
    accept_->setFocus();
    if (all_ && needs_no_decision()) return accept();
    all_ = false;
}

bool AddPanel::needs_no_decision() const { return !clash_->isVisibleTo(form_); }

void AddPanel::accept_all() {
    all_ = true;
    accept();
}

const AddedKind& AddPanel::kind() const {
    return *added_kinds()[static_cast<std::size_t>(std::max(0, role_->currentIndex()))];
}

std::vector<std::string> AddPanel::names_taken() const {
    const auto sets = kind().sets();
    return sets ? service::set_names(session_.document.study(), *sets) : std::vector<std::string>();
}

void AddPanel::refresh_clash() {
    if (stage_ == Stage::none) return;
    const QString replaced = kind().takes_place_of(session_.document.study());
    const auto name = name_->text().trimmed().toStdString();
    const auto taken = names_taken();
    const bool clash = std::find(taken.begin(), taken.end(), name) != taken.end();
    clash_->setVisible(!replaced.isEmpty() || clash);
    for (auto* b : {replace_, beside_}) b->setVisible(clash);
    clash_text_->setText(clash ? tr("There is a set of this name already:") : replaced);
    if (clash)
        beside_->setText(
            on_button(tr("add beside, as \u2018%1\u2019").arg(elided(plain(service::free_name(name, taken))))));
}

std::string AddPanel::wanted_name() const {
    const auto name = name_->text().trimmed().toStdString();
    return replace_->isChecked() ? name : service::free_name(name, names_taken());
}

bool AddPanel::all_layers() const { return layer_->currentIndex() >= static_cast<int>(info_.layers.size()); }

const files::LayerInfo& AddPanel::shown_layer() const {
    if (!all_layers()) return info_.layers[static_cast<std::size_t>(layer_->currentIndex())];
    return *std::find_if(info_.layers.begin(), info_.layers.end(),
                         [](const files::LayerInfo& l) { return l.shape == files::Shape::line && l.records != 0; });
}

void AddPanel::layer_changed() {
    if (layer_->currentIndex() < 0) return;
    const auto& l = shown_layer();
    const QString records =
        l.records >= 0 ? counted(static_cast<std::uint64_t>(l.records), tr("record"), tr("records")) : tr("roads");
    about_->set_whole(
        tr("%1, %2, coordinate system: %3")
            .arg(plain(info_.format), records,
                 l.crs.empty() ? tr("not named (longitude and latitude unless you say otherwise)") : plain(l.crs)));
    const int likely = likely_kind(l, path_);
    name_->setText(likely == static_cast<int>(Role::roads) ? tr("roads")
                                                           : plain(files::set_name_from(path_.toStdString())));
    if (role_->currentIndex() == likely)
        role_changed();
    else
        role_->setCurrentIndex(likely);
}

void AddPanel::role_changed() {
    if (layer_->currentIndex() < 0) return;
    const auto& available = shown_layer().fields;
    const bool table = shown_layer().shape == files::Shape::none && kind().shape() != files::Shape::line &&
                       kind().shape() != files::Shape::none;
    const bool osm = info_.format == "OpenStreetMap";
    auto wanted = kind().fields(shown_layer());
    if (table) {
        wanted.resize(kFields - 2);
        wanted.push_back({tr("Longitude or x from"), {}});
        wanted.push_back({tr("Latitude or y from"), {}});
    }
    for (std::size_t f = 0; f < fields_.size(); ++f) {
        const bool used = f < wanted.size() && !wanted[f].label.isEmpty();
        field_labels_[f]->setVisible(used);
        fields_[f]->setVisible(used);
        fields_[f]->clear();
        fields_[f]->setEditable(used && wanted[f].formula && !osm);
        fields_[f]->setToolTip(fields_[f]->isEditable()
                                   ? tr("A field, or a formula after an equals sign: = length_m / 1000 / kmh * 60")
                                   : QString());
        if (!used) continue;
        field_labels_[f]->setText(wanted[f].label);
        fields_[f]->setAccessibleName(wanted[f].label);
        const bool coordinate = table && f + 2 >= kFields;
        // Which of several pairs fits depends on the coordinate system: unless one is chosen, it is found when the file
        // is read.
        const auto pair = files::guess_coordinates(available);
        const std::string& guessed = f + 2 == kFields ? pair.first : pair.second;
        fields_[f]->addItem(!coordinate       ? tr("(none)")
                            : guessed.empty() ? tr("(none found by name)")
                                              : tr("%1 (by name)").arg(plain(guessed)),
                            QString());
        for (const auto& a : available) fields_[f]->addItem(plain(a), plain(a));
        fields_[f]->setCurrentIndex(std::max(0, fields_[f]->findData(plain(wanted[f].guessed))));
        fields_[f]->setEnabled(!osm);
    }
    for (QWidget* w : std::initializer_list<QWidget*>{words_, words_label_})
        w->setVisible(kind().takes_words() && !osm);
    name_->setEnabled(kind().sets().has_value());
    refresh_clash();
    preview_soon();
}

std::string AddPanel::chosen_field(int i) const {
    const auto* box = fields_[static_cast<std::size_t>(i)];
    const bool typed = box->isEditable() && box->findText(box->currentText()) < 0;
    return (typed ? box->currentText().trimmed() : box->currentData().toString()).toStdString();
}

files::LayerChoice AddPanel::layer_choice() const {
    files::LayerChoice c{path_.toStdString(),
                         shown_layer().name,
                         crs_->text().trimmed().toStdString(),
                         "",
                         "",
                         filter_->text().trimmed().toStdString()};
    if (field_labels_[kFields - 2]->isVisibleTo(this)) {
        c.x_field = chosen_field(kFields - 2);
        c.y_field = chosen_field(kFields - 1);
    }
    return c;
}

AddChoice AddPanel::choice() const {
    AddChoice choice;
    choice.layer = layer_choice();
    choice.name = wanted_name();
    for (int i = 0; i < static_cast<int>(kFields); ++i) choice.fields.push_back(chosen_field(i));
    for (const QString& pair : words_->text().split(',', Qt::SkipEmptyParts)) {
        const auto at = pair.lastIndexOf('=');
        // What is not a pair is kept as a word without a meaning, which the reader refuses by name.
        choice.words[pair.left(at < 0 ? pair.size() : at).trimmed().toStdString()] =
            at < 0 ? std::string() : pair.mid(at + 1).trimmed().toStdString();
    }
    if (!all_layers()) return choice;
    for (const auto& l : info_.layers) {
        if (l.shape != files::Shape::line || l.records == 0 || l.name == choice.layer.layer) continue;
        choice.more.push_back(choice.layer);
        choice.more.back().layer = l.name;
    }
    return choice;
}

QString AddPanel::filter_effect() const { return filter_effect_->text(); }

void AddPanel::count_wanted() {
    counts_.stop();
    filter_effect_->clear();
    if (path_.isEmpty() || filter_->text().trimmed().isEmpty()) return;
    const auto shape = kind().shape();
    preview_soon();
    counts_.run([this, choice = layer_choice(), shape](const Task& task) -> Background::Then {
        const auto n = files::count_records(choice, shape, task);
        return [this, n] {
            filter_effect_->setText(tr("%1 of %2")
                                        .arg(number(static_cast<std::uint64_t>(n.wanted)),
                                             counted(static_cast<std::uint64_t>(n.all), tr("record"), tr("records"))));
        };
    });
}

void AddPanel::preview() {
    previews_.stop();
    if (stage_ != Stage::shown) return;
    if (files::is_osm(path_.toStdString())) return preview_->clear(tr("Files of OpenStreetMap have no preview."));
    const auto shape = kind().shape();
    const auto& in = session_.document.study().roads;
    const geo::Box roads = in && shape != files::Shape::line ? in->network->extent() : geo::Box();
    previews_.run(
        [this, choice = layer_choice(), shape, roads, number = looked_](const Task& task) -> Background::Then {
            constexpr std::size_t kRows = 5, kShapes = 3'000;
            auto found = files::preview(choice, shape, kRows, kShapes, task);
            return [this, roads, number, found = std::move(found)] {
                if (number == looked_) preview_->show(found, roads);
            };
        });
}

void AddPanel::accept() {
    if (stage_ != Stage::shown) return;
    if (kind().sets() && name_->text().trimmed().isEmpty()) return say(tr("Give the set a name."), true);
    const QString file = shown_name(path_);
    const QString note = notes_.value(path_);
    const auto finish = [this, file, note, number = looked_,
                         document = session_.document.point().document](const Added& added) -> Background::Then {
        return [this, file, note, number, document, added] {
            if (number != looked_) return;  // left meanwhile
            if (document != session_.document.point().document) {
                enter(Stage::shown);
                return say(tr("Another study was opened while this was being read. Press \u2018Add\u2019 to add it to "
                              "that one."),
                           true);
            }
            session_.document.edit(tr("add %1").arg(elided(file)), added.change);
            next();
            emit added_file(added.what, note);
        };
    };
    Background::Work work = [&kind = kind(), choice = choice(), finish](const Task& task) {
        return finish(kind.add(choice, task));
    };
    enter(Stage::adding);
    work_ = background_.run(std::move(work), [this, number = looked_](const QString& why) {
        if (number != looked_) return;
        all_ = false;
        enter(Stage::shown);
        say(why.isEmpty() ? tr("It was stopped and not added.") : why, !why.isEmpty());
        accept_->setFocus();
    });
}

void AddPanel::cancel() {
    if (stage_ == Stage::none) return;
    if (stage_ != Stage::shown) background_.stop(work_);  // the other files go on
    next();
}

}  // namespace otoro::desktop
