#pragma once
#include <QDialog>

namespace otoro::desktop {

/// Version, licence, and the libraries that it stands on with theirs.
class AboutSheet : public QDialog {
    Q_OBJECT
public:
    explicit AboutSheet(QWidget* parent = nullptr);
};

}  // namespace otoro::desktop
