#include "desktop/pages/profile_sheet.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/parts/number_box.h"
#include "desktop/parts/save_place.h"
#include "desktop/parts/sheets.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "files/profile_file.h"

namespace otoro::desktop {
namespace {

constexpr int kMinuteDecimals = 3;
/// A time as the sheet shows it.
double shown_minutes(Millis t) {
    const double step = std::pow(10, kMinuteDecimals);
    return std::round(t.minutes() * step) / step;
}

QDoubleSpinBox* spin(QWidget* parent, double most, const QString& suffix, const QString& name, int decimals = 1) {
    auto* s = new NumberBox(parent);
    s->setRange(0, most);
    s->setDecimals(decimals);
    s->setSuffix(suffix);
    s->setAccessibleName(name);
    s->setKeyboardTracking(false);
    return s;
}

}  // namespace

ProfileSheet::ProfileSheet(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setAttribute(Qt::WA_DeleteOnClose);
    setObjectName("profiles");
    setWindowTitle(tr("Travel profiles"));
    resize(980, 700);
    list_ = new QListWidget(this);
    list_->setAccessibleName(tr("Travel profiles"));
    list_->setFixedWidth(theme::scaled(190));
    list_->setTextElideMode(Qt::ElideMiddle);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    note_ = new QLabel(this);
    note_->setProperty("role", "soft");
    note_->setWordWrap(true);
    build_table();
    auto* form = build_rules();
    build_buttons(form);
    connect_parts();
    no_default_buttons(*this);
    fill_list();
    // Start on what the question uses.
    const auto& used = session_.document.question().profile;
    for (int r = 0; r < list_->count(); ++r)
        if (list_->item(r)->data(Qt::UserRole).toString() ==
                (used.name.empty() ? QString::fromUtf8(travel::name(used.mode).data()) : plain(used.name)) &&
            (r < kStandard) == used.name.empty())
            list_->setCurrentRow(r);
}

void ProfileSheet::build_table() {
    table_ = new QTableWidget(static_cast<int>(roads::kRoadClasses), 3, this);
    table_->setAccessibleName(tr("Classes of road: allowed, and how fast"));
    table_->setHorizontalHeaderLabels({tr("class of road"), tr("may use"), QString::fromStdString(speed_unit())});
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(26);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int r = 0; r < table_->rowCount(); ++r) {
        auto* word =
            new QTableWidgetItem(QString::fromUtf8(name(static_cast<roads::RoadClass>(r)).data()).replace('_', ' '));
        word->setFlags(Qt::ItemIsEnabled);
        table_->setItem(r, 0, word);
        auto* may = new QTableWidgetItem;
        may->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable);
        table_->setItem(r, 1, may);
        auto* kmh = new QTableWidgetItem;
        kmh->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        table_->setItem(r, 2, kmh);
    }
}

QFormLayout* ProfileSheet::build_rules() {
    one_ = new QCheckBox(tr("one speed on all roads"), this);
    speed_ = spin(this, in_speed_units(Speed::km_per_hour(kFastestKmh)), " " + QString::fromStdString(speed_unit()),
                  tr("The one speed"));
    stated_ = new QCheckBox(tr("use a speed that the file states"), this);
    one_way_ = new QCheckBox(tr("obey one-way rules"), this);
    slope_ = new QCheckBox(tr("climbing costs time (where heights are known)"), this);
    bans_ = new QCheckBox(tr("obey forbidden turns"), this);
    const std::array<QString, 5> turn_names{tr("turning left"), tr("going straight on"), tr("turning right"),
                                            tr("turning round"), tr("passing signals")};
    auto* form = new QFormLayout;
    form->setVerticalSpacing(6);
    form->addRow(one_, speed_);
    for (auto* c : {stated_, one_way_, slope_, bans_}) {
        c->setAccessibleName(c->text());
        form->addRow(c);
    }
    one_->setAccessibleName(one_->text());
    back_ = new QComboBox(this);
    back_->addItems({tr("on any road"), tr("only where the road ends"), tr("no")});
    back_->setAccessibleName(tr("May drivers turn round?"));
    form->addRow(tr("May drivers turn round?"), back_);
    auto* heading = new QPushButton(this);
    heading->setObjectName("flat");
    heading->setCheckable(true);
    heading->setAccessibleName(tr("Time lost at junctions"));
    form->addRow(heading);
    auto* details = new QWidget(this);
    auto* minutes = new QFormLayout(details);
    minutes->setContentsMargins(theme::scaled(12), 0, 0, 0);
    for (std::size_t i = 0; i < turns_.size(); ++i) {
        turns_[i] = spin(this, 10, tr(" min"), tr("Minutes for %1").arg(turn_names[i]));
        turns_[i]->setDecimals(kMinuteDecimals);
        turns_[i]->setSingleStep(0.05);
        minutes->addRow(turn_names[i], turns_[i]);
    }
    form->addRow(details);
    const auto fold = [heading, details](bool open) {
        heading->setText(open ? tr("\u25be Time lost at junctions") : tr("\u25b8 Time lost at junctions"));
        details->setVisible(open);
    };
    connect(heading, &QPushButton::toggled, this, fold);
    fold(false);
    return form;
}

