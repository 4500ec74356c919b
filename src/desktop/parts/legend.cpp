#include "desktop/parts/legend.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QPainter>
#include <QPushButton>

#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

/// The scale of the map's look.
class RampBar : public QWidget {
public:
    RampBar(Session& session, MapView& map, QWidget* parent) : QWidget(parent), session_(session), map_(map) {
        setFixedHeight(31);
        setMinimumWidth(180);
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.setFont(theme::type(0.85));
        const auto answer = session_.answers.shown();
        const auto& style = map_.style_now();
        style.look->paint_legend(p, QRectF(2, 2, width() - 4, height() - 3), answer ? &answer->outcome : nullptr,
                                 style.limit);
    }

private:
    Session& session_;
    MapView& map_;
};

}  // namespace

Legend::Legend(Session& session, MapView& map, QWidget* parent) : QFrame(parent), session_(session), map_(map) {
    setObjectName("legend");
    setStyleSheet(
        "QFrame#legend { border: none; border-top: 1px solid #D3CCBC; } QCheckBox { font-size: 9pt; padding: 0px; spacing: 4px; } QPushButton#flat { font-size: 9pt; padding: 2px 8px; } "
        "QPushButton#flat:checked { background: #EEE0EC; border-color: #6B2A62; font-weight: 600; }");
    setAccessibleName(tr("Legend"));
    auto* looks = new QHBoxLayout;
    looks->setSpacing(4);
    auto* group = new QButtonGroup(this);
    for (const MapLook* look : map_looks()) {
        auto* b = new QPushButton(look->title(), this);
        b->setObjectName("flat");
        b->setCheckable(true);
        b->setAccessibleName(tr("Map look: %1").arg(look->title()));
        group->addButton(b);
        looks->addWidget(b);
        looks_[look->key()] = b;
        connect(b, &QPushButton::clicked, this, [this, look] { map_.set_look(*look); });
    }
    auto* others = new QHBoxLayout;
    others->setSpacing(12);
    others->addWidget(add_row(Layer::sites, tr("sites")));
    others->addWidget(add_row(Layer::labels, tr("names")));
    others->addWidget(add_row(Layer::roads, tr("roads")));
    auto* places = new QHBoxLayout;
    places->setSpacing(14);
    places->addWidget(add_row(Layer::within, tr("within the standard")));
    places->addWidget(add_row(Layer::beyond, tr("beyond it")));
    places->addWidget(add_row(Layer::unserved, tr("not served")));
    places->addStretch(1);
    bar_ = new RampBar(session, map, this);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(10, 4, 10, 4);
    grid->setHorizontalSpacing(18);
    grid->setVerticalSpacing(2);
    grid->addLayout(looks, 0, 0);
    grid->addLayout(others, 1, 0);
    grid->addWidget(bar_, 0, 1);
    grid->addLayout(places, 1, 1);
    grid->setColumnStretch(1, 1);
    connect(&map_, &MapView::style_changed, this, &Legend::refresh);
    connect(&session_.answers, &Answers::changed, this, &Legend::refresh);
    refresh();
}

QCheckBox* Legend::add_row(Layer layer, const QString& text) {
    auto* c = new QCheckBox(text, this);
    c->setAccessibleName(tr("Show on the map: %1").arg(text));
    c->setChecked(true);
    connect(c, &QCheckBox::toggled, this, [this, layer](bool on) { map_.set_layer_shown(layer, on); });
    rows_[layer] = c;
    return c;
}

void Legend::refresh() {
    for (const auto& [look, button] : looks_) button->setChecked(map_.style_now().look->key() == look);
    for (const auto& [layer, box] : rows_) {
        const QSignalBlocker quiet(box);
        box->setChecked(map_.style_now().shows(layer));
    }
    const auto answer = session_.answers.shown();
    const auto verdict = session_.answers.verdict();
    QString within = tr("within the standard"), beyond = tr("beyond it"), unserved = tr("not served");
    if (answer && verdict) {
        const auto n = [](std::uint32_t v) {
            return QString::fromStdString(describe(Weight(std::int64_t{v} * 1'000'000)));
        };
        const auto served = answer->outcome.tally(service::Status::served).places;
        within += tr(": %1").arg(n(verdict->inside.places));
        beyond += tr(": %1").arg(n(served - verdict->inside.places));
        unserved += tr(": %1").arg(n(answer->outcome.all.places - served));
    }
    rows_.at(Layer::within)->setText(within);
    rows_.at(Layer::beyond)->setText(beyond);
    rows_.at(Layer::unserved)->setText(unserved);
    bar_->update();
}

}  // namespace otoro::desktop
