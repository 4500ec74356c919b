#include "desktop/models/study_files.h"

#include <fmt/format.h>

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>
#include <QThreadPool>
#include <QUuid>
#include <utility>

#include "files/add_data.h"
#include "files/study_file.h"

namespace otoro::desktop {
namespace {

constexpr int kMostRecent = 8;
constexpr int kThrownDays = 30;
constexpr const char* kCopyEnding = ".otoro.gpkg";
constexpr const char* kClaimEnding = ".open";  // claimed by the program that writes the copy; says whose copy it is
constexpr const char* kThrown = "thrown-away";
constexpr const char* kGone = ".gone";  // being removed

QString claim_of(const QString& copy) {
    return copy.chopped(static_cast<qsizetype>(qstrlen(kCopyEnding))) + kClaimEnding;
}

/// Removes a file at once under its name, and its hundreds of megabytes behind the window.
void throw_away(const QString& path) {
    const QString gone = path + kGone;
    if (!QFile::rename(path, gone)) return void(QFile::remove(path));
    QThreadPool::globalInstance()->start([gone] { QFile::remove(gone); });
}

}  // namespace

StudyFiles::StudyFiles(Session& session, Jobs& jobs, QString recovery_folder, QObject* parent,
                       std::chrono::milliseconds copy_after)
    : QObject(parent),
      session_(session),
      jobs_(jobs),
      copies_(std::make_unique<Background>()),
      folder_(std::move(recovery_folder)) {
    if (folder_.isEmpty())
        folder_ = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/recovery";
    QDir().mkpath(folder_ + "/" + kThrown);
    name_ = QUuid::createUuid().toString(QUuid::WithoutBraces);
    for (const auto& info : QDir(folder_).entryInfoList({QString("*") + kGone}, QDir::Files))
        QFile::remove(info.absoluteFilePath());  // the program ended before it was
    const QDateTime oldest = QDateTime::currentDateTime().addDays(-kThrownDays);
    for (const auto& info : QDir(folder_ + "/" + kThrown).entryInfoList(QDir::Files))
        if (info.lastModified() < oldest) QFile::remove(info.absoluteFilePath());
    soon_.setSingleShot(true);
    soon_.setInterval(copy_after);
    connect(&soon_, &QTimer::timeout, this, &StudyFiles::keep_copy);
    connect(&session_.document, &Document::saved_state_changed, this, [this] {
        // Counted from the first change: who goes on working must not put it off.
        if (session_.document.has_unsaved_changes() && !soon_.isActive()) soon_.start();
    });
    connect(copies_.get(), &Background::failed, this, [this](const QString& why) { emit copy_failed(why); });
    connect(copies_.get(), &Background::idle, this, [this] {
        if (std::exchange(copy_again_, false)) keep_copy();
    });
}

StudyFiles::~StudyFiles() {
    copies_.reset();  // nothing is written after this
    QFile::remove(copy_path());
    QFile::remove(claim_path());
}

QString StudyFiles::copy_path() const { return QDir(folder_).filePath(name_ + kCopyEnding); }
QString StudyFiles::claim_path() const { return QDir(folder_).filePath(name_ + kClaimEnding); }

void StudyFiles::put(const service::Study& study, const QString& path, const std::optional<files::FileStamp>& read) {
    drop_copy();
    recovered_from_.clear();
    session_.document.put(study, path);
    known_ = std::make_shared<Known>();
    known_->stamp = read;
    if (path.isEmpty()) return claim_.release();
    remember(path);
    if (!claim_.take(path)) emit open_elsewhere(path);
}

void StudyFiles::forget_file() {
    drop_copy();
    claim_.release();
    known_ = std::make_shared<Known>();
    recovered_from_.clear();
}

void StudyFiles::open(const QString& path, Replace replace) { read(path, path, std::move(replace)); }

void StudyFiles::open_copy(const QString& path, Replace replace) { read(path, {}, std::move(replace)); }

void StudyFiles::read(const QString& path, const QString& owner, Replace replace) {
    jobs_.reading.run([this, path, owner, replace = std::move(replace)](const Task& task) -> Background::Then {
        std::vector<std::string> remarks;
        // Before it is read: whoever writes it meanwhile, or while a dialog is open, is somebody else.
        const auto stamp = files::stamp_of(path.toStdString());
        auto study = std::make_shared<service::Study>(files::open_study(path.toStdString(), task, &remarks));
        return [this, path, owner, study, stamp, replace, remarks = std::move(remarks)] {
            const auto now = [this, path, owner, study, stamp, remarks] {
                put(*study, owner, stamp);
                emit opened(path);
                for (const auto& remark : remarks) emit remarked(QString::fromStdString(remark));
            };
            if (replace)
                replace(now);
            else
                now();
        };
    });
}

void StudyFiles::tell(const Saved& saved, bool done) {
    if (--saves_ == 0) saving_.reset();
    const auto waiting = std::exchange(waiting_, {});
    if (saved) saved(done);
    for (const auto& w : waiting) w(done);
}

bool StudyFiles::is_saving(Document::Point point) const { return saving_ == point; }

void StudyFiles::save(const QString& path, Saved saved, bool over_others) {
    const auto study = session_.document.study();
    const auto point = session_.document.point();
    saving_ = point;
    ++saves_;
    session_.document.saving_began();
    const bool same = !session_.document.path().isEmpty() &&
                      files::same_file(path.toStdString(), session_.document.path().toStdString());
    const bool own_file = !over_others && same;
    jobs_.saving.run(
        [this, path, study, point, same, own_file, known = known_, saved](const Task& task) -> Background::Then {
            if (const auto what = same ? std::nullopt : files::read_from(study, path.toStdString()))
                throw InputError({path.toStdString(), std::nullopt,
                                  fmt::format("{} were read from this file, and the study would take its place", *what),
                                  "Choose another name"});
            std::optional<files::Expected> expected;
            {
                const std::lock_guard lock(known->mutex);
                // Had the file been removed meanwhile, there is nothing of anybody's to write over.
                if (own_file && files::stamp_of(path.toStdString())) expected = files::Expected{known->stamp};
            }
            try {
                files::save_study(study, path.toStdString(), task, expected);
                const std::lock_guard lock(known->mutex);
                known->stamp = files::stamp_of(path.toStdString());
            } catch (const files::ChangedMeanwhile&) {
                return [this, path, point, saved] {
                    session_.document.saving_ended(point.document);
                    tell(saved, false);
                    emit written_by_others(path);
                };
            }
            return [this, path, point, saved] {
                session_.document.saving_ended(point.document);
                if (point.document == session_.document.point().document) {
                    session_.document.mark_saved(path, point);
                    claim_.take(path);
                    recovered_from_.clear();
                    if (!session_.document.has_unsaved_changes()) drop_copy();
                }
                remember(path);
                emit this->saved(path);
                tell(saved, true);
            };
        },
        [this, point, saved](const QString&) {
            session_.document.saving_ended(point.document);
            tell(saved, false);
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

std::vector<LeftCopy> StudyFiles::left_behind() const {
    std::vector<LeftCopy> out;
    for (const auto& info : QDir(folder_).entryInfoList({QString("*") + kCopyEnding}, QDir::Files, QDir::Time)) {
        const QString copy = info.absoluteFilePath();
        if (info.fileName() == name_ + kCopyEnding || copy == recovered_copy_ ||
            FileClaim().is_elsewhere(claim_of(copy)))
            continue;
        LeftCopy left{copy, {}, {}, info.lastModified()};
        if (QFile about(claim_of(copy)); about.open(QIODevice::ReadOnly)) {
            const QStringList lines = QString::fromUtf8(about.readAll()).split('\n');
            left.study = lines.value(0);
            left.file = lines.value(1);
        }
        out.push_back(std::move(left));
    }
    return out;
}

void StudyFiles::recover(const QString& copy, Replace replace) {
    QString from;
    for (const auto& left : left_behind())
        if (left.path == copy) from = left.file;
    jobs_.reading.run([this, copy, from, replace = std::move(replace)](const Task& task) -> Background::Then {
        auto study = std::make_shared<service::Study>(files::open_study(copy.toStdString(), task));
        return [this, copy, from, study, replace] {
            const auto now = [this, copy, from, study] {
                put(*study, {}, std::nullopt);
                session_.document.mark_recovered();
                recovered_from_ = from;
                recovered_copy_ = copy;  // it stays until there is one of our own
                keep_copy();
                emit left_behind_changed();
                emit opened({});
            };
            if (replace)
                replace(now);
            else
                now();
        };
    });
}

QString StudyFiles::discard(const QString& copy) {
    const QString thrown = folder_ + "/" + kThrown + "/" + QFileInfo(copy).fileName();
    if (!QFile::rename(copy, thrown)) return {};
    QFile::rename(claim_of(copy), claim_of(thrown));
    emit left_behind_changed();
    return thrown;
}

bool StudyFiles::take_back(const QString& discarded) {
    const QString copy = folder_ + "/" + QFileInfo(discarded).fileName();
    if (!QFile::rename(discarded, copy)) return false;
    QFile::rename(claim_of(discarded), claim_of(copy));
    emit left_behind_changed();
    return true;
}

void StudyFiles::forget_recovered() {
    if (recovered_copy_.isEmpty()) return;
    QFile::remove(recovered_copy_);
    QFile::remove(claim_of(recovered_copy_));
    recovered_copy_.clear();
}

void StudyFiles::claim_copy() {
    const QString about =
        QString::fromStdString(session_.document.study().name).replace('\n', ' ') + "\n" +
        (session_.document.path().isEmpty() ? recovered_from_
                                            : QFileInfo(session_.document.path()).absoluteFilePath()) +
        "\n";
    QDir().mkpath(folder_);
    QFile file(claim_path());  // written in place, since the claim is on the file
    if (file.open(QIODevice::WriteOnly)) file.write(about.toUtf8());
    file.close();
    copy_claim_.take(claim_path());
}

void StudyFiles::drop_copy() {
    forget_recovered();
    soon_.stop();
    copy_again_ = false;
    copies_->stop();
    throw_away(copy_path());
}

void StudyFiles::keep_copy() {
    if (!session_.document.has_unsaved_changes()) return;
    if (copies_->busy()) {
        copy_again_ = true;
        return;
    }
    const auto study = session_.document.study();
    claim_copy();
    copies_->run([this, study, document = session_.document.point().document,
                  path = copy_path()](const Task& task) -> Background::Then {
        files::save_study(study, path.toStdString(), task);
        return [this, document] {
            if (!session_.document.has_unsaved_changes() || document != session_.document.point().document)
                return throw_away(copy_path());  // it was saved, or left, meanwhile
            forget_recovered();
            emit copy_kept();
        };
    });
}

}  // namespace otoro::desktop
