#include "desktop/main_window.h"

#include <QButtonGroup>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QShortcut>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "desktop/map/map_view.h"
#include "desktop/pages/data_page.h"
#include "desktop/pages/help_sheet.h"
#include "desktop/pages/profile_sheet.h"
#include "desktop/pages/study_page.h"
#include "desktop/parts/strips.h"
#include "desktop/theme.h"
#include "files/atomic_file.h"
#include "files/study_file.h"
#include "files/write_answer.h"

namespace otoro::desktop {

MainWindow::MainWindow(const QString& recovery_folder) : files_(session_, background_, recovery_folder) {
    setAcceptDrops(true);
    resize(1280, 800);
    build_menu();
    auto* middle = new QWidget(this);
    auto* box = new QVBoxLayout(middle);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    setCentralWidget(middle);
    notice_ = new Notice(this);
    progress_ = new ProgressLine(this);
    preparing_ = new ProgressLine(this);
    pages_ = new QStackedWidget(this);
    data_ = new DataPage(session_, background_, this);
    study_ = new StudyPage(session_, this);
    pages_->addWidget(data_);
    pages_->addWidget(study_);
    build_bar();
    box->addWidget(pages_, 1);
    box->addWidget(notice_);
    box->addWidget(progress_);
    box->addWidget(preparing_);
    connect_parts();
    show_data();
    refresh_title();
    offer_recovery();
}

MainWindow::~MainWindow() = default;

void MainWindow::build_menu() {
    menu_ = new QMenu(this);
    const auto add = [this](const QString& text, const QKeySequence& key, auto&& act) {
        auto* a = menu_->addAction(text);
        a->setShortcut(key);
        a->setShortcutContext(Qt::WindowShortcut);
        addAction(a);
        connect(a, &QAction::triggered, this, act);
        return a;
    };
    add(tr("New study"), QKeySequence::New, [this] { new_study(); });
    add(tr("Open a study\u2026"), QKeySequence::Open, [this] { choose_and_open(); });
    recent_ = menu_->addMenu(tr("Open recent"));
    connect(recent_, &QMenu::aboutToShow, this, [this] {
        recent_->clear();
        for (const auto& path : files_.recent()) recent_->addAction(QFileInfo(path).fileName(), this, [this, path] { take_file(path); })->setToolTip(path);
        if (recent_->isEmpty()) recent_->addAction(tr("(none yet)"))->setEnabled(false);
    });
    add(tr("Save"), QKeySequence::Save, [this] { save(); });
    add(tr("Save as\u2026"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), [this] { save_as(); });
    add(tr("Rename the study\u2026"), {}, [this] {
        bool ok = false;
        const QString name = QInputDialog::getText(this, tr("Rename the study"), tr("Name"), QLineEdit::Normal, QString::fromStdString(session_.study().name), &ok);
        if (ok && !name.trimmed().isEmpty()) session_.edit(tr("rename"), [&](service::Study& s) { s.name = name.trimmed().toStdString(); });
    });
    menu_->addSeparator();
    add(tr("Bring in a file\u2026"), QKeySequence(Qt::CTRL | Qt::Key_B), [this] { choose_files(); });
    add(tr("Travel profiles\u2026"), QKeySequence(Qt::CTRL | Qt::Key_T), [this] { show_profiles(); });
    add(tr("Network summary\u2026"), QKeySequence(Qt::CTRL | Qt::Key_I), [this] { data_->show_summary(); });
    add(tr("Hand out the answer\u2026"), QKeySequence(Qt::CTRL | Qt::Key_E), [this] { choose_answer_file(); });
    add(tr("Hand out the map\u2026"), QKeySequence(Qt::CTRL | Qt::Key_M), [this] { choose_map_file(); });
    menu_->addSeparator();
    auto* undo = session_.undo_stack().createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    auto* redo = session_.undo_stack().createRedoAction(this, tr("Redo"));
    redo->setShortcut(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z));
    for (auto* a : {undo, redo}) {
        menu_->addAction(a);
        addAction(a);
    }
    menu_->addSeparator();
    add(tr("Keys and words"), QKeySequence(Qt::Key_F1), [this] { show_help(); });
    add(tr("Quit"), QKeySequence::Quit, [this] { close(); });
}

