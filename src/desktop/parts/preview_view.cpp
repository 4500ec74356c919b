#include "desktop/parts/preview_view.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPaintEvent>
#include <QPainter>
#include <QPainterPath>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/map/viewport.h"
#include "desktop/parts/elided.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {
constexpr std::size_t kMostColumns = 40;
constexpr int kMostOfText = 60;
}  // namespace

class PreviewView::SmallMap : public QWidget {
public:
    explicit SmallMap(QWidget* parent) : QWidget(parent) {
        setFixedSize(theme::scaled_column(190), theme::scaled_column(126));
        setAccessibleName(PreviewView::tr("Where the records lie"));
    }
    void show(const std::vector<std::vector<geo::LonLat>>& shapes, const geo::Box& roads) {
        geo::Box all;
        for (const auto& shape : shapes)
            for (const auto& p : shape) all.add(p);
        const geo::Box own = all;
        if (!roads.empty()) {
            all.add(geo::LonLat{roads.west, roads.south});
            all.add(geo::LonLat{roads.east, roads.north});
        }
        shapes_.clear();
        roads_ = {};
        if (own.empty()) return update();
        // Positions in the picture, made once.
        const FlatWorld world(all.centre());
        const QRectF flat(world.flat({all.west, all.north}), world.flat({all.east, all.south}));
        Viewport view;
        view.centre = flat.center();
        view.size = size();
        view.pixels_per_metre =
            0.88 * std::min(width() / std::max(1.0, flat.width()), height() / std::max(1.0, flat.height()));
        for (const auto& shape : shapes) {
            QPolygonF line;
            for (const auto& p : shape) line.append(view.to_screen(world.flat(p)));
            shapes_.push_back(std::move(line));
        }
        if (!roads.empty())
            roads_ = QRectF(view.to_screen(world.flat({roads.west, roads.north})),
                            view.to_screen(world.flat({roads.east, roads.south})));
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.fillRect(rect(), theme::kPaper);
        p.setRenderHint(QPainter::Antialiasing);
        if (!roads_.isNull()) {
            p.setPen(QPen(theme::kFaintInk, 1, Qt::DashLine));
            p.drawRect(roads_);
            p.setFont(theme::type(0.75));
            p.setPen(theme::kSoftInk);
            p.drawText(roads_.adjusted(3, 1, 0, 0), Qt::AlignLeft | Qt::AlignTop, PreviewView::tr("your roads"));
        }
        p.setPen(QPen(theme::kAccent, 1));
        p.setBrush(Qt::NoBrush);
        for (const auto& shape : shapes_) {
            if (shape.size() == 1)
                p.fillRect(QRectF(shape[0] - QPointF(1.2, 1.2), QSizeF(2.4, 2.4)), theme::kAccent);
            else
                p.drawPolyline(shape);
        }
        p.setPen(theme::kRule);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }

private:
    std::vector<QPolygonF> shapes_;
    QRectF roads_;
};

PreviewView::PreviewView(QWidget* parent) : QWidget(parent) {
    map_ = new SmallMap(this);
    table_ = new QTableWidget(this);
    table_->setAccessibleName(tr("The first records of the file"));
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setTabKeyNavigation(false);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(table_->fontMetrics().height() + 5);
    table_->setFixedHeight(map_->height());
    note_ = new QLabel(this);
    note_->setProperty("role", "soft");
    note_->setWordWrap(true);
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 0, 0, 0);
    row->addWidget(map_);
    row->addWidget(table_, 1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 4, 0, 0);
    box->addLayout(row);
    box->addWidget(note_);
    clear({});
}

QString PreviewView::note() const { return note_->isHidden() ? QString() : note_->text(); }

void PreviewView::clear(const QString& why) {
    map_->show({}, {});
    map_->hide();
    table_->hide();
    note_->setText(why);
    note_->setVisible(!why.isEmpty());
}

void PreviewView::show(const files::Preview& preview, const geo::Box& roads) {
    const auto columns = std::min(preview.fields.size(), kMostColumns);
    table_->clear();
    table_->setColumnCount(static_cast<int>(columns));
    table_->setRowCount(static_cast<int>(preview.rows.size()));
    QStringList names;
    for (std::size_t c = 0; c < columns; ++c) names << elided(QString::fromStdString(preview.fields[c]));
    table_->setHorizontalHeaderLabels(names);
    for (std::size_t r = 0; r < preview.rows.size(); ++r)
        for (std::size_t c = 0; c < columns; ++c) {
            const QString text = QString::fromStdString(preview.rows[r][c]).simplified();
            table_->setItem(static_cast<int>(r), static_cast<int>(c), new QTableWidgetItem(elided(text, kMostOfText)));
        }
    table_->resizeColumnsToContents();
    map_->show(preview.shapes, roads);
    map_->setVisible(!preview.shapes.empty());
    table_->setVisible(columns > 0);
    note_->setText(preview.wrong.empty() ? QString()
                                         : tr("Some cannot be placed: %1.").arg(QString::fromStdString(preview.wrong)));
    note_->setVisible(!note_->text().isEmpty());
}

}  // namespace otoro::desktop
