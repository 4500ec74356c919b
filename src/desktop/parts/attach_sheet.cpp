#include "desktop/parts/attach_sheet.h"

#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QListWidget>
#include <QPaintEvent>
#include <QPainter>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <array>

#include "desktop/parts/elided.h"
#include "desktop/parts/number_box.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/amounts.h"

namespace otoro::desktop {
namespace {

constexpr int kBins = 25;

/// Off-road legs in bins of a tenth of the limit and less, with the axis named.
class Histogram : public QWidget {
public:
    explicit Histogram(QWidget* parent) : QWidget(parent) {
        setMinimumHeight(130);
        setAccessibleName(AttachSheet::tr("Off-road legs, how many of what length"));
    }
    void set(std::vector<double> metres, double limit) {
        most_ = std::max(limit, 1.0);
        counts_.fill(0);
        for (const double m : metres)
            ++counts_[static_cast<std::size_t>(std::clamp(static_cast<int>(m / most_ * kBins), 0, kBins - 1))];
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setFont(theme::type(0.88));
        const int highest = std::max(1, *std::max_element(counts_.begin(), counts_.end()));
        const QRectF area(44, 8, width() - 56, height() - 36);
        p.setPen(theme::kSoftInk);
        p.drawText(QRectF(0, area.top() - 8, 40, 16), Qt::AlignRight | Qt::AlignVCenter, QString::number(highest));
        p.drawText(QRectF(0, area.bottom() - 8, 40, 16), Qt::AlignRight | Qt::AlignVCenter, "0");
        p.setPen(Qt::NoPen);
        p.setBrush(theme::kMet);
        for (int i = 0; i < kBins; ++i) {
            const double h = area.height() * counts_[static_cast<std::size_t>(i)] / highest;
            // One place in a tall histogram must still be seen.
            const double shown = counts_[static_cast<std::size_t>(i)] > 0 ? std::max(h, 2.0) : 0.0;
            p.drawRect(QRectF(area.left() + area.width() * i / kBins + 1, area.bottom() - shown,
                              area.width() / kBins - 2, shown));
        }
        p.setPen(theme::kInk);
        p.drawLine(area.bottomLeft(), area.bottomRight());
        p.drawText(QRectF(area.left() - 10, area.bottom() + 3, 60, 18), Qt::AlignLeft, "0 m");
        p.drawText(QRectF(area.center().x() - 40, area.bottom() + 3, 80, 18), Qt::AlignCenter,
                   AttachSheet::tr("off-road leg"));
        p.drawText(QRectF(area.right() - 60, area.bottom() + 3, 64, 18), Qt::AlignRight,
                   QString("%1 m").arg(most_, 0, 'f', 0));
    }

private:
    std::array<int, kBins> counts_{};
    double most_ = 250;
};

}  // namespace

AttachSheet::AttachSheet(Session& session, Fixer& fixer, const service::SetName& set, QWidget* parent)
    : QDialog(parent), session_(session), fixer_(fixer), set_(set) {
    setAttribute(Qt::WA_DeleteOnClose);
    setObjectName("attaching");
    setWindowTitle(tr("How the %1 are attached").arg(elided(QString::fromStdString(set.name))));
    resize(520, 620);
    limit_ = new NumberBox(this);
    limit_->setRange(1, 100'000);
    limit_->setDecimals(0);
    limit_->setSuffix(tr(" m"));
    limit_->setKeyboardTracking(false);
    limit_->setAccessibleName(tr("Farthest road that a place is attached to, in metres"));
    least_ = new NumberBox(this);
    least_->setRange(0, 100'000);
    least_->setDecimals(1);
    least_->setSuffix(" " + long_unit());
    least_->setSpecialValueText(tr("of any size"));
    least_->setKeyboardTracking(false);
    least_->setAccessibleName(tr("Only to pieces of at least this length"));
    classes_ = new QListWidget(this);
    classes_->setAccessibleName(tr("Classes that places may be attached to"));
    for (std::size_t i = 0; i < roads::kRoadClasses; ++i) {
        auto* item = new QListWidgetItem(
            QString::fromUtf8(name(static_cast<roads::RoadClass>(i)).data()).replace('_', ' '), classes_);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable | Qt::ItemIsSelectable);
        item->setCheckState(Qt::Checked);
    }
    histogram_ = new Histogram(this);
    effect_ = new QLabel(this);
    effect_->setWordWrap(true);
    by_hand_ = new QLabel(this);
    by_hand_->setProperty("role", "soft");
    by_hand_->setWordWrap(true);
    auto* form = new QFormLayout;
    form->addRow(tr("To roads within"), limit_);
    form->addRow(tr("To pieces"), least_);
    form->addRow(tr("To these classes"), classes_);
    auto* box = new QVBoxLayout(this);
    box->addLayout(form);
    box->addWidget(histogram_);
    box->addWidget(effect_);
    box->addWidget(by_hand_);
    connect(limit_, &QDoubleSpinBox::valueChanged, this, &AttachSheet::apply);
    connect(least_, &QDoubleSpinBox::valueChanged, this, &AttachSheet::apply);
    connect(classes_, &QListWidget::itemChanged, this, &AttachSheet::apply);
    connect(&fixer_, &Fixer::findings_changed, this, &AttachSheet::refresh);
    connect(&session_.document, &Document::data_changed, this, &AttachSheet::refresh);
    refresh();
}

const places::Attaching* AttachSheet::attaching() const {
    if (set_.kind == service::SetKind::demand) {
        const auto* d = session_.document.study().find_demand(set_.name);
        return d ? &d->set->attaching : nullptr;
    }
    const auto* s = session_.document.study().find_sites(set_.name);
    return s ? &s->set->attaching : nullptr;
}

const std::vector<std::optional<places::Attachment>>* AttachSheet::attached() const {
    const auto checked = fixer_.checked();
    if (!checked) return nullptr;
    const auto& all = set_.kind == service::SetKind::demand ? checked->demand : checked->sites;
    const auto at = all.find(set_.name);
    return at == all.end() ? nullptr : &at->second.attached;
}

void AttachSheet::refresh() {
    const auto* a = attaching();
    if (!a) return close(), void();
    const QSignalBlocker quiet_limit(limit_), quiet_least(least_), quiet_classes(classes_);
    const Millimetres limit = a->rule.limit.value_or(session_.document.question().attach_limit);
    limit_->setValue(limit.metres());
    least_->setValue(in_long_units(a->rule.least_piece));
    for (int i = 0; i < classes_->count(); ++i)
        classes_->item(i)->setCheckState(a->rule.allows(static_cast<roads::RoadClass>(i)) ? Qt::Checked
                                                                                          : Qt::Unchecked);
    by_hand_->setText(
        a->by_hand.empty()
            ? tr("None was set by hand. On the map, pick a place, then press the right button where it belongs.")
            : tr("Set by hand: %1").arg(a->by_hand.size()));
    const auto* places = attached();
    if (!places) return;
    std::vector<double> legs;
    for (const auto& p : *places)
        if (p) legs.push_back(p->off_road.metres());
    static_cast<Histogram*>(histogram_)->set(legs, limit.metres());
    const int now = static_cast<int>(legs.size());
    QString text = tr("%1 of %2 are attached.").arg(now).arg(places->size());
    if (attached_before_ >= 0 && attached_before_ != now)
        text += now > attached_before_ ? tr(" That is %1 more than before.").arg(now - attached_before_)
                                       : tr(" That is %1 fewer than before.").arg(attached_before_ - now);
    effect_->setText(text);
    if (attached_before_ < 0) attached_before_ = now;
}

void AttachSheet::apply() {
    const auto* a = attaching();
    if (!a) return;
    const auto* places = attached();
    if (places)
        attached_before_ = static_cast<int>(
            std::count_if(places->begin(), places->end(), [](const auto& p) { return p.has_value(); }));
    places::AttachRule rule;
    rule.limit = Millimetres::from_metres(
        value_near(*limit_, a->rule.limit.value_or(session_.document.question().attach_limit).metres()));
    if (*rule.limit == session_.document.question().attach_limit) rule.limit.reset();
    rule.least_piece = from_long_units(value_near(*least_, in_long_units(a->rule.least_piece)));
    rule.classes = 0;
    rule.ramps = a->rule.ramps;
    for (int i = 0; i < classes_->count(); ++i)
        if (classes_->item(i)->checkState() == Qt::Checked) rule.classes |= 1U << static_cast<unsigned>(i);
    if (rule != a->rule) fixer_.fix(service::SetAttachRule{set_, rule}, tr("how places are attached"));
}

QString AttachSheet::effect() const { return effect_->text(); }

}  // namespace otoro::desktop