void MainWindow::build_bar() {
    auto* bar = new QFrame(this);
    bar->setObjectName("bar");
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(10, 2, 10, 0);
    name_ = new QPushButton(bar);
    name_->setObjectName("flat");
    name_->setFont(theme::type(1.1, QFont::DemiBold));
    name_->setMenu(menu_);
    name_->setAccessibleName(tr("Study menu"));
    auto* tabs = new QButtonGroup(this);
    const auto add_tab = [&](const QString& text) {
        auto* b = new QPushButton(text, bar);
        b->setObjectName("tab");
        b->setCheckable(true);
        tabs->addButton(b);
        return b;
    };
    data_tab_ = add_tab(tr("Data"));
    study_tab_ = add_tab(tr("Study"));
    find_ = new QLineEdit(bar);
    find_->setPlaceholderText(tr("Find a site, place or road"));
    find_->setAccessibleName(tr("Find a site, a place or a road"));
    find_->setFixedWidth(220);
    auto* hand_out = new QPushButton(tr("Hand out"), bar);
    auto* out_menu = new QMenu(hand_out);
    out_menu->addAction(tr("The answer as a table or layer\u2026"), this, &MainWindow::choose_answer_file);
    out_menu->addAction(tr("The map as a picture\u2026"), this, &MainWindow::choose_map_file);
    hand_out->setMenu(out_menu);
    hand_out->setObjectName("flat");
    hand_out->setAccessibleName(tr("Hand out the answer or the map"));
    save_ = new QPushButton(tr("Save"), bar);
    save_->setAccessibleName(tr("Save the study"));
    row->addWidget(name_);
    row->addSpacing(14);
    row->addWidget(data_tab_);
    row->addWidget(study_tab_);
    row->addStretch(1);
    row->addWidget(find_);
    row->addWidget(hand_out);
    row->addWidget(save_);
    static_cast<QVBoxLayout*>(centralWidget()->layout())->insertWidget(0, bar);
    connect(data_tab_, &QPushButton::clicked, this, &MainWindow::show_data);
    connect(study_tab_, &QPushButton::clicked, this, &MainWindow::show_study);
    connect(save_, &QPushButton::clicked, this, &MainWindow::save);
    connect(find_, &QLineEdit::returnPressed, this, [this] {
        if (!find_place(find_->text())) notice_->say(tr("Nothing called \u2018%1\u2019 was found among sites, demand and roads.").arg(find_->text()));
    });
    const auto key = [this](const QKeySequence& k, auto&& act) { connect(new QShortcut(k, this), &QShortcut::activated, this, act); };
    key(QKeySequence(Qt::CTRL | Qt::Key_1), [this] { show_data(); });
    key(QKeySequence(Qt::CTRL | Qt::Key_2), [this] { show_study(); });
    key(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_V), [this] {
        show_data();
        if (!data_->paste()) notice_->say(tr("There is no table on the clipboard."));
    });
    key(QKeySequence(Qt::CTRL | Qt::Key_F), [this] { find_->setFocus(); find_->selectAll(); });
}

void MainWindow::connect_parts() {
    connect(&session_, &Session::study_replaced, this, &MainWindow::refresh_title);
    connect(&session_, &Session::saved_state_changed, this, &MainWindow::refresh_title);
    connect(&session_.undo_stack(), &QUndoStack::indexChanged, this, &MainWindow::refresh_title);
    connect(&session_, &Session::working, progress_, &ProgressLine::at);
    connect(&session_, &Session::work_ended, progress_, &ProgressLine::end);
    connect(&session_, &Session::preparing, this, [this](const QString& step, double done) { preparing_->at(tr("Answers are there; getting ready for faster ones: %1").arg(step), done); });
    connect(&session_, &Session::prepared, preparing_, &ProgressLine::end);
    connect(preparing_, &ProgressLine::stop_wanted, this, [this] {
        session_.answerer().stop_preparing();
        preparing_->end();
    });
    connect(&session_, &Session::failed, notice_, &Notice::trouble);
    connect(&background_, &Background::progressed, progress_, &ProgressLine::at);
    connect(&background_, &Background::idle, progress_, &ProgressLine::end);
    connect(&background_, &Background::failed, notice_, &Notice::trouble);
    connect(&background_, &Background::stopped, notice_, [this] { notice_->say(tr("Stopped. The study is as it was.")); });
    connect(progress_, &ProgressLine::stop_wanted, this, [this] {
        background_.stop();
        session_.stop_working();
    });
    connect(data_, &DataPage::files_wanted, this, &MainWindow::choose_files);
    connect(data_, &DataPage::findings_changed, this, [this](int n) {
        data_tab_->setText(n > 0 ? tr("Data (%1)").arg(n) : tr("Data"));
        data_tab_->setAccessibleName(tr("Data, findings: %1").arg(n));
    });
    connect(data_, &DataPage::show_wanted, this, [this](const QString& set, const std::vector<std::uint32_t>& places, const std::vector<geo::LonLat>& marks) {
        show_study();
        // Places of the set that is asked about are picked; of others only the spot is shown.
        session_.select(set.toStdString() == session_.question().demand ? Selection{places, std::nullopt} : Selection{});
        study_->map().set_marks(marks);
        study_->map().go_to_all(marks);
    });
    connect(data_, &DataPage::profiles_wanted, this, &MainWindow::show_profiles);
    connect(study_, &StudyPage::profiles_wanted, this, &MainWindow::show_profiles);
    connect(study_, &StudyPage::trouble, notice_, &Notice::trouble);
    connect(&data_->bring_in(), &BringInPanel::brought_in, this, [this](const QString& what) {
        notice_->say(tr("Brought in %1.").arg(what));
        if (session_.study().inputs() && !data_->bring_in().open()) show_study();
    });
    connect(&files_, &StudyFiles::opened, this, [this] {
        notice_->hide();
        if (session_.study().inputs()) show_study();
        else show_data();
    });
    connect(&files_, &StudyFiles::saved, this, [this](const QString& path) {
        notice_->say(tr("Saved to %1.").arg(path));
        if (closing_ && !session_.has_unsaved_changes()) close();
    });
    connect(&background_, &Background::failed, this, [this] { closing_ = false; });
}

