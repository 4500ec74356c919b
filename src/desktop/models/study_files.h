#pragma once
/// \file
/// Opening, saving, and losing nothing in a crash.
#include <QObject>
#include <QTimer>

#include "desktop/models/background.h"
#include "desktop/models/session.h"

namespace otoro::desktop {

class StudyFiles : public QObject {
    Q_OBJECT
public:
    /// \param recovery_folder where copies for after a crash are kept; empty: the user's own
    StudyFiles(Session& session, Background& background, QString recovery_folder = {}, QObject* parent = nullptr);
    ~StudyFiles() override;

    void open(const QString& path);
    void save(const QString& path);
    [[nodiscard]] QStringList recent() const;
    /// Copies left by programs that are no longer running, newest first.
    [[nodiscard]] QStringList left_behind() const;
    void recover(const QString& copy);
    void discard(const QString& copy) const;
    /// Keeps a copy now, if there is something unsaved. Called by itself some seconds after a change.
    void keep_copy();
    [[nodiscard]] QString copy_path() const;

signals:
    void opened(const QString& path);
    void saved(const QString& path);
    void copy_kept();

private:
    void remember(const QString& path);
    Session& session_;
    Background& background_;
    Background copies_;
    QString folder_;
    QTimer soon_;
    bool unsaved_at_copy_ = false;
};

}  // namespace otoro::desktop
