#pragma once
#include <QWidget>

#include "files/preview.h"

class QTableWidget;
class QLabel;

namespace otoro::desktop {

/// The first records of a file and a small map of it, before it is added.
class PreviewView : public QWidget {
    Q_OBJECT
public:
    explicit PreviewView(QWidget* parent = nullptr);
    /// \param roads where the study's roads are, to compare with; empty if there are none
    void show(const files::Preview& preview, const geo::Box& roads);
    /// Nothing to see, and why.
    void clear(const QString& why);
    [[nodiscard]] QTableWidget& table() const { return *table_; }
    [[nodiscard]] QString note() const;

private:
    class SmallMap;
    SmallMap* map_;
    QTableWidget* table_;
    QLabel* note_;
};

}  // namespace otoro::desktop
