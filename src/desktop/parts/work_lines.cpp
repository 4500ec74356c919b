#include "desktop/parts/work_lines.h"

#include <QElapsedTimer>
#include <memory>

#include "desktop/parts/strips.h"

namespace otoro::desktop {
namespace {

/// Since when something is under way.
class Stopwatch {
public:
    void start() {
        if (!since_.isValid()) since_.start();
    }
    /// Whether it was long, and from now on nothing is under way.
    bool stop() {
        constexpr qint64 kLongMs = 5'000;
        const bool was_long = since_.isValid() && since_.elapsed() > kLongMs;
        since_.invalidate();
        return was_long;
    }

private:
    QElapsedTimer since_;
};

}  // namespace

WorkLines::WorkLines(Session& session, Jobs& jobs, Fixer& fixer, QWidget* parent) : QWidget(parent), session_(session) {
    lines_ = new QVBoxLayout(this);
    lines_->setContentsMargins(0, 0, 0, 0);
    lines_->setSpacing(0);
    follow_answers();
    add(tr("Stop looking for what is wrong with the data")).follow(fixer.checks());
    follow(jobs.reading, tr("Stop reading"), tr("Reading was stopped. The study is as it was."),
           tr("The file was read."), tr("The file could not be read."));
    follow(jobs.saving, tr("Stop saving"), tr("Saving was stopped. The file is as it was; the study is not saved."),
           tr("The study was saved."), tr("The study could not be saved."));
    follow(jobs.fixing, tr("Stop the fix"), tr("The fix was stopped. The study is as it was."), tr("The fix is done."),
           tr("The fix could not be done."));
    follow(jobs.exporting, tr("Stop exporting"), tr("Exporting was stopped. Nothing was written."),
           tr("The file was written."), tr("The file could not be written."));
}

ProgressLine& WorkLines::add(const QString& stopping) {
    auto* line = new ProgressLine(stopping, this);
    lines_->addWidget(line);
    return *line;
}

void WorkLines::follow_answers() {
    auto& answers = session_.answers;
    auto& answering = add(tr("Stop working the answer out"));
    const auto watch = std::make_shared<Stopwatch>();
    connect(&answers, &Answers::working, &answering, &ProgressLine::at);
    connect(&answers, &Answers::work_ended, &answering, &ProgressLine::end);
    connect(&answering, &ProgressLine::stop_wanted, this, [&answers] { answers.stop_working(); });
    connect(&answers, &Answers::working, this, [watch] { watch->start(); });
    connect(&answers, &Answers::work_ended, this, [this, &answers, watch] {
        if (watch->stop() && answers.up_to_date()) emit long_work_ended(tr("The answer is there."));
    });
    auto& preparing = add(tr("Stop getting ready for faster answers"));
    connect(&answers, &Answers::preparing, &preparing, [&preparing](const QString& step, double done) {
        preparing.at(tr("Answers are there; getting ready for faster ones: %1").arg(step), done);
    });
    connect(&answers, &Answers::prepared, &preparing, &ProgressLine::end);
    connect(&preparing, &ProgressLine::stop_wanted, this, [&answers, &preparing] {
        answers.answerer().stop_preparing();
        preparing.end();
    });
}

void WorkLines::follow(Background& work, const QString& stopping, const QString& when_stopped, const QString& when_done,
                       const QString& when_failed) {
    add(stopping).follow(work);
    const auto watch = std::make_shared<Stopwatch>();
    connect(&work, &Background::progressed, this, [watch] { watch->start(); });
    connect(&work, &Background::succeeded, this, [this, watch, when_done] {
        if (watch->stop()) emit long_work_ended(when_done);
    });
    connect(&work, &Background::failed, this, [this, watch, when_failed] {
        if (watch->stop()) emit long_work_ended(when_failed);
    });
    connect(&work, &Background::stopped, this, [this, watch, when_stopped] {
        watch->stop();
        emit stopped(when_stopped);
    });
}

}  // namespace otoro::desktop
