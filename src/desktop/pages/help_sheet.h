#pragma once
#include <QDialog>

namespace otoro::desktop {

/// Keys and words, under F1. Stays open beside the work.
class HelpSheet : public QDialog {
    Q_OBJECT
public:
    explicit HelpSheet(QWidget* parent = nullptr);
};

}  // namespace otoro::desktop
