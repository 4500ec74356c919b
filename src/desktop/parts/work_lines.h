#pragma once
#include <QVBoxLayout>
#include <QWidget>

#include "desktop/models/fixer.h"
#include "desktop/models/jobs.h"
#include "desktop/models/session.h"

namespace otoro::desktop {
class ProgressLine;

/// A line of progress, with a stop, for each kind of work; and what is to be told when it has ended.
class WorkLines : public QWidget {
    Q_OBJECT
public:
    WorkLines(Session& session, Jobs& jobs, Fixer& fixer, QWidget* parent);

signals:
    void stopped(const QString& said);
    /// Work that took some seconds has ended, well or not.
    void long_work_ended(const QString& said);

private:
    ProgressLine& add(const QString& stopping);
    void follow_answers();
    void follow(Background& work, const QString& stopping, const QString& when_stopped, const QString& when_done,
                const QString& when_failed);
    Session& session_;
    QVBoxLayout* lines_;
};

}  // namespace otoro::desktop