void MainWindow::refresh_title() {
    const QString name = QString::fromStdString(session_.study().name);
    name_->setText(name + (session_.has_unsaved_changes() ? QString::fromUtf8(" \u2022") : QString()) + QString::fromUtf8(" \u25be"));
    name_->setToolTip(session_.path().isEmpty() ? tr("Not saved yet") : session_.path());
    setWindowTitle(tr("%1 \u2013 Otoro").arg(name));
    save_->setEnabled(session_.has_unsaved_changes() || session_.path().isEmpty());
}

void MainWindow::show_data() {
    pages_->setCurrentWidget(data_);
    data_tab_->setChecked(true);
}

void MainWindow::show_study() {
    pages_->setCurrentWidget(study_);
    study_tab_->setChecked(true);
}

void MainWindow::show_profiles() {
    auto* sheet = new ProfileSheet(session_, this);
    connect(sheet, &ProfileSheet::trouble, notice_, &Notice::trouble);
    sheet->show();
}

void MainWindow::show_help() { (new HelpSheet(this))->show(); }

void MainWindow::take_file(const QString& path) {
    background_.run([this, path](const Task&) -> Background::Then {
        const bool study = !files::is_osm(path.toStdString()) && files::is_study(path.toStdString());
        return [this, path, study] {
            if (study) {
                if (may_leave_study()) files_.open(path);
                return;
            }
            show_data();
            data_->bring_in().offer(path);
        };
    });
}

bool MainWindow::may_leave_study() {
    if (!session_.has_unsaved_changes() || session_.study().empty()) return true;
    const int choice = ask_to_save();
    if (choice == QMessageBox::Cancel) return false;
    return choice == QMessageBox::Discard || save();
}