void ProfileSheet::build_buttons(QFormLayout* form) {
    copy_ = new QPushButton(tr("Copy"), this);
    copy_->setToolTip(tr("Makes a profile of your own from this one"));
    remove_ = new QPushButton(tr("Remove"), this);
    in_ = new QPushButton(tr("Import\u2026"), this);
    out_ = new QPushButton(tr("Export\u2026"), this);
    use_ = new QPushButton(tr("Use in the question"), this);
    for (auto* b : {copy_, remove_, in_, out_, use_}) b->setAccessibleName(tr("%1 (travel profile)").arg(b->text()));
    auto* left = new QVBoxLayout;
    left->setSpacing(6);
    left->addWidget(list_, 1);
    for (auto* b : {copy_, remove_, in_, out_}) left->addWidget(b);
    auto* right = new QVBoxLayout;
    right->addLayout(form);
    right->addStretch(1);
    right->addWidget(use_);
    auto* middle = new QVBoxLayout;
    middle->addWidget(note_);
    middle->addWidget(table_, 1);
    auto* box = new QHBoxLayout(this);
    box->setSpacing(16);
    box->addLayout(left);
    box->addLayout(middle, 1);
    box->addLayout(right);
}

void ProfileSheet::connect_parts() {
    connect(list_, &QListWidget::currentRowChanged, this, &ProfileSheet::show_profile);
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (!showing_) rename(list_->row(item), item->text());
    });
    connect(table_, &QTableWidget::itemChanged, this, &ProfileSheet::take);
    for (auto* c : {one_, stated_, one_way_, slope_, bans_}) connect(c, &QCheckBox::toggled, this, &ProfileSheet::take);
    connect(speed_, &QDoubleSpinBox::valueChanged, this, &ProfileSheet::take);
    for (auto* t : turns_) connect(t, &QDoubleSpinBox::valueChanged, this, &ProfileSheet::take);
    connect(back_, &QComboBox::currentIndexChanged, this, &ProfileSheet::take);
    connect(copy_, &QPushButton::clicked, this, &ProfileSheet::copy_current);
    connect(remove_, &QPushButton::clicked, this, &ProfileSheet::remove_current);
    connect(use_, &QPushButton::clicked, this, &ProfileSheet::use_current);
    connect(out_, &QPushButton::clicked, this, [this] {
        const auto path = ask_where_to_save(this, tr("Export the profile"),
                                            plain(travel::label(current())).replace('/', '-').left(100) + ".json",
                                            {{tr("Travel profiles"), ".json"}});
        if (path) export_to(*path);
    });
    connect(in_, &QPushButton::clicked, this, [this] {
        const QString path =
            QFileDialog::getOpenFileName(this, tr("Import a profile"), {}, tr("Travel profiles (*.json)"));
        if (!path.isEmpty()) import_from(path);
    });
    connect(&session_.document, &Document::notes_changed, this, &ProfileSheet::fill_list);
}

void ProfileSheet::fill_list() {
    showing_ = true;
    const int row = std::max(0, list_->currentRow());
    list_->clear();
    for (const char* mode : {"drive", "respond", "walk", "cycle"}) {
        list_->addItem(QString::fromUtf8(mode));
        list_->item(list_->count() - 1)->setData(Qt::UserRole, QString::fromUtf8(mode));
    }
    for (const auto& p : session_.document.study().profiles) {
        auto* item = new QListWidgetItem(plain(p.name), list_);
        item->setData(Qt::UserRole, plain(p.name));
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        item->setFont(theme::type(1.0, QFont::DemiBold));
    }
    list_->setCurrentRow(std::min(row, list_->count() - 1));
    showing_ = false;
    show_profile();
}

