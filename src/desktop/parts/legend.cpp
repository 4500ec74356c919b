#include "desktop/parts/legend.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPaintEvent>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <utility>

#include "desktop/map/ground_drawing.h"
#include "desktop/parts/flow_layout.h"
#include "desktop/parts/reach_bar.h"
#include "desktop/parts/reach_switches.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {
namespace {

/// The scale of the map's look.
class RampBar : public QWidget {
public:
    RampBar(Session& session, MapView& map, QWidget* parent) : QWidget(parent), session_(session), map_(map) {
        setFixedHeight(14 + QFontMetrics(theme::type(0.85)).height());
        setMinimumWidth(theme::scaled_column(160));
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

/// What fills mean that are no bands.
class KeysBar : public QWidget {
public:
    KeysBar(MapView& map, QWidget* parent) : QWidget(parent), map_(map) {}
    [[nodiscard]] QSize sizeHint() const override {
        QImage nothing(1, 1, QImage::Format_ARGB32_Premultiplied);
        QPainter p(&nothing);
        p.setFont(theme::type(0.9));
        const QFontMetrics metrics(p.font());
        const QRectF where(0, 0, 10, metrics.height() + 2);
        return {static_cast<int>(paint_ground_keys(p, where, ground_keys(map_.style_now()))), metrics.height() + 2};
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.setFont(theme::type(0.9));
        paint_ground_keys(p, rect(), ground_keys(map_.style_now()));
    }

private:
    MapView& map_;
};

}  // namespace

Legend::Legend(Session& session, MapView& map, QWidget* parent) : QFrame(parent), session_(session), map_(map) {
    setObjectName("legend");
    setStyleSheet(QString("QFrame#legend { border: none; border-top: 1px solid #D3CCBC; } "
                          "QCheckBox { font-size: %1pt; padding: 0px; spacing: 4px; } "
                          "QPushButton#flat { font-size: %1pt; padding: 2px 8px; } "
                          "QPushButton#flat:checked { background: #EEE0EC; border-color: #6B2A62; font-weight: 600; }")
                      .arg(theme::points() * 0.9));
    setAccessibleName(tr("Legend"));
    auto* switches_of_looks = new QWidget(this);
    auto* looks = new FlowLayout(switches_of_looks, 4, 2);
    looks->setContentsMargins(0, 0, 0, 0);
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
    bar_ = new RampBar(session, map, this);
    reach_bar_ = new ReachBar(map, this);
    auto* above = new QHBoxLayout;
    above->setSpacing(14);
    if (theme::is_large()) above->setDirection(QBoxLayout::TopToBottom);
    above->addWidget(switches_of_looks, 2);
    above->addWidget(bar_, 1);
    above->addWidget(reach_bar_, 1);
    auto* switches = new QWidget(this);
    auto* flow = new FlowLayout(switches, 10, 1);
    flow->addWidget(stale_ = out_of_date(this));
    for (const auto& [layer, text] :
         {std::pair{Layer::sites, tr("sites")}, std::pair{Layer::lines, tr("lines")},
          std::pair{Layer::labels, tr("names")}, std::pair{Layer::roads, tr("roads")},
          std::pair{Layer::zones, tr("zones")}, std::pair{Layer::within, tr("within the standard")},
          std::pair{Layer::beyond, tr("beyond it")}, std::pair{Layer::unserved, tr("not served")}})
        flow->addWidget(add_row(layer, text));
    keys_ = new KeysBar(map, this);
    flow->addWidget(keys_);
    reach_ = new ReachSwitches(session, map, switches, *flow);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 4, 10, 4);
    box->setSpacing(2);
    box->addLayout(above);
    box->addWidget(switches);
    connect(&map_, &MapView::style_changed, this, &Legend::refresh);
    connect(&session_.answers, &Answers::changed, this, &Legend::refresh);
    connect(&session_.document, &Document::data_changed, this, &Legend::refresh);
    connect(&session_.document, &Document::question_changed, this, &Legend::refresh);
    connect(&session_.document, &Document::questions_changed, this, &Legend::refresh);
    connect(&session_.document, &Document::plans_changed, this, &Legend::refresh);
    connect(&session_.document, &Document::plan_chosen, this, &Legend::refresh);
    row(Layer::lines)
        ->setToolTip(tr(
            "Straight lines from places to the sites that serve them; those that lie together are one, as wide as they "
            "are heavy."));
    refresh();
}

QCheckBox* Legend::add_row(Layer layer, const QString& text) {
    auto* c = new QCheckBox(text, this);
    c->setAccessibleName(tr("Show on the map: %1").arg(text));
    c->setChecked(map_.style_now().shows(layer));
    connect(c, &QCheckBox::toggled, this, [this, layer](bool on) { map_.set_layer_shown(layer, on); });
    rows_[layer] = c;
    return c;
}

void Legend::refresh() {
    for (const MapLook* look : map_looks()) {
        auto* button = looks_.at(look->key());
        const bool current = map_.style_now().look == look;
        button->setChecked(current);
        if (look->shows_access()) button->setVisible(current || map_.style_now().access);
    }
    for (const auto& [layer, box] : rows_) {
        const QSignalBlocker quiet(box);
        box->setChecked(map_.style_now().shows(layer));
    }
    rows_.at(Layer::zones)->setVisible(session_.document.study().zones_of(session_.document.question()) != nullptr);
    const auto answer = session_.answers.shown();
    stale_->setVisible(answer && !session_.answers.up_to_date());
    const auto verdict = session_.answers.verdict();
    QString within = tr("within the standard"), beyond = tr("beyond it"), unserved = tr("not served");
    if (answer && verdict) {
        const auto served = answer->outcome.tally(service::Status::served).places;
        within += tr(": %1").arg(number(verdict->inside.places));
        beyond += tr(": %1").arg(number(served - verdict->inside.places));
        unserved += tr(": %1").arg(number(answer->outcome.all.places - served));
    }
    rows_.at(Layer::within)->setText(within);
    rows_.at(Layer::beyond)->setText(beyond);
    rows_.at(Layer::unserved)->setText(unserved);
    const auto& style = map_.style_now();
    const bool grounds = map_.ground_colours().has_value();
    bar_->setVisible(!grounds);
    reach_bar_->setVisible(grounds);
    reach_->refresh();
    const auto keys = ground_keys(style).size();
    if (std::exchange(key_count_, keys) != keys) keys_->updateGeometry();
    keys_->setVisible(keys > 0);
    keys_->update();
    bar_->update();
    reach_bar_->update();
}

}  // namespace otoro::desktop