int MainWindow::ask_to_save() {
    return QMessageBox::question(this, tr("Unsaved changes"), tr("\u2018%1\u2019 has changes that are not saved.").arg(QString::fromStdString(session_.study().name)),
                                 QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
}

void MainWindow::new_study() {
    if (!may_leave_study()) return;
    session_.put({}, {});
    show_data();
}

void MainWindow::choose_and_open() {
    const QString path = QFileDialog::getOpenFileName(this, tr("Open a study"), {}, tr("Studies (*.gpkg);;All files (*)"));
    if (!path.isEmpty()) take_file(path);
}

bool MainWindow::save() {
    if (session_.path().isEmpty()) return save_as();
    files_.save(session_.path());
    return true;
}

bool MainWindow::save_as() {
    const QString suggested = session_.path().isEmpty() ? QString::fromStdString(session_.study().name) + ".otoro.gpkg" : session_.path();
    QString path = QFileDialog::getSaveFileName(this, tr("Save the study"), suggested, tr("Studies (*.gpkg)"));
    if (path.isEmpty()) return false;
    if (!path.endsWith(".gpkg")) path += ".otoro.gpkg";
    files_.save(path);
    return true;
}

void MainWindow::choose_files() {
    const auto paths = QFileDialog::getOpenFileNames(this, tr("Bring in files"), {}, tr("Data (*.gpkg *.geojson *.json *.shp *.fgb *.gml *.csv *.tsv *.txt *.osm *.pbf *.gz *.bz2);;All files (*)"));
    for (const auto& p : paths) take_file(p);
}

void MainWindow::choose_answer_file() {
    const QString path = QFileDialog::getSaveFileName(this, tr("Hand out the answer"), "answer.csv", tr("Table (*.csv);;GeoPackage (*.gpkg);;GeoJSON (*.geojson)"));
    if (!path.isEmpty()) hand_out_answer(path);
}

void MainWindow::choose_map_file() {
    const QString path = QFileDialog::getSaveFileName(this, tr("Hand out the map"), "map.png", tr("Picture (*.png);;Drawing (*.svg)"));
    if (!path.isEmpty()) hand_out_map(path);
}

void MainWindow::hand_out_answer(const QString& path) {
    const auto outcome = session_.outcome_to_hand_out();
    if (!outcome) return notice_->trouble(tr("There is no answer to hand out yet, or it is out of date."));
    const auto ready = session_.answer()->ready;
    background_.run([this, path, outcome = std::make_shared<service::Outcome>(*outcome), ready](const Task& task) -> Background::Then {
        files::write_answer(*ready, *outcome, path.toStdString(), files::AnswerShape::points, task);
        return [this, path] { notice_->say(tr("The answer was written to %1.").arg(path)); };
    });
}

void MainWindow::hand_out_map(const QString& path) {
    try {
        files::write_atomically(path.toStdString(), [&](const std::string& temporary) {
            const QString t = QString::fromStdString(temporary);
            const bool ok = path.endsWith(".svg", Qt::CaseInsensitive) ? study_->map().save_svg(t) : study_->map().save_png(t);
            if (!ok) throw InputError({path.toStdString(), std::nullopt, "the picture cannot be written", "Choose another folder"});
        });
        notice_->say(tr("The map was written to %1.").arg(path));
    } catch (const InputError& e) {
        notice_->trouble(QString::fromUtf8(e.what()));
    }
}

bool MainWindow::find_place(const QString& text) {
    const std::string wanted = text.trimmed().toLower().toStdString();
    if (wanted.empty()) return false;
    const auto matches = [&](const std::string& name) { return QString::fromStdString(name).toLower().toStdString().find(wanted) != std::string::npos; };
    const auto& study = session_.study();
    show_study();
    if (const auto answer = session_.answer()) {
        for (std::uint32_t i = 0; i < answer->outcome.sites.size(); ++i) {
            const auto& s = answer->outcome.sites[i].planned.site;
            if (!s.position || !(matches(s.name) || s.id == text.trimmed().toStdString())) continue;
            session_.select({{}, SiteIndex(i)});
            study_->map().go_to(*s.position);
            return true;
        }
    }
    if (const auto* d = study.find_demand(session_.question().demand)) {
        for (std::uint32_t i = 0; i < d->set->count(); ++i) {
            const auto& p = d->set->places[i];
            if (!p.position || QString::fromStdString(p.id).compare(text.trimmed(), Qt::CaseInsensitive) != 0) continue;
            session_.select({{i}, std::nullopt});
            study_->map().go_to(*p.position);
            return true;
        }
    }
    if (study.roads) {
        for (std::uint32_t i = 0; i < study.roads->network->link_count(); ++i) {
            if (!matches(study.roads->network->name(LinkId(i)))) continue;
            const auto shape = study.roads->network->shape(LinkId(i));
            study_->map().go_to(shape[shape.size() / 2]);
            return true;
        }
    }
    return false;
}

void MainWindow::offer_recovery() {
    const auto left = files_.left_behind();
    if (left.isEmpty()) return;
    const QString copy = left.first();
    notice_->offer(tr("Otoro stopped before a study was saved (%1).").arg(QFileInfo(copy).lastModified().toString("d MMMM yyyy, hh:mm")),
                   {{tr("Bring it back"), [this, copy] { files_.recover(copy); }}, {tr("Throw it away"), [this, copy] { files_.discard(copy); }}});
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!session_.has_unsaved_changes() || session_.study().empty()) return e->accept();
    // The window stays until what was to be saved is on the disk.
    e->ignore();
    switch (ask_to_save()) {
        case QMessageBox::Discard: e->accept(); break;
        case QMessageBox::Save: closing_ = save(); break;
        default: break;
    }
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    for (const auto& url : e->mimeData()->urls())
        if (url.isLocalFile()) take_file(url.toLocalFile());
    e->acceptProposedAction();
}

}  // namespace otoro::desktop
