#include "desktop/parts/verdict_view.h"

#include <QGridLayout>
#include <QLabel>
#include <QPushButton>

#include "desktop/theme.h"
#include "desktop/words.h"
#include "service/sentence.h"

namespace otoro::desktop {

QString points(Share from, Share to) {
    const double change = (to.ppm() - from.ppm()) / 10'000.0;
    const QString tenths = decimal(std::abs(change), 1);
    return (std::abs(change) < 0.05 ? QString::fromUtf8("\u00b1")
            : change > 0            ? QString("+")
                                    : QString::fromUtf8("\u2212")) +
           tenths;
}

VerdictView::VerdictView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    share_ = new QLabel(this);
    share_->setFont(theme::type(2.9, QFont::Light));
    verdict_ = new QLabel(this);
    verdict_->setFont(theme::type(1.35, QFont::DemiBold));
    detail_ = new QLabel(this);
    detail_->setProperty("role", "soft");
    again_ = new QPushButton(tr("Work it out"), this);
    again_->setAccessibleName(tr("Work the answer out again"));
    again_->hide();
    connect(again_, &QPushButton::clicked, &session_.answers, &Answers::ask_again);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(16, 2, 4, 2);
    grid->setHorizontalSpacing(14);
    grid->setVerticalSpacing(0);
    grid->addWidget(share_, 0, 0, 2, 1, Qt::AlignVCenter);
    grid->addWidget(verdict_, 0, 1, Qt::AlignBottom);
    grid->addWidget(detail_, 1, 1, Qt::AlignTop);
    grid->addWidget(again_, 0, 2, 2, 1, Qt::AlignVCenter);
    setMinimumWidth(theme::scaled_column(250));
    detail_->setWordWrap(true);
    detail_->setMinimumWidth(theme::scaled_column(178));
    connect(&session_.answers, &Answers::changed, this, &VerdictView::refresh);
    connect(&session_.document, &Document::plans_changed, this, &VerdictView::refresh);
    connect(&session_.document, &Document::question_changed, this, &VerdictView::refresh);
    connect(&session_.answers, &Answers::work_ended, this, &VerdictView::refresh);
    refresh();
}

QString VerdictView::share_text() const { return share_->text(); }
QString VerdictView::verdict_text() const { return verdict_->text(); }

void VerdictView::refresh() {
    const auto v = session_.answers.verdict();
    const bool stale = !session_.answers.up_to_date();
    again_->setVisible(stale && session_.document.study().inputs() && !session_.answers.asking());
    const auto paint = [](QLabel* label, const QColor& c) { label->setStyleSheet(QString("color: %1").arg(c.name())); };
    if (!v) {
        share_->setText(QString::fromUtf8("\u2013"));
        verdict_->setText(!session_.document.study().inputs() ? tr("no answer yet")
                          : session_.answers.asking()         ? tr("being worked out")
                                                              : tr("not worked out yet"));
        detail_->setText(session_.document.study().inputs() ? QString() : tr("Add roads, demand and sites"));
        paint(share_, theme::kSoftInk);
        paint(verdict_, theme::kSoftInk);
        setAccessibleName(tr("Verdict: %1").arg(verdict_->text()));
        return;
    }
    const QColor colour = stale || v->judged() == service::Judged::nobody ? theme::kSoftInk
                          : v->met                                        ? theme::kMet
                                                                          : theme::kNotMet;
    share_->setText(v->steps.front().judged() == service::Judged::nobody ? QString::fromUtf8("\u2013")
                                                                         : QString::fromStdString(describe(v->share)));
    verdict_->setText(stale ? tr("out of date") : marked_words(v->judged()));
    paint(share_, colour);
    paint(verdict_, colour);
    QString detail = tr("%1 of %2 within %3")
                         .arg(QString::fromStdString(describe(v->inside.weight)),
                              QString::fromStdString(describe(v->steps.front().all.weight)),
                              QString::fromStdString(describe(v->standard.limit)));
    if (v->steps.size() > 1 && !stale) {
        const auto& question = session_.answers.question();
        const std::string whom = service::counted(question, session_.document.study().demand_of(question));
        detail += v->met ? tr("\nand %1")
                               .arg(v->steps.size() == 2 ? tr("its further step")
                                                         : tr("its %1 further steps").arg(v->steps.size() - 1))
                         : "\n" + QString::fromStdString(first_missed_words(*v, whom));
    }
    if (const auto today = session_.answers.verdict_of(0);
        today && !session_.answers.shown()->outcome.plan.is_today()) {
        detail += tr("\n%1 points from Today").arg(points(today->share, v->share));
    }
    detail_->setText(detail);
    setAccessibleName(
        tr("Verdict: %1, %2. %3").arg(share_->text(), verdict_->text(), QString(detail).replace('\n', "; ")));
}

}  // namespace otoro::desktop
