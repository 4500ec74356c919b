#pragma once
#include <QObject>
#include <map>

#include "desktop/map/map_view.h"

class QCheckBox;
class QComboBox;
class QLineEdit;

namespace otoro::desktop {
class FlowLayout;

/// What of reach is asked and drawn, as entries of the legend. They are there where the look and the study have a use
/// for them.
class ReachSwitches : public QObject {
    Q_OBJECT
public:
    /// Adds its widgets to a layout of `parent`.
    ReachSwitches(Session& session, MapView& map, QWidget* parent, FlowLayout& flow);
    [[nodiscard]] QLineEdit& limits() const { return *limits_; }
    [[nodiscard]] QComboBox& overlap() const { return *overlap_; }
    [[nodiscard]] QComboBox& compared() const { return *compared_; }
    [[nodiscard]] QComboBox& cover() const { return *cover_; }
    [[nodiscard]] QLineEdit& circle_speed() const { return *circle_speed_; }
    /// The box of a switch.
    [[nodiscard]] QCheckBox& box(bool service::ReachView::*of) const;
    void refresh();

private:
    struct Switch {
        bool service::ReachView::*of;
        QCheckBox* box;
    };
    void add_box(bool service::ReachView::*of, const QString& text, const QString& tip);
    void add_choices();
    void take_limits();
    void take_speed();
    void fill_compared();
    Session& session_;
    MapView& map_;
    QWidget* parent_;
    FlowLayout& flow_;
    QLineEdit *limits_, *circle_speed_;
    QComboBox *overlap_, *compared_, *cover_;
    std::vector<Switch> switches_;
};

}  // namespace otoro::desktop
