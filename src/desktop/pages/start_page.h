#pragma once
#include <QWidget>

class QListWidget;
class QPushButton;

namespace otoro::desktop {
class StudyFiles;

/// Where the example study is installed, or was built; empty if it is nowhere.
QString example_study();

/// The empty desk: recent studies, the example, and a place to drop files.
class StartPage : public QWidget {
    Q_OBJECT
public:
    StartPage(StudyFiles& files, QWidget* parent = nullptr);
    [[nodiscard]] QListWidget& recent() const { return *recent_; }
    [[nodiscard]] QPushButton& example() const { return *example_; }
    [[nodiscard]] QPushButton& choose() const { return *choose_; }

signals:
    void files_wanted();  ///< to be chosen and added
    void study_wanted();  ///< to be chosen and opened
    void example_wanted();
    void opened(const QString& path);  ///< a recent study is to be opened

protected:
    void showEvent(QShowEvent* e) override;

private:
    void refresh();
    StudyFiles& files_;
    QListWidget* recent_;
    QWidget* recent_part_;
    QPushButton* example_;
    QPushButton* choose_;
};

}  // namespace otoro::desktop
