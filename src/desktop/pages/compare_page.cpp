#include "desktop/pages/compare_page.h"

#include <QFrame>
#include <QLabel>
#include <QSplitter>
#include <QVBoxLayout>

#include "desktop/parts/difference_view.h"
#include "desktop/parts/plan_table.h"
#include "desktop/parts/save_place.h"
#include "desktop/parts/scrolled.h"
#include "desktop/theme.h"
#include "files/add_data.h"
#include "files/atomic_file.h"
#include "files/compare_file.h"

namespace otoro::desktop {

ComparePage::ComparePage(Session& session, Jobs& jobs, QWidget* parent)
    : QWidget(parent), session_(session), jobs_(jobs), figures_(session.document, session.answers) {
    setObjectName("page");
    empty_ = new QLabel(this);
    empty_->setWordWrap(true);
    empty_->setAlignment(Qt::AlignCenter);
    plans_ = new PlanTable(session_, figures_, this);
    two_ = new DifferenceView(session_, this);
    auto* down = new QSplitter(Qt::Vertical, this);
    down->addWidget(plans_);
    down->addWidget(new Scrolled(two_, this));
    down->setChildrenCollapsible(false);
    down->setSizes({theme::scaled(260), theme::scaled(420)});
    down->setStretchFactor(1, 1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(16, 10, 16, 10);
    box->addWidget(empty_);
    box->addWidget(down, 1);
    connect(plans_, &PlanTable::open_wanted, this, &ComparePage::open_wanted);
    connect(plans_, &PlanTable::export_wanted, this, &ComparePage::choose_file);
    connect(two_, &DifferenceView::show_wanted, this, &ComparePage::show_wanted);
    connect(two_, &DifferenceView::trouble, this, &ComparePage::trouble);
    connect(&figures_, &PlanFigures::failed, this, &ComparePage::trouble);
    connect(&figures_, &PlanFigures::changed, this, &ComparePage::refresh);
    refresh();
}

QString ComparePage::empty_text() const { return empty_->isHidden() ? QString() : empty_->text(); }

void ComparePage::refresh() {
    const auto& study = session_.document.study();
    const bool nothing = !study.inputs().has_value();
    const bool alone = study.plans.size() < 2;
    empty_->setText(nothing ? tr("Nothing can be compared yet: add roads, demand and sites first.")
                            : tr("There is no plan but Today. Open or close a site on the map, and the plan stands "
                                 "here beside it."));
    empty_->setVisible(nothing || alone);
    plans_->setVisible(!nothing);
    two_->setVisible(!nothing && !alone);
}

void ComparePage::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    figures_.look(true);
    refresh();
}

void ComparePage::hideEvent(QHideEvent* e) {
    QWidget::hideEvent(e);
    figures_.look(false);
}

void ComparePage::choose_file() {
    if (!figures_.up_to_date()) return emit trouble(tr("The table is not worked out yet. Export it in a moment."));
    if (const auto path =
            ask_where_to_save(this, tr("Export the table of plans"), "plans.csv", {{tr("Table, CSV"), ".csv"}}))
        write_figures(*path);
}

void ComparePage::write_figures(const QString& path) {
    const auto found = figures_.found();
    if (!found) return;
    if (const auto what = files::read_from(session_.document.study(), path.toStdString()))
        return emit trouble(
            tr("%1: %2 of the study were read from it. Choose another name.").arg(path, QString::fromStdString(*what)));
    jobs_.exporting.run([this, path, found](const Task&) -> Background::Then {
        std::vector<service::PlanFigures> all;
        for (const auto& of : found->figures.of) all.insert(all.end(), of.begin(), of.end());
        files::write_text(path.toStdString(), files::figures_csv(all));
        return [this, path] { emit done(tr("Written to %1.").arg(path)); };
    });
}

}  // namespace otoro::desktop
