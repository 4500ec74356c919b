#include "desktop/parts/quiet_table.h"

#include <algorithm>

namespace otoro::desktop {

QTableWidget* quiet_table(const QStringList& columns, const QString& name, QWidget* parent) {
    auto* t = new QTableWidget(0, static_cast<int>(columns.size()), parent);
    t->setHorizontalHeaderLabels(columns);
    t->setAccessibleName(name);
    t->verticalHeader()->hide();
    t->verticalHeader()->setDefaultSectionSize(t->fontMetrics().height() + 5);
    t->setEditTriggers(QAbstractItemView::NoEditTriggers);
    t->setSelectionBehavior(QAbstractItemView::SelectRows);
    t->setSelectionMode(QAbstractItemView::SingleSelection);
    t->setShowGrid(false);
    t->setTabKeyNavigation(false);
    t->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    t->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    t->horizontalHeader()->setMinimumSectionSize(30);
    t->horizontalHeader()->setResizeContentsPrecision(
        0);  // as wide as what is seen needs: to measure every row takes longer than a frame
    return t;
}

QTableWidgetItem& put_cell(QTableWidget& t, int row, int column, const QString& text, bool number) {
    auto* item = t.item(row, column);
    if (item == nullptr) {
        item = new QTableWidgetItem(text);
        item->setTextAlignment(number ? Qt::AlignRight | Qt::AlignVCenter : Qt::AlignLeft | Qt::AlignVCenter);
        t.setItem(row, column, item);
    } else if (item->text() != text) {
        item->setText(text);
    }
    return *item;
}

QuietChange::QuietChange(QTableWidget& table, int rows) : table_(table), another_(table.rowCount() != rows) {
    if (!another_) return;
    table_.setUpdatesEnabled(false);
    for (int c = 1; c < table_.columnCount(); ++c)
        table_.horizontalHeader()->setSectionResizeMode(c, QHeaderView::Fixed);
    table_.setRowCount(rows);
}

QuietChange::~QuietChange() {
    if (!another_) return;
    for (int c = 1; c < table_.columnCount(); ++c)
        table_.horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    table_.setUpdatesEnabled(true);
}

void fit_height(QTableWidget& t, int most_rows) {
    const int rows = std::min(t.rowCount(), most_rows);
    t.setFixedHeight(t.horizontalHeader()->sizeHint().height() + rows * t.verticalHeader()->defaultSectionSize() + 4);
}

}  // namespace otoro::desktop
