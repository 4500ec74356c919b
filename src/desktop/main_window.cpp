#include "desktop/main_window.h"

#include <QApplication>
#include <QButtonGroup>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QShortcut>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "desktop/map/map_view.h"
#include "desktop/pages/about_sheet.h"
#include "desktop/pages/compare_page.h"
#include "desktop/pages/data_page.h"
#include "desktop/pages/help_sheet.h"
#include "desktop/pages/pairs_sheet.h"
#include "desktop/pages/profile_sheet.h"
#include "desktop/pages/start_page.h"
#include "desktop/pages/study_page.h"
#include "desktop/parts/access_view.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/desktop_notice.h"
#include "desktop/parts/difference_view.h"
#include "desktop/parts/elided.h"
#include "desktop/parts/exports.h"
#include "desktop/parts/fairness_view.h"
#include "desktop/parts/find_box.h"
#include "desktop/parts/ranking_panel.h"
#include "desktop/parts/reassign_panel.h"
#include "desktop/parts/recovery_strip.h"
#include "desktop/parts/save_place.h"
#include "desktop/parts/shown_name.h"
#include "desktop/parts/strips.h"
#include "desktop/parts/work_lines.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "files/access_file.h"
#include "files/add_data.h"
#include "files/atomic_file.h"
#include "files/fairness_file.h"
#include "files/ranking_file.h"
#include "files/study_file.h"

