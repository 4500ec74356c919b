#include "desktop/pages/start_page.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QLocale>
#include <QPushButton>
#include <QStandardPaths>
#include <QVBoxLayout>

#include "desktop/models/study_files.h"
#include "desktop/parts/elided.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

constexpr const char* kExample = "otoro/example.otoro.gpkg";
constexpr int kPath = Qt::UserRole;
constexpr int kWide = 760;

}  // namespace

QString example_study() {
    // Beside the program: as installed, and in the two places that it is built in.
    const QString here = QCoreApplication::applicationDirPath();
    for (const char* up : {"/../share/", "/../../share/"})
        if (const QFileInfo there(here + up + kExample); there.isFile()) return there.canonicalFilePath();
    return QStandardPaths::locate(QStandardPaths::GenericDataLocation, kExample);
}

StartPage::StartPage(StudyFiles& files, QWidget* parent) : QWidget(parent), files_(files) {
    setObjectName("page");
    auto* column = new QWidget(this);
    column->setMaximumWidth(theme::scaled(kWide));
    auto* box = new QVBoxLayout(column);
    box->setSpacing(theme::scaled(10));
    auto* title = new QLabel(tr("Who is served by whom, and does that meet the standard?"), column);
    title->setFont(theme::type(1.7, QFont::DemiBold));
    title->setWordWrap(true);
    box->addWidget(title);

    auto* drop = new QFrame(column);
    drop->setObjectName("drop");
    drop->setStyleSheet("QFrame#drop { background: #FFFFFF; border: 2px dashed #8C8474; border-radius: 4px; }");
    auto* drop_box = new QVBoxLayout(drop);
    drop_box->setContentsMargins(24, 20, 24, 20);
    auto* dropped = new QLabel(
        tr("Drop your files here: roads, the places to be served, the sites that serve. Or a study, to open it."),
        drop);
    dropped->setFont(theme::type(1.15));
    dropped->setWordWrap(true);
    choose_ = new QPushButton(tr("Choose files\u2026"), drop);
    choose_->setAccessibleName(tr("Choose files to add"));
    auto* open = new QPushButton(tr("Open a study\u2026"), drop);
    open->setAccessibleName(open->text());
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(choose_);
    buttons->addWidget(open);
    buttons->addStretch(1);
    drop_box->addWidget(dropped);
    drop_box->addLayout(buttons);
    box->addWidget(drop);

    auto* example = new QFrame(column);
    example->setObjectName("card");
    auto* example_row = new QHBoxLayout(example);
    example_row->setContentsMargins(24, 14, 24, 14);
    auto* about = new QLabel(
        tr("New here? The example is an invented district with 9,000 households, ambulance posts, schools and gritting "
           "depots, three questions and some plans. What you change in it is yours to save elsewhere."),
        example);
    about->setWordWrap(true);
    example_ = new QPushButton(tr("Open the example"), example);
    example_->setAccessibleName(example_->text());
    example_row->addWidget(about, 1);
    example_row->addWidget(example_);
    box->addWidget(example);
    example->setVisible(!example_study().isEmpty());

    recent_part_ = new QWidget(column);
    auto* recent_box = new QVBoxLayout(recent_part_);
    recent_box->setContentsMargins(0, 6, 0, 0);
    auto* heading = new QLabel(tr("RECENT STUDIES"), recent_part_);
    heading->setProperty("role", "heading");
    recent_ = new QListWidget(recent_part_);
    recent_->setAccessibleName(tr("Recent studies"));
    recent_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    recent_->setSpacing(2);
    recent_box->addWidget(heading);
    recent_box->addWidget(recent_, 1);
    box->addWidget(recent_part_, 1);
    for (QWidget* w : std::initializer_list<QWidget*>{title, drop, example})
        w->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
    box->addStretch(0);

    auto* across = new QHBoxLayout(this);
    across->setContentsMargins(24, theme::scaled(28), 24, 24);
    across->addStretch(1);
    across->addWidget(column, 100);
    across->addStretch(1);
    connect(choose_, &QPushButton::clicked, this, &StartPage::files_wanted);
    connect(open, &QPushButton::clicked, this, &StartPage::study_wanted);
    connect(example_, &QPushButton::clicked, this, &StartPage::example_wanted);
    // One press or Return opens.
    const auto take = [this](const QListWidgetItem* item) { emit opened(item->data(kPath).toString()); };
    connect(recent_, &QListWidget::itemClicked, this, take);
    connect(recent_, &QListWidget::itemActivated, this, [take, this](const QListWidgetItem* item) {
        if (!recent_->underMouse()) take(item);
    });
}

void StartPage::showEvent(QShowEvent* e) {
    refresh();
    QWidget::showEvent(e);
}

void StartPage::refresh() {
    recent_->clear();
    for (const auto& path : files_.recent()) {
        const QFileInfo file(path);
        auto* item = new QListWidgetItem(recent_);
        item->setData(kPath, path);
        item->setToolTip(path);
        const QString when =
            file.exists() ? QLocale().toString(file.lastModified(), QLocale::ShortFormat) : tr("not there any more");
        item->setText(tr("%1\n%2, in %3").arg(elided(file.fileName()), when, elided(file.absolutePath(), 80)));
        if (!file.exists()) item->setForeground(theme::kSoftInk);
    }
    recent_part_->setVisible(recent_->count() > 0);
}

}  // namespace otoro::desktop
