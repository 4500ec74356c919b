#pragma once
#include <QMainWindow>

#include "desktop/models/background.h"
#include "desktop/models/session.h"
#include "desktop/models/study_files.h"

class QLineEdit;
class QMenu;
class QPushButton;
class QStackedWidget;

namespace otoro::desktop {
class DataPage;
class Notice;
class ProgressLine;
class StudyPage;

/// The window: tabs, the find box, saving; pages below; strips for work and remarks.
class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    explicit MainWindow(const QString& recovery_folder = {});
    ~MainWindow() override;

    [[nodiscard]] Session& session() { return session_; }
    [[nodiscard]] StudyFiles& files() { return files_; }
    [[nodiscard]] Background& background() { return background_; }
    [[nodiscard]] DataPage& data_page() const { return *data_; }
    [[nodiscard]] StudyPage& study_page() const { return *study_; }
    [[nodiscard]] Notice& notice() const { return *notice_; }
    [[nodiscard]] QPushButton& data_tab() const { return *data_tab_; }
    [[nodiscard]] QPushButton& study_tab() const { return *study_tab_; }
    [[nodiscard]] QLineEdit& find_box() const { return *find_; }

    /// A study is opened, anything else is offered to be brought in.
    void take_file(const QString& path);
    void show_data();
    void show_study();
    void show_help();
    void show_profiles();
    /// Writes the answer to a file, by its ending; off the interface thread.
    void hand_out_answer(const QString& path);
    /// Writes the map, `.png` or `.svg`.
    void hand_out_map(const QString& path);
    /// Goes to the first site, demand place or road whose name starts with or contains the text. False if there is none.
    bool find_place(const QString& text);

protected:
    void closeEvent(QCloseEvent* e) override;
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dropEvent(QDropEvent* e) override;

private:
    void build_bar();
    void build_menu();
    void connect_parts();
    void refresh_title();
    void choose_and_open();
    bool save();
    bool save_as();
    void choose_files();
    void choose_answer_file();
    void choose_map_file();
    void new_study();
    [[nodiscard]] bool may_leave_study();
    [[nodiscard]] int ask_to_save();
    void offer_recovery();

    bool closing_ = false;
    Session session_;
    Background background_;
    StudyFiles files_;
    QPushButton* name_;
    QMenu* menu_;
    QMenu* recent_;
    QPushButton* data_tab_;
    QPushButton* study_tab_;
    QLineEdit* find_;
    QPushButton* save_;
    QStackedWidget* pages_;
    DataPage* data_;
    StudyPage* study_;
    ProgressLine* preparing_ = nullptr;  // behind the answers
    ProgressLine* progress_;
    Notice* notice_;
};

}  // namespace otoro::desktop