std::optional<std::size_t> ProfileSheet::own_index() const {
    const auto index = static_cast<std::size_t>(std::max(0, list_->currentRow() - kStandard));
    if (list_->currentRow() < kStandard || index >= session_.document.study().profiles.size()) return std::nullopt;
    return index;
}

bool ProfileSheet::is_own() const { return own_index().has_value(); }

travel::Profile ProfileSheet::current() const {
    const int row = list_->currentRow();
    if (const auto own = own_index()) return session_.document.study().profiles[*own];
    return {static_cast<travel::Mode>(std::clamp(row, 0, kStandard - 1)), std::nullopt};
}

void ProfileSheet::show_profile() {
    if (showing_) return;
    showing_ = true;
    const auto p = current();
    const bool own = is_own();
    const auto rules = table_of(p);
    for (int r = 0; r < table_->rowCount(); ++r) {
        const auto& rule = rules[static_cast<std::size_t>(r)];
        table_->item(r, 1)->setCheckState(rule.allowed ? Qt::Checked : Qt::Unchecked);
        table_->item(r, 1)->setFlags(own ? Qt::ItemIsEnabled | Qt::ItemIsUserCheckable : Qt::NoItemFlags);
        table_->item(r, 2)->setText(QString::fromStdString(said_shortly(in_speed_units(rule.speed), 2)));
        table_->item(r, 2)->setFlags(own ? Qt::ItemIsEnabled | Qt::ItemIsEditable | Qt::ItemIsSelectable
                                         : Qt::ItemIsEnabled);
        table_->item(r, 2)->setForeground(rule.allowed ? theme::kInk : theme::kSoftInk);
    }
    const auto t = turning_of(p);
    one_->setChecked(p.one_speed.has_value());
    speed_->setValue(p.one_speed ? in_speed_units(*p.one_speed) : std::round(in_speed_units(Speed::km_per_hour(40))));
    stated_->setChecked(p.heeds_stated_speed);
    one_way_->setChecked(obeys_one_way(p));
    slope_->setChecked(p.slope);
    bans_->setChecked(t.obeys_bans);
    const std::array<Millis, 5> times{t.left, t.straight, t.right, t.back, t.signal};
    for (std::size_t i = 0; i < turns_.size(); ++i) turns_[i]->setValue(shown_minutes(times[i]));
    back_->setCurrentIndex(static_cast<int>(t.where_back));
    for (QWidget* w : std::initializer_list<QWidget*>{one_, stated_, one_way_, slope_, bans_, back_, turns_[0],
                                                      turns_[1], turns_[2], turns_[3], turns_[4]})
        w->setEnabled(own);
    speed_->setEnabled(own && p.one_speed);
    remove_->setEnabled(own);
    note_->setText(
        own ? tr("Yours, from \u2018%1\u2019. Changes count at once and can be undone; double-click its name to "
                 "rename it.")
                  .arg(QString::fromUtf8(travel::name(p.mode).data()))
            : tr("A standard profile. Press Copy to make one of your own that can be changed."));
    showing_ = false;
}

