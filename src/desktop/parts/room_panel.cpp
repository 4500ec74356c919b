#include "desktop/parts/room_panel.h"

#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

#include "desktop/parts/flow_layout.h"
#include "desktop/parts/quiet_table.h"
#include "desktop/words.h"
#include "files/write_answer.h"

namespace otoro::desktop {
namespace {

constexpr int kRoomSite = Qt::UserRole;

bool is_by_capacity(const PlanAnswerPtr& answer) {
    return answer && answer->outcome.capacity &&
           std::holds_alternative<service::AsCapacityAllows>(answer->outcome.question.serving);
}

}  // namespace

RoomPanel::RoomPanel(Session& session, QWidget* parent) : QWidget(parent), session_(session), work_(this) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    box->setSpacing(4);
    auto* heading = new QLabel(tr("ROOM"), this);
    heading->setProperty("role", "heading");
    summary_ = new QLabel(this);
    summary_->setTextFormat(Qt::RichText);
    summary_->setWordWrap(true);
    more_ = new QSpinBox(this);
    more_->setObjectName("more_places");
    more_->setAccessibleName(tr("How many places more at a site"));
    more_->setRange(1, 1'000'000);
    more_->setValue(10);
    more_->setSuffix(tr(" more places"));
    more_->setToolTip(tr("So many places more at one site; each full site is tried"));
    go_ = new QPushButton(this);
    go_->setObjectName("work_out");
    go_->setText(tr("Work out"));
    go_->setAccessibleName(tr("Work out what more places at a site would bring"));
    list_ =
        quiet_table({tr("more at"), tr("find room"), tr("travel")}, tr("What more places at a site would bring"), this);
    auto* row = new QWidget(this);
    auto* asked = new FlowLayout(row, 10, 2);
    asked->setContentsMargins(0, 0, 0, 0);
    asked->addWidget(more_);
    asked->addWidget(go_);
    box->addWidget(heading);
    box->addWidget(summary_);
    box->addWidget(row);
    box->addWidget(list_);
    connect(go_, &QPushButton::clicked, this, [this] { work_.busy() ? work_.stop() : ask(); });
    connect(&session_.answers, &Answers::changed, this, &RoomPanel::follow);
    connect(&work_, &WorkedOutSignals::changed, this, &RoomPanel::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, &RoomPanel::trouble);
    connect(list_, &QTableWidget::cellClicked, this, [this](int at) {
        session_.selection.pick({{}, SiteIndex(list_->item(at, 0)->data(kRoomSite).toUInt())});
    });
    follow();
}

QString RoomPanel::summary() const { return summary_->text(); }

void RoomPanel::follow() {
    const auto answer = session_.answers.shown();
    setVisible(is_by_capacity(answer));
    if (!is_by_capacity(answer) || (work_.found() && work_.found()->answer != answer)) work_.forget();
    refresh();
}

void RoomPanel::ask() {
    const auto answer = session_.answers.shown();
    if (!is_by_capacity(answer) || !session_.answers.up_to_date()) return;
    work_.ask([answer, more = Weight(std::int64_t{more_->value()} * 1'000'000)](const Task& task) {
        return std::make_shared<const Found>(
            Found{answer, worth_of_more_room(*answer->ready, answer->outcome, more, task)});
    });
}

void RoomPanel::refresh() {
    const auto answer = session_.answers.shown();
    if (!is_by_capacity(answer)) return;
    const auto& o = answer->outcome;
    const auto& c = *o.capacity;
    summary_->setText(!c.room ? tr("Some sites state no capacity and take all.")
                      : c.no_room.count() > 0
                          ? tr("Room for %1, asked for by %2; <b>%3 find none</b>.")
                                .arg(plain(describe(*c.room)), plain(describe(c.asked)), plain(describe(c.no_room)))
                          : tr("Room for %1, asked for by %2: all find some.")
                                .arg(plain(describe(*c.room)), plain(describe(c.asked))));
    go_->setText(work_.busy() ? tr("Stop") : tr("Work out"));
    go_->setEnabled(work_.busy() || session_.answers.up_to_date());
    const auto& found = work_.found();
    list_->setVisible(found != nullptr);
    if (!found) return;
    const QuietChange quiet(*list_, static_cast<int>(found->all.size()));
    for (int row = 0; row < static_cast<int>(found->all.size()); ++row) {
        const auto& m = found->all[static_cast<std::size_t>(row)];
        auto& first = put_cell(*list_, row, 0, plain(service::label(o.sites[m.site.value()].planned.site)), false);
        first.setData(kRoomSite, m.site.value());
        put_cell(*list_, row, 1, plain(describe(m.find_room)), true);
        const QString travel = plain(files::travel_words(o, -m.saved));
        put_cell(*list_, row, 2, m.saved < 0 ? "+" + travel : travel, true)
            .setToolTip(tr("How the travel of all who find room changes; those who find room besides travel too"));
    }
    fit_height(*list_, 7);
}

}  // namespace otoro::desktop
