#pragma once
#include <QMainWindow>
#include <QPointer>

#include "desktop/models/jobs.h"
#include "desktop/models/session.h"
#include "desktop/models/study_files.h"

class QFrame;
class QLabel;
class QMenu;
class QPushButton;
class QStackedWidget;

namespace otoro::desktop {
class ComparePage;
class DataPage;
class Exports;
class FindBox;
class Notice;
class RecoveryStrip;
class StartPage;
class StudyPage;
class WorkLines;
struct Match;

/// The window: tabs, the find box, saving; pages below; strips for work and remarks.
class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    explicit MainWindow(const QString& recovery_folder = {});
    ~MainWindow() override;

    [[nodiscard]] Session& session() { return session_; }
    [[nodiscard]] StudyFiles& files() { return files_; }
    [[nodiscard]] Jobs& jobs() { return jobs_; }
    [[nodiscard]] RecoveryStrip& recovery() const { return *recovery_; }
    [[nodiscard]] DataPage& data_page() const { return *data_; }
    [[nodiscard]] StudyPage& study_page() const { return *study_; }
    [[nodiscard]] ComparePage& compare_page() const { return *compare_; }
    [[nodiscard]] Exports& exports() const { return *exports_; }
    [[nodiscard]] StartPage& start_page() const { return *start_; }
    [[nodiscard]] Notice& notice() const { return *notice_; }
    [[nodiscard]] QPushButton& data_tab() const { return *data_tab_; }
    [[nodiscard]] QPushButton& study_tab() const { return *study_tab_; }
    [[nodiscard]] QPushButton& compare_tab() const { return *compare_tab_; }
    [[nodiscard]] FindBox& find_box() const { return *find_; }

    /// A study is opened, anything else is offered to be brought in.
    void take_file(const QString& path);
    /// The empty desk: where to begin.
    void show_start();
    void show_data();
    void show_study();
    void show_compare();
    void show_help();
    void show_profiles();
    /// A table of all pairs between two sets.
    void show_pairs();
    /// A copy of the example on the desk, which belongs to no file yet.
    void open_example();
    /// Who made it, which version, and the licences of all that is in it.
    void show_about();
    /// Runs `then` when nothing would be lost by leaving the study on the desk: at once, or after the planner has
    /// chosen to discard, or after it was saved. Never if saving fails, is stopped, or the planner thinks better of it.
    void leave(std::function<void()> then);
    /// Says what went wrong in a place where nobody was listening.
    void tell_trouble(const QString& why);

protected:
    void closeEvent(QCloseEvent* e) override;
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dropEvent(QDropEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

private:
    /// Asks whether to wait for what is being exported, or to stop it, and closes after that.
    void close_when_written();
    void forget_closing();
    /// Places of a set by their numbers in what the question in sight is about; none if it is not about that set.
    [[nodiscard]] std::vector<std::uint32_t> numbers_asked(const service::SetName& set,
                                                           const std::vector<std::uint32_t>& places) const;
    void show_match(const Match& match, std::size_t number, std::size_t count);
    /// Says that long work has ended, where the window is not in sight.
    void tell_ended(const QString& what);
    void build_bar();
    void build_menu();
    void connect_parts();
    void connect_jobs();
    void connect_files();
    void connect_pages();
    void refresh_title();
    void choose_and_open();
    void save(StudyFiles::Saved saved = {});
    void save_as(StudyFiles::Saved saved = {});
    void open_study(const QString& path);
    void ask_about_others(const QString& path);
    void refresh_waiting();
    void choose_files();
    void choose_units(bool miles);
    void new_study();
    [[nodiscard]] int ask_to_save();

    static constexpr int kWidestNameOfStudy = 280;
    bool may_close_ = false;
    QPointer<QObject> closing_;  ///< lives while the window waits to close until an export is written
    Session session_;
    Jobs jobs_;
    StudyFiles files_;
    QPushButton* name_;
    QMenu* menu_;
    QMenu* recent_;
    QPushButton* data_tab_;
    QPushButton* study_tab_;
    QPushButton* compare_tab_;
    FindBox* find_;
    QPushButton* save_;
    QStackedWidget* pages_;
    DataPage* data_;
    StudyPage* study_;
    ComparePage* compare_;
    Exports* exports_;
    StartPage* start_;
    WorkLines* work_;
    QFrame* waiting_;  ///< files that wait to be added, while another page is shown
    QLabel* waiting_text_;
    RecoveryStrip* recovery_;
    Notice* notice_;
};

}  // namespace otoro::desktop