void ProfileSheet::take() {
    if (showing_ || !is_own()) return;
    auto p = current();
    auto rules = table_of(p);
    for (int r = 0; r < table_->rowCount(); ++r) {
        auto& rule = rules[static_cast<std::size_t>(r)];
        rule.allowed = table_->item(r, 1)->checkState() == Qt::Checked;
        bool ok = false;
        const double typed = table_->item(r, 2)->text().replace(',', '.').toDouble(&ok);
        const Speed speed = ok && typed > 0 && typed <= kFastestKmh ? from_speed_units(typed) : Speed();
        if (speed.km_per_hour() >= kSlowestKmh && speed.km_per_hour() <= kFastestKmh) {
            // Only what was changed: what is shown is rounded.
            if (std::abs(typed - std::round(in_speed_units(rule.speed) * 100) / 100) > 1e-9) rule.speed = speed;
        } else {
            emit trouble(tr("A speed of \u2018%1\u2019 is not between %2 and %3; the old one stays.")
                             .arg(table_->item(r, 2)->text(),
                                  QString::fromStdString(describe(Speed::km_per_hour(kSlowestKmh))),
                                  QString::fromStdString(describe(Speed::km_per_hour(kFastestKmh)))));
        }
    }
    p.table = rules;
    const double one = p.one_speed ? in_speed_units(*p.one_speed) : 0;
    p.one_speed =
        one_->isChecked()
            ? std::optional(std::max(from_speed_units(value_near(*speed_, one)), Speed::km_per_hour(kSlowestKmh)))
            : std::nullopt;
    p.heeds_stated_speed = stated_->isChecked();
    p.one_way = one_way_->isChecked();
    p.slope = slope_->isChecked();
    const auto was = turning_of(p);
    const std::array<Millis, 5> times{was.left, was.straight, was.right, was.back, was.signal};
    const auto ms = [&](std::size_t i) {
        // A time that has more digits than are shown stays what it is until it is changed.
        const bool as_shown = std::abs(turns_[i]->value() - shown_minutes(times[i])) < 1e-9;
        return as_shown ? times[i] : Millis(std::llround(turns_[i]->value() * 60'000));
    };
    p.turning = travel::Turning{
        ms(0), ms(1), ms(2), ms(3), ms(4), static_cast<travel::TurningBack>(back_->currentIndex()), bans_->isChecked()};
    const auto index = own_index();
    if (!index) return;
    session_.document.edit(tr("travel profile"), [&](service::Study& s) {
        travel::Profile& known = s.profiles[*index];
        for (auto& q : s.questions) {
            travel::Profile& asked = q.profile;
            if (asked.name != known.name) continue;
            // What the question says beside the profile stays.
            const bool own_speed = asked.one_speed != known.one_speed;
            const auto said = asked.one_speed;
            asked = p;
            if (own_speed) asked.one_speed = said;
        }
        known = p;
    });
    show_profile();
}

void ProfileSheet::copy_current() {
    auto p = current();
    std::vector<std::string> taken{"drive", "respond", "walk", "cycle"};
    for (const auto& o : session_.document.study().profiles) taken.push_back(o.name);
    p.name = service::free_name(travel::label(p), taken);
    p.table = table_of(p);
    session_.document.edit(tr("copy a profile"), [&](service::Study& s) { s.profiles.push_back(p); });
    list_->setCurrentRow(list_->count() - 1);
}

void ProfileSheet::remove_current() {
    const auto index = own_index();
    if (!index) return;
    session_.document.edit(tr("remove a profile"), [&](service::Study& s) {
        // A question that uses it goes back to the standard one it came from.
        for (auto& q : s.questions)
            if (q.profile.name == s.profiles[*index].name) q.profile = {s.profiles[*index].mode, std::nullopt};
        s.profiles.erase(s.profiles.begin() + static_cast<std::ptrdiff_t>(*index));
    });
}

void ProfileSheet::rename(int row, const QString& name) {
    const auto wanted = name.trimmed().toStdString();
    const auto& profiles = session_.document.study().profiles;
    const auto index = static_cast<std::size_t>(row - kStandard);
    const bool taken = travel::parse_mode(wanted) ||
                       std::any_of(profiles.begin(), profiles.end(), [&](const auto& p) { return p.name == wanted; });
    if (row < kStandard || index >= profiles.size() || wanted == profiles[index].name) return;
    if (wanted.empty() || taken) return fill_list();
    session_.document.edit(tr("rename a profile"), [&](service::Study& s) {
        for (auto& q : s.questions)
            if (q.profile.name == s.profiles[index].name) q.profile.name = wanted;
        s.profiles[index].name = wanted;
    });
}

void ProfileSheet::use_current() {
    session_.document.edit(tr("way of travelling"), [p = current()](service::Study& s) { s.question().profile = p; });
}

void ProfileSheet::export_to(const QString& path) {
    try {
        files::write_profile(current(), path.toStdString());
    } catch (const InputError& e) {
        emit trouble(QString::fromUtf8(e.what()));
    }
}

bool ProfileSheet::import_from(const QString& path) {
    try {
        auto p = files::read_profile(path.toStdString());
        std::vector<std::string> taken{"drive", "respond", "walk", "cycle"};
        for (const auto& o : session_.document.study().profiles) taken.push_back(o.name);
        p.name = service::free_name(travel::label(p), taken);
        if (!p.table) p.table = travel::standard_table(p.mode);
        session_.document.edit(tr("import a profile"), [&](service::Study& s) { s.profiles.push_back(p); });
        list_->setCurrentRow(list_->count() - 1);
        return true;
    } catch (const InputError& e) {
        emit trouble(QString::fromUtf8(e.what()));
        return false;
    }
}

}  // namespace otoro::desktop
