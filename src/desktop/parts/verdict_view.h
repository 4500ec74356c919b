#pragma once
#include <QWidget>

#include "desktop/models/session.h"

class QLabel;
class QPushButton;

namespace otoro::desktop {

/// How far a share has moved, in points with their sign: "+8.0".
QString points(Share from, Share to);

/// One number against one standard, always in sight, with how it changed from Today.
class VerdictView : public QWidget {
    Q_OBJECT
public:
    explicit VerdictView(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QString share_text() const;
    [[nodiscard]] QString verdict_text() const;

private:
    void refresh();
    Session& session_;
    QLabel* share_;
    QLabel* verdict_;
    QLabel* detail_;
    QPushButton* again_;
};

}  // namespace otoro::desktop