namespace otoro::desktop {
namespace {
constexpr const char* kGeometry = "window/geometry";
constexpr const char* kReading = "reading";
constexpr const char* kSaving = "saving";
constexpr const char* kFixing = "fixing";
constexpr const char* kExporting = "exporting";
constexpr const char* kAnswering = "answering";
constexpr const char* kChecking = "checking";
constexpr const char* kCopying = "copying";
constexpr const char* kFinding = "finding";
constexpr const char* kOthers = "written by others";
constexpr const char* kOutdated = "outdated";
constexpr const char* kName = "name";
}  // namespace

MainWindow::MainWindow(const QString& recovery_folder) : files_(session_, jobs_, recovery_folder) {
    setAcceptDrops(true);
    resize(1280, 800);
    build_menu();
    auto* middle = new QWidget(this);
    auto* box = new QVBoxLayout(middle);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    setCentralWidget(middle);
    notice_ = new Notice(this);
    recovery_ = new RecoveryStrip(files_, this);
    waiting_ = new QFrame(this);
    waiting_->setObjectName("notice");
    auto* waiting_row = new QHBoxLayout(waiting_);
    waiting_row->setContentsMargins(12, 4, 8, 4);
    waiting_text_ = new QLabel(waiting_);
    auto* go_there = new QPushButton(tr("Show"), waiting_);
    go_there->setAccessibleName(tr("Show the file that waits to be added"));
    waiting_row->addWidget(waiting_text_, 1);
    waiting_row->addWidget(go_there);
    waiting_->hide();
    connect(go_there, &QPushButton::clicked, this, &MainWindow::show_data);
    pages_ = new QStackedWidget(this);
    data_ = new DataPage(session_, jobs_, this);
    study_ = new StudyPage(session_, jobs_, this);
    compare_ = new ComparePage(session_, jobs_, this);
    exports_ = new Exports(session_, jobs_, study_->map(), this);
    work_ = new WorkLines(session_, jobs_, data_->fixer(), this);
    start_ = new StartPage(files_, this);
    pages_->addWidget(start_);
    pages_->addWidget(data_);
    pages_->addWidget(study_);
    pages_->addWidget(compare_);
    build_bar();
    box->addWidget(pages_, 1);
    box->addWidget(recovery_);
    box->addWidget(waiting_);
    box->addWidget(notice_);
    box->addWidget(work_);
    connect_parts();
    show_start();
    refresh_title();
    restoreGeometry(QSettings().value(kGeometry).toByteArray());
}

MainWindow::~MainWindow() {
    // A page that goes out of sight looks at the session once more, so it goes while there is one.
    hide();
}

std::vector<std::uint32_t> MainWindow::numbers_asked(const service::SetName& set,
                                                     const std::vector<std::uint32_t>& places) const {
    std::vector<std::uint32_t> out;
    if (set.kind != service::SetKind::demand) return out;
    const auto asked = session_.document.study().demand_of(session_.document.question());
    for (const std::uint32_t i : places)
        if (const auto number = asked.number_of(set.name, i)) out.push_back(*number);
    return out;
}

void MainWindow::connect_parts() {
    connect(&session_.document, &Document::study_replaced, this, &MainWindow::refresh_title);
    connect(&session_.document, &Document::saved_state_changed, this, &MainWindow::refresh_title);
    connect_jobs();
    connect_files();
    connect_pages();
}

void MainWindow::connect_jobs() {
    connect(work_, &WorkLines::stopped, this, [this](const QString& said) { notice_->say(said); });
    connect(work_, &WorkLines::long_work_ended, this, &MainWindow::tell_ended);
    for (const auto& [work, topic] : {std::pair{&jobs_.reading, kReading}, std::pair{&jobs_.saving, kSaving},
                                      std::pair{&jobs_.fixing, kFixing}, std::pair{&jobs_.exporting, kExporting}})
        connect(work, &Background::failed, this,
                [this, topic = topic](const QString& why) { notice_->trouble(why, topic); });
    for (const auto& [work, topic] :
         {std::pair{&jobs_.saving, kSaving}, std::pair{&jobs_.fixing, kFixing}, std::pair{&jobs_.exporting, kExporting},
          std::pair{&data_->fixer().checks(), kChecking}})
        connect(work, &Background::succeeded, this, [this, topic = topic] { notice_->settled(topic); });
    connect(&data_->fixer().checks(), &Background::failed, this, [this](const QString& why) {
        notice_->trouble(tr("What is wrong with the data could not be found out. %1").arg(why), kChecking);
    });
    connect(&data_->fixer(), &Fixer::outdated, this, [this](const QString& what) {
        notice_->trouble(
            tr("\u2018%1\u2019 was not done: what it was for was changed or replaced meanwhile. The findings "
               "are told anew.")
                .arg(what),
            kOutdated);
    });
    connect(&session_.answers, &Answers::failed, this,
            [this](const QString& why) { notice_->trouble(why, kAnswering); });
    connect(&session_.answers, &Answers::changed, this, [this] {
        if (session_.answers.up_to_date()) notice_->settled(kAnswering);
    });
}

void MainWindow::connect_files() {
    connect(&session_.document, &Document::study_replaced, this, [this] {
        // A menu or an editor that is open belongs to what was there before.
        while (auto* popup = QApplication::activePopupWidget())
            if (!popup->close()) break;
        for (const char* topic :
             {kReading, kSaving, kFixing, kExporting, kAnswering, kChecking, kFinding, kOthers, kOutdated})
            notice_->settled(topic);
    });
    connect(&session_.document, &Document::refused, this, [this](const QString& why) { notice_->trouble(why, kName); });
    connect(&session_.document, &Document::edited, this, [this] { notice_->settled(kName); });
    connect(recovery_, &RecoveryStrip::trouble, this, [this](const QString& why) { notice_->trouble(why); });
    connect(recovery_, &RecoveryStrip::wanted, this, [this](const QString& copy) {
        leave([this, copy] { files_.recover(copy, [this](const std::function<void()>& put) { leave(put); }); });
    });
    connect(&files_, &StudyFiles::copy_failed, this, [this](const QString& why) {
        notice_->trouble(tr("No copy for after a crash could be kept. Save the study. %1").arg(why), kCopying);
    });
    connect(&files_, &StudyFiles::copy_kept, this, [this] { notice_->settled(kCopying); });
    connect(&files_, &StudyFiles::open_elsewhere, this, [this](const QString& path) {
        notice_->trouble(
            tr("%1 is open in another window too. Whoever saves second is asked before the other\u2019s work is "
               "written over.")
                .arg(QFileInfo(path).fileName()),
            kOthers);
    });
    connect(&files_, &StudyFiles::remarked, this, [this](const QString& what) { notice_->say(what); });
    connect(&files_, &StudyFiles::written_by_others, this, &MainWindow::ask_about_others);
    connect(&files_, &StudyFiles::opened, this, [this] {
        notice_->settled(kReading);
        if (session_.document.study().inputs())
            show_study();
        else
            show_data();
    });
    connect(&files_, &StudyFiles::saved, this, [this](const QString& path) {
        notice_->settled(kSaving);
        notice_->settled(kOthers);
        notice_->say(tr("Saved to %1.").arg(path));
    });
}

void MainWindow::connect_pages() {
    connect(find_, &FindBox::found, this, &MainWindow::show_match);
    connect(find_, &FindBox::nothing_found, this, [this](const QString& text) {
        notice_->trouble(tr("Nothing called \u2018%1\u2019 was found among sites, demand and roads.").arg(elided(text)),
                         kFinding);
    });
    connect(find_, &QLineEdit::textEdited, this, [this] { notice_->settled(kFinding); });
    connect(compare_, &ComparePage::open_wanted, this, &MainWindow::show_study);
    connect(compare_, &ComparePage::show_wanted, this, [this] {
        show_study();
        study_->map().show_picked();
    });
    connect(&compare_->two(), &DifferenceView::change_wanted, this, [this](const std::string& plan) {
        show_study();
        study_->map().compare_with(plan);
        study_->map().set_look(change_look());
    });
    connect(compare_, &ComparePage::trouble, this, [this](const QString& why) { notice_->trouble(why, kExporting); });
    connect(compare_, &ComparePage::done, exports_, &Exports::done);
    connect(exports_, &Exports::trouble, this, [this](const QString& why) { notice_->trouble(why, kExporting); });
    connect(exports_, &Exports::no_answer, this, [this](const QString& why) { notice_->trouble(why, kAnswering); });
    connect(exports_, &Exports::done, this, [this](const QString& said) {
        notice_->settled(kExporting);
        notice_->say(said);
    });
    connect(data_, &DataPage::trouble, this, [this](const QString& why) { notice_->trouble(why, kReading); });
    connect(&data_->add_panel(), &AddPanel::waiting_changed, this, &MainWindow::refresh_waiting);
    connect(pages_, &QStackedWidget::currentChanged, this, &MainWindow::refresh_waiting);
    connect(data_, &DataPage::files_wanted, this, &MainWindow::choose_files);
    connect(start_, &StartPage::files_wanted, this, &MainWindow::choose_files);
    connect(start_, &StartPage::study_wanted, this, &MainWindow::choose_and_open);
    connect(start_, &StartPage::example_wanted, this, &MainWindow::open_example);
    connect(start_, &StartPage::opened, this, &MainWindow::take_file);
    connect(data_, &DataPage::findings_changed, this, [this](int n) {
        data_tab_->setText(n > 0 ? tr("Data (%1)").arg(n) : tr("Data"));
        data_tab_->setAccessibleName(tr("Data, findings: %1").arg(n));
    });
    connect(data_, &DataPage::show_wanted, this,
            [this](const service::SetName& set, const std::vector<std::uint32_t>& places,
                   const std::vector<geo::LonLat>& marks) {
                show_study();
                // Places of the set that is asked about are picked; of others only the spot is shown.
                session_.selection.pick({numbers_asked(set, places), std::nullopt});
                study_->map().set_marks(marks);
                study_->map().go_to_all(marks);
                study_->map().setFocus();  // so that Esc takes them away
            });
    connect(data_, &DataPage::profiles_wanted, this, &MainWindow::show_profiles);
    connect(study_, &StudyPage::profiles_wanted, this, &MainWindow::show_profiles);
    connect(study_, &StudyPage::trouble, this, [this](const QString& why) { notice_->trouble(why, kExporting); });
    connect(study_, &StudyPage::remark, notice_, &Notice::say);
    connect(study_, &StudyPage::copy_map_wanted, exports_, &Exports::copy_map);
    connect(study_, &StudyPage::route_export_wanted, exports_, &Exports::choose_route_file);
    connect(study_, &StudyPage::route_copy_wanted, exports_, &Exports::copy_route);
    connect(study_, &StudyPage::reassigned_export_wanted, this, [this](bool flows) {
        if (const auto& found = study_->reassign().reassigner().found()) exports_->choose_reassigned_file(found, flows);
    });
    auto& answer = study_->answer();
    connect(&answer.ranking(), &RankingPanel::export_wanted, this, [this, &answer] {
        const auto found = answer.ranking().work().found();
        if (!found) return;
        exports_->choose_table_file(
            tr("Export the ranking of candidates"), "candidates.csv",
            [found, ranked = answer.ranking().ranked()] { return files::ranking_csv(found->answer->outcome, ranked); });
    });
    connect(&answer.fairness(), &FairnessView::export_wanted, this, [this, &answer] {
        const auto found = answer.fairness().work().found();
        if (!found) return;
        exports_->choose_table_file(tr("Export how evenly travel is shared"), "evenly.csv", [found] {
            return files::fairness_csv(found->answer->outcome, found->question.standard, found->fair);
        });
    });
    connect(&answer.access(), &AccessView::export_wanted, this, [this, &answer] {
        const auto found = answer.access().work().found();
        if (!found) return;
        exports_->choose_table_file(tr("Export access by floating catchments"), "access.csv", [found] {
            return files::access_csv(*found->answer->ready, found->answer->outcome, found->access);
        });
    });
    connect(study_, &StudyPage::export_wanted, this,
            [this](const std::vector<DemandIndex>& places) { exports_->choose_answer_file(places); });
    connect(&data_->add_panel(), &AddPanel::added_file, this, [this](const QString& what, const QString& note) {
        notice_->settled(kReading);
        notice_->say((tr("Added %1.").arg(what) + " " + note).trimmed());
        if (session_.document.study().inputs() && data_->add_panel().waiting().isEmpty()) show_study();
    });
}

void MainWindow::refresh_waiting() {
    const auto files = data_->add_panel().waiting();
    waiting_->setVisible(!files.isEmpty() && pages_->currentWidget() != data_);
    if (files.isEmpty()) return;
    const QString first = elided(AddPanel::shown_name(files.front()));
    waiting_text_->setText(files.size() == 1 ? tr("%1 waits to be added.").arg(first)
                                             : tr("%1 and %2 more wait to be added.").arg(first).arg(files.size() - 1));
}

void MainWindow::tell_trouble(const QString& why) { notice_->trouble(why); }

void MainWindow::refresh_title() {
    const QString name = QString::fromStdString(session_.document.study().name);
    const QFontMetrics metrics(name_->font());
    name_->setText(on_button(metrics.elidedText(name, Qt::ElideMiddle, kWidestNameOfStudy - 60)) +
                   (session_.document.has_unsaved_changes() ? QString::fromUtf8(" \u2022") : QString()) +
                   QString::fromUtf8(" \u25be"));
    name_->setToolTip(session_.document.path().isEmpty() ? tr("%1: not saved yet").arg(name)
                                                         : name + "\n" + session_.document.path());
    setWindowTitle(tr("%1 \u2013 Otoro").arg(name));
    save_->setEnabled(session_.document.has_unsaved_changes() || session_.document.path().isEmpty());
}

void MainWindow::show_start() {
    pages_->setCurrentWidget(start_);
    for (auto* tab : {data_tab_, study_tab_, compare_tab_}) {
        tab->group()->setExclusive(false);
        tab->setChecked(false);
        tab->group()->setExclusive(true);
    }
}

void MainWindow::show_data() {
    pages_->setCurrentWidget(data_);
    data_tab_->setChecked(true);
}

void MainWindow::show_study() {
    pages_->setCurrentWidget(study_);
    study_tab_->setChecked(true);
}

void MainWindow::show_compare() {
    pages_->setCurrentWidget(compare_);
    compare_tab_->setChecked(true);
}

void MainWindow::show_profiles() {
    auto* sheet = new ProfileSheet(session_, this);
    connect(sheet, &ProfileSheet::trouble, this, [this](const QString& why) { notice_->trouble(why); });
    sheet->show();
}

void MainWindow::show_pairs() {
    auto* sheet = new PairsSheet(session_, jobs_, this);
    connect(sheet, &PairsSheet::trouble, this, [this](const QString& why) { notice_->trouble(why, kExporting); });
    connect(sheet, &PairsSheet::done, exports_, &Exports::done);
    sheet->show();
}

void MainWindow::show_help() { (new HelpSheet(this))->show(); }

void MainWindow::take_file(const QString& path) {
    jobs_.reading.run([this, path](const Task&) -> Background::Then {
        const bool study = !files::is_osm(path.toStdString()) && files::is_study(path.toStdString());
        return [this, path, study] {
            if (study) return open_study(path);
            show_data();
            data_->add_panel().offer(path);
        };
    });
}

void MainWindow::open_study(const QString& path) {
    leave([this, path] {
        // What is edited while it is read is asked about again.
        files_.open(path, [this, point = session_.document.point()](const std::function<void()>& put) {
            if (session_.document.point() == point)
                put();
            else
                leave(put);
        });
    });
}

void MainWindow::leave(std::function<void()> then) {
    if (!session_.document.has_unsaved_changes()) return then();
    const auto point = session_.document.point();
    const auto after_saving = [this, then, point](bool done) {
        if (done && session_.document.point().document == point.document) leave(then);  // edited meanwhile: asked again
    };
    if (files_.is_saving(point)) return files_.when_saved(after_saving);
    const int choice = ask_to_save();
    if (session_.document.point().document != point.document) return;  // another study came while the question stood
    if (choice == QMessageBox::Discard)
        then();
    else if (choice == QMessageBox::Save)
        save(after_saving);
}

int MainWindow::ask_to_save() {
    return QMessageBox::question(this, tr("Unsaved changes"),
                                 tr("\u2018%1\u2019 has changes that are not saved.")
                                     .arg(elided(QString::fromStdString(session_.document.study().name))),
                                 QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
}

void MainWindow::new_study() {
    leave([this] {
        files_.forget_file();
        session_.document.put({}, {});
        show_start();
    });
}

void MainWindow::choose_and_open() {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Open a study"), {}, tr("Studies (*.gpkg);;All files (*)"));
    if (!path.isEmpty()) take_file(path);
}

void MainWindow::save(StudyFiles::Saved saved) {
    if (session_.document.path().isEmpty())
        save_as(std::move(saved));
    else
        files_.save(session_.document.path(), std::move(saved));
}

void MainWindow::save_as(StudyFiles::Saved saved) {
    QString suggested = session_.document.path().isEmpty() ? files_.recovered_from() : session_.document.path();
    if (suggested.isEmpty())
        suggested = QString::fromStdString(session_.document.study().name).replace('/', '-').left(100) + ".otoro.gpkg";
    const auto path = ask_where_to_save(this, tr("Save the study"), suggested, {{tr("Studies"), ".otoro.gpkg"}});
    if (!path) {
        if (saved) saved(false);
        return;
    }
    if (files_.is_open_elsewhere(*path) &&
        QMessageBox::question(
            this, tr("Save the study"),
            tr("%1 is open in another window. Write over it all the same?").arg(QFileInfo(*path).fileName()),
            QMessageBox::Yes | QMessageBox::No, QMessageBox::No) != QMessageBox::Yes) {
        if (saved) saved(false);
        return;
    }
    files_.save(*path, std::move(saved));
}

void MainWindow::ask_about_others(const QString& path) {
    notice_->offer(tr("%1 was written by another window or program since it was opened here, so it was not saved.")
                       .arg(QFileInfo(path).fileName()),
                   {{tr("Save under another name\u2026"), [this] { save_as(); }},
                    {tr("Write over it"), [this, path] { files_.save(path, {}, true); }}},
                   kOthers);
}

void MainWindow::choose_files() {
    const auto paths = QFileDialog::getOpenFileNames(
        this, tr("Add data"), {},
        tr("Data (*.gpkg *.geojson *.json *.shp *.fgb *.gml *.geojsonl *.kml *.gpx *.dxf *.ods *.xlsx *.csv "
           "*.tsv *.txt *.osm *.pbf *.gz *.bz2);;All files (*)"));
    for (const auto& p : paths) take_file(p);
}

void MainWindow::show_match(const Match& match, std::size_t number, std::size_t count) {
    show_study();
    notice_->settled(kFinding);
    if (match.kind == Match::Kind::site && match.asked_about)
        session_.selection.pick({{}, SiteIndex(match.number)});
    else if (match.kind == Match::Kind::demand && match.asked_about)
        session_.selection.pick({{match.number}, std::nullopt});
    else
        session_.selection.pick({});
    study_->map().set_marks(match.asked_about ? std::vector<geo::LonLat>() : std::vector{match.where});
    study_->map().go_to(match.where);
    const QString what = match.kind == Match::Kind::road ? tr("road") : elided(match.set);
    QString said = tr("Found: %1 (%2)").arg(elided(match.name), what);
    if (count > 1) said += tr(", %1 of %2; Return goes to the next").arg(number).arg(count);
    notice_->say(said + ".");
}

void MainWindow::open_example() {
    leave([this] {
        files_.open_copy(example_study(), [this, point = session_.document.point()](const std::function<void()>& put) {
            if (session_.document.point() == point)
                put();
            else
                leave(put);
        });
    });
}

void MainWindow::choose_units(bool miles) {
    choose_miles(miles);
    // Everything that says a length says it anew.
    emit session_.document.question_changed();
    emit session_.document.questions_changed();
    emit session_.document.plans_changed();
    emit session_.document.notes_changed();
    emit session_.document.data_changed();
    emit session_.answers.changed();
}

void MainWindow::show_about() { (new AboutSheet(this))->show(); }

void MainWindow::tell_ended(const QString& what) {
    if (isActiveWindow()) return;
    QApplication::alert(this);
    tell_desktop(windowTitle(), what);
}

void MainWindow::keyPressEvent(QKeyEvent* e) {
    // Wherever the keys are: what was shown or picked on the map goes with Esc.
    if (e->key() == Qt::Key_Escape && pages_->currentWidget() == study_) return study_->map().let_go();
    QMainWindow::keyPressEvent(e);
}

void MainWindow::forget_closing() {
    if (!closing_) return;
    jobs_.exporting.disconnect(closing_);
    closing_->deleteLater();
    closing_.clear();
}

void MainWindow::close_when_written() {
    forget_closing();  // asked again, what was said before no longer holds
    closing_ = new QObject(this);
    // What fails is said, and the window stays for it.
    connect(&jobs_.exporting, &Background::failed, closing_, [this] { forget_closing(); });
    QMessageBox box(QMessageBox::Question, tr("Still exporting"),
                    tr("What is being exported is not written yet. Until it is, a file of that name stays as it was."),
                    QMessageBox::Yes | QMessageBox::Abort | QMessageBox::Cancel, this);
    box.button(QMessageBox::Yes)->setText(tr("&Close when it is written"));
    box.button(QMessageBox::Abort)->setText(tr("&Stop it and close"));
    box.setDefaultButton(QMessageBox::Yes);
    const int choice = box.exec();
    if (!closing_ || choice == QMessageBox::Cancel) return forget_closing();
    if (choice == QMessageBox::Abort) jobs_.exporting.stop();
    const auto close_then = [this] {
        forget_closing();
        QMetaObject::invokeMethod(
            this, [this] { close(); }, Qt::QueuedConnection);
    };
    if (!jobs_.exporting.busy()) return close_then();
    connect(&jobs_.exporting, &Background::idle, closing_, close_then);
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (jobs_.exporting.busy()) {
        e->ignore();
        return close_when_written();
    }
    if (may_close_ || !session_.document.has_unsaved_changes()) {
        QSettings().setValue(kGeometry, saveGeometry());
        study_->remember();
        return e->accept();
    }
    // The window stays until what was to be saved is on the disk.
    e->ignore();
    leave([this] {
        may_close_ = true;
        close();
        may_close_ = false;
    });
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
