#pragma once
#include <QDialog>

#include "desktop/models/fixer.h"

class QCheckBox;
class QDoubleSpinBox;
class QLabel;
class QListWidget;

namespace otoro::desktop {

/// How the places of one set are attached: how far, to which classes, to pieces of what size; with the off-road legs as
/// a histogram, and what the choice changes.
class AttachSheet : public QDialog {
    Q_OBJECT
public:
    AttachSheet(Session& session, Fixer& fixer, const service::SetName& set, QWidget* parent = nullptr);
    [[nodiscard]] QDoubleSpinBox& limit() const { return *limit_; }
    [[nodiscard]] QDoubleSpinBox& least_piece() const { return *least_; }
    [[nodiscard]] QListWidget& classes() const { return *classes_; }
    [[nodiscard]] QString effect() const;

private:
    void refresh();
    void apply();
    [[nodiscard]] const places::Attaching* attaching() const;
    [[nodiscard]] const std::vector<std::optional<places::Attachment>>* attached() const;

    Session& session_;
    Fixer& fixer_;
    service::SetName set_;
    QDoubleSpinBox* limit_;
    QDoubleSpinBox* least_;
    QListWidget* classes_;
    QWidget* histogram_;
    QLabel* effect_;
    QLabel* by_hand_;
    int attached_before_ = -1;
};

}  // namespace otoro::desktop
