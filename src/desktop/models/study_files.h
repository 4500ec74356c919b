#pragma once
/// \file
/// Opening and saving, and losing nothing: not in a crash, not to another window, not when the disk refuses.
#include <QDateTime>
#include <QObject>
#include <QTimer>
#include <chrono>
#include <functional>
#include <memory>
#include <mutex>

#include "desktop/models/file_claim.h"
#include "desktop/models/jobs.h"
#include "desktop/models/session.h"
#include "files/atomic_file.h"

namespace otoro::desktop {

/// A copy that a program left which ended before its study was saved.
struct LeftCopy {
    QString path;
    QString study;   ///< its name
    QString file;    ///< the file it was opened from or saved to; may be empty
    QDateTime kept;  ///< when
};

class StudyFiles : public QObject {
    Q_OBJECT
public:
    /// Told how a save went.
    using Saved = std::function<void(bool done)>;
    /// Asked, once a study has been read, to put it on the desk; may refuse, since there may be something unsaved by
    /// now.
    using Replace = std::function<void(const std::function<void()>& put)>;

    /// \param recovery_folder where copies for after a crash are kept; empty: the user's own
    /// \param copy_after so long after a change there is a copy, whether changes go on or not
    StudyFiles(Session& session, Jobs& jobs, QString recovery_folder = {}, QObject* parent = nullptr,
               std::chrono::milliseconds copy_after = std::chrono::seconds(5));
    ~StudyFiles() override;

    /// Reads a study and puts it on the desk by way of `replace`; without one, at once.
    void open(const QString& path, Replace replace = {});
    /// The same as a new study, which is not that file's: it is saved somewhere else.
    void open_copy(const QString& path, Replace replace = {});
    /// Saves what is on the desk now. What is edited meanwhile stays unsaved.
    /// \param over_others also if somebody else has written the file since it was opened
    void save(const QString& path, Saved saved = {}, bool over_others = false);
    /// Whether just this is being saved.
    [[nodiscard]] bool is_saving(Document::Point point) const;
    /// Calls `ended` when what is being saved now is, or is not.
    void when_saved(Saved ended) { waiting_.push_back(std::move(ended)); }
    /// A new study has no file: what was claimed is free again.
    void forget_file();
    [[nodiscard]] bool is_open_elsewhere(const QString& path) const { return claim_.is_elsewhere(path); }

    [[nodiscard]] QStringList recent() const;
    /// Copies left by programs that are no longer running, newest first.
    [[nodiscard]] std::vector<LeftCopy> left_behind() const;
    void recover(const QString& copy, Replace replace = {});
    /// Throws a copy away, so that it can be taken back for a month. \returns where it is now; empty if it could not be
    /// moved
    QString discard(const QString& copy);
    /// Takes a thrown copy back.
    bool take_back(const QString& discarded);
    /// Keeps a copy now, if there is something unsaved. Called by itself some seconds after a change.
    void keep_copy();
    [[nodiscard]] QString copy_path() const;
    /// Where a study that was brought back came from, for saving it there.
    [[nodiscard]] const QString& recovered_from() const { return recovered_from_; }

signals:
    void opened(const QString& path);
    void remarked(const QString& what);  ///< of the file that was opened
    void saved(const QString& path);
    void copy_kept();
    void copy_failed(const QString& why);
    void left_behind_changed();
    /// The file was opened, and another window has it open too.
    void open_elsewhere(const QString& path);
    /// Somebody else wrote the file since it was opened; it was not saved.
    void written_by_others(const QString& path);

private:
    void read(const QString& path, const QString& owner, Replace replace);
    void remember(const QString& path);
    /// \param read the file as it was before it was read
    void put(const service::Study& study, const QString& path, const std::optional<files::FileStamp>& read);
    void drop_copy();
    void claim_copy();
    void forget_recovered();
    void tell(const Saved& saved, bool done);
    [[nodiscard]] QString claim_path() const;

    Session& session_;
    Jobs& jobs_;
    std::unique_ptr<Background> copies_;
    QString folder_;
    QString name_;  ///< of this program's copy
    FileClaim claim_, copy_claim_;
    /// The study's file as it was read or written last: by saves one after another on their thread, so that a second
    /// one knows what the first wrote.
    struct Known {
        std::mutex mutex;
        std::optional<files::FileStamp> stamp;
    };
    std::shared_ptr<Known> known_ = std::make_shared<Known>();
    std::optional<Document::Point> saving_;  ///< the last that is under way or waits
    int saves_ = 0;
    std::vector<Saved> waiting_;
    QString recovered_from_, recovered_copy_;
    bool copy_again_ = false;  ///< something changed while a copy was being written
    QTimer soon_;
};

}  // namespace otoro::desktop
