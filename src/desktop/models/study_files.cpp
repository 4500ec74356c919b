#include "desktop/models/study_files.h"

#include <signal.h>

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>
#include <cerrno>

#include "files/study_file.h"

namespace otoro::desktop {
namespace {

constexpr int kMostRecent = 8;
constexpr int kCopyAfterMs = 5000;
constexpr const char* kCopyEnding = ".otoro.gpkg";

bool running(qint64 pid) { return pid > 0 && (::kill(static_cast<pid_t>(pid), 0) == 0 || errno == EPERM); }

}  // namespace

StudyFiles::StudyFiles(Session& session, Background& background, QString recovery_folder, QObject* parent)
    : QObject(parent), session_(session), background_(background), copies_(this), folder_(std::move(recovery_folder)) {
    if (folder_.isEmpty()) folder_ = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/recovery";
    QDir().mkpath(folder_);
    soon_.setSingleShot(true);
    soon_.setInterval(kCopyAfterMs);
    connect(&soon_, &QTimer::timeout, this, &StudyFiles::keep_copy);
    connect(&session_.undo_stack(), &QUndoStack::indexChanged, this, [this] { soon_.start(); });
}

StudyFiles::~StudyFiles() { QFile::remove(copy_path()); }

QString StudyFiles::copy_path() const { return QDir(folder_).filePath(QString::number(QCoreApplication::applicationPid()) + kCopyEnding); }

void StudyFiles::open(const QString& path) {
    background_.run([this, path](const Task& task) -> Background::Then {
        auto study = std::make_shared<service::Study>(files::open_study(path.toStdString(), task));
        return [this, path, study] {
            session_.put(*study, path);
            QFile::remove(copy_path());
            remember(path);
            emit opened(path);
        };
    });
}

void StudyFiles::save(const QString& path) {
    const auto study = session_.study();
    const int index = session_.undo_stack().index();
    background_.run([this, path, study, index](const Task& task) -> Background::Then {
        files::save_study(study, path.toStdString(), task);
        return [this, path, index] {
            // Changes made while the file was being written are not in it.
            if (session_.undo_stack().index() == index) session_.mark_saved(path);
            soon_.stop();
            QFile::remove(copy_path());
            remember(path);
            emit saved(path);
        };
    });
}

QStringList StudyFiles::recent() const {
    QStringList out;
    for (const auto& p : QSettings().value("recent").toStringList())
        if (QFileInfo::exists(p)) out << p;
    return out;
}

void StudyFiles::remember(const QString& path) {
    QStringList all = recent();
    const QString absolute = QFileInfo(path).absoluteFilePath();
    all.removeAll(absolute);
    all.prepend(absolute);
    QSettings().setValue("recent", all.mid(0, kMostRecent));
}

QStringList StudyFiles::left_behind() const {
    QStringList out;
    for (const auto& info : QDir(folder_).entryInfoList({QString("*") + kCopyEnding}, QDir::Files, QDir::Time)) {
        const qint64 pid = info.fileName().section('.', 0, 0).toLongLong();
        if (pid != QCoreApplication::applicationPid() && !running(pid)) out << info.absoluteFilePath();
    }
    return out;
}

void StudyFiles::recover(const QString& copy) {
    background_.run([this, copy](const Task& task) -> Background::Then {
        auto study = std::make_shared<service::Study>(files::open_study(copy.toStdString(), task));
        return [this, copy, study] {
            session_.put(*study, {});
            session_.mark_recovered();
            emit session_.saved_state_changed();
            QFile::rename(copy, copy_path());
            emit opened({});
        };
    });
}

void StudyFiles::discard(const QString& copy) const { QFile::remove(copy); }

void StudyFiles::keep_copy() {
    if (!session_.has_unsaved_changes() || session_.study().empty()) return;
    const auto study = session_.study();
    copies_.run([this, study, path = copy_path().toStdString()](const Task& task) -> Background::Then {
        files::save_study(study, path, task);
        return [this] { emit copy_kept(); };
    });
}

}  // namespace otoro::desktop
