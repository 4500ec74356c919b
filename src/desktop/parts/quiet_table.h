#pragma once
/// \file
/// Small tables that stand in a page without a frame of their own.
#include <QHeaderView>
#include <QTableWidget>

namespace otoro::desktop {

/// A table to look at and to pick rows in. The first column takes the room that the others leave.
QTableWidget* quiet_table(const QStringList& columns, const QString& name, QWidget* parent);

/// A cell; one that is there already is changed only where it differs, so that numbers can follow a dragged site.
QTableWidgetItem& put_cell(QTableWidget& t, int row, int column, const QString& text, bool number);

/// While one lives, a table gets another number of rows and their cells, and its columns are measured once in the end
/// instead of at every cell.
class QuietChange {
public:
    QuietChange(QTableWidget& table, int rows);
    ~QuietChange();
    QuietChange(const QuietChange&) = delete;
    QuietChange& operator=(const QuietChange&) = delete;

private:
    QTableWidget& table_;
    bool another_;
};

/// As high as its rows, of which at most so many are in sight at once.
void fit_height(QTableWidget& t, int most_rows);

}  // namespace otoro::desktop
