#include "desktop/theme.h"

#include <QApplication>
#include <QEvent>
#include <QFontDatabase>
#include <QLabel>
#include <QPalette>
#include <QPixmapCache>
#include <QStyleFactory>
#include <algorithm>
#include <array>
#include <cmath>

namespace otoro::desktop::theme {
namespace {

constexpr const char* kFamily = "Open Sans";  // its figures all have one width
constexpr double kPointSize = 10.0;           // what lengths in the code are thought for
constexpr double kLeastPoints = 7, kMostPoints = 40;
double usual_points = kPointSize;

constexpr const char* kSheetText =
    R"(
QMainWindow, QWidget#page, QStackedWidget { background: #FBF9F4; }
QFrame#bar { background: #F0ECE2; border: none; border-bottom: 1px solid #D3CCBC; }
QLabel[role="soft"] { color: #5C5A58; }
QLabel[role="heading"] { color: #5C5A58; font-weight: 600; letter-spacing: 1px; }
QPushButton { background: #FFFFFF; border: 1px solid #8C8474; border-radius: 3px; padding: 4px 12px; }
QPushButton:hover { border-color: #6B2A62; color: #6B2A62; }
QPushButton:focus { border: 2px solid #6B2A62; padding: 3px 11px; }
QPushButton:disabled { color: #8E8A84; border-color: #DDD7CA; }
QPushButton#tab { background: transparent; border: none; border-bottom: 3px solid transparent; border-radius: )"
    R"(0; padding: 9px 16px 6px 16px; }
QPushButton#tab:checked { border-bottom-color: #6B2A62; font-weight: 600; }
QPushButton#tab:focus { color: #6B2A62; }
QPushButton#flat { background: transparent; border: 1px solid transparent; padding: 4px 8px; }
QPushButton#flat:hover { border-color: #B9B1A0; }
QPushButton#flat:focus { border-color: #6B2A62; }
QPushButton#heading { background: transparent; border: 1px solid transparent; padding: 1px 2px; color: #5C5A58; )"
    R"(font-weight: 600; letter-spacing: 1px; text-align: left; }
QPushButton#heading:hover, QPushButton#heading:focus { border-color: #6B2A62; }
QPushButton#flat::menu-indicator { image: none; }
QPushButton#blank { background: #FFFFFF; color: #6B2A62; border: none; border-bottom: 2px solid #6B2A62; )"
    R"(border-radius: 0; padding: 1px 5px 1px 5px; font-weight: 600; }
QPushButton#blank:hover, QPushButton#blank:focus { background: #EEE0EC; }
QPushButton#blank:disabled { color: #8E8A84; border-bottom-color: #B9B1A0; }
QLineEdit { background: #FFFFFF; border: 1px solid #8C8474; border-radius: 3px; padding: 3px 6px; )"
    R"(selection-background-color: #6B2A62; }
QLineEdit:focus { border-color: #6B2A62; }
QAbstractSpinBox QLineEdit, QComboBox QLineEdit { border: none; padding: 0px; }
QTableView, QListView, QTreeView { background: #FFFFFF; alternate-background-color: #FBF9F4; border: 1px )"
    R"(solid #D3CCBC; gridline-color: #ECE7DB; selection-background-color: #EEE0EC; selection-color: #23242A; }
QHeaderView::section { background: #F0ECE2; border: none; border-right: 1px solid #D3CCBC; border-bottom: 1px )"
    R"(solid #D3CCBC; padding: 4px 6px; }
QMenu { background: #FFFFFF; border: 1px solid #B9B1A0; }
QMenu::item { padding: 5px 24px 5px 16px; }
QMenu::item:selected { background: #EEE0EC; color: #23242A; }
QMenu::item:disabled { color: #8E8A84; }
QToolTip { background: #23242A; color: #FBF9F4; border: none; padding: 4px; }
QSplitter::handle { background: #E4DED0; }
QFrame#card { background: #FFFFFF; border: 1px solid #E4DED0; border-radius: 3px; }
QFrame#popup { background: #FFFFFF; border: 1px solid #6B2A62; }
QFrame#notice { background: #EEE0EC; border: none; border-bottom: 1px solid #6B2A62; }
QFrame#trouble { background: #F7E3D6; border: none; border-bottom: 1px solid #A84312; }
QProgressBar { background: #E4DED0; border: none; border-radius: 2px; max-height: 6px; }
QProgressBar::chunk { background: #6B2A62; border-radius: 2px; }
QScrollArea { border: none; background: transparent; }
QRadioButton, QCheckBox { spacing: 8px; padding: 2px; }
)";

QColor mix(const QColor& a, const QColor& b, double t) {
    const auto part = [t](int x, int y) { return static_cast<int>(std::lround(x + (y - x) * t)); };
    return {part(a.red(), b.red()), part(a.green(), b.green()), part(a.blue(), b.blue())};
}

}  // namespace

double points() { return usual_points; }
double scale() { return usual_points / kPointSize; }

namespace {

/// Whatever a label, a message or a tip holds may come from a file: it is plain text, unless its maker has said that it
/// is marked up, and has escaped what it put in.
class PlainText : public QObject {
public:
    using QObject::QObject;
    bool eventFilter(QObject* of, QEvent* e) override {
        if (e->type() == QEvent::Polish)
            if (auto* label = qobject_cast<QLabel*>(of); label != nullptr && label->textFormat() == Qt::AutoText)
                label->setTextFormat(Qt::PlainText);
        return false;
    }
};

}  // namespace

void apply(QApplication& app, double points) {
    app.installEventFilter(new PlainText(&app));
    // The desktop's size may be told in pixels; then it is -1 in points.
    const double own = app.font().pointSizeF() > 0 ? app.font().pointSizeF() : kPointSize;
    usual_points = std::clamp(points > 0 ? points : own, kLeastPoints, kMostPoints);
    app.setStyle(QStyleFactory::create("Fusion"));
    app.setFont(type());
    QPalette p;
    p.setColor(QPalette::Window, kPaper);
    p.setColor(QPalette::Base, kSheet);
    p.setColor(QPalette::AlternateBase, kPaper);
    p.setColor(QPalette::Text, kInk);
    p.setColor(QPalette::WindowText, kInk);
    p.setColor(QPalette::ButtonText, kInk);
    p.setColor(QPalette::Button, kSheet);
    p.setColor(QPalette::Highlight, kAccent);
    p.setColor(QPalette::HighlightedText, kPaper);
    p.setColor(QPalette::PlaceholderText, kSoftInk);
    p.setColor(QPalette::ToolTipBase, kInk);
    p.setColor(QPalette::ToolTipText, kPaper);
    app.setPalette(p);
    constexpr int kPictures = 48 * 1024;  // kB of marks and names, as many as a large screen of streets has
    QPixmapCache::setCacheLimit(kPictures);
    app.setStyleSheet(kSheetText);
}

QFont type(double scale, int weight) {
    QFont f{QString(kFamily)};
    f.setPointSizeF(usual_points * scale);
    f.setWeight(static_cast<QFont::Weight>(weight));
    return f;
}

QColor ramp(double share) {
    static const QColor kNear{0x3F, 0x9A, 0x8E};
    static const QColor kWithin{0x1F, 0x77, 0x90};
    static const QColor kJustBeyond{0x8F, 0x2E, 0x0A};
    static const QColor kFarBeyond{0x2E, 0x0A, 0x06};
    if (share <= 1) return mix(kNear, kWithin, std::clamp(share, 0.0, 1.0));
    return mix(kJustBeyond, kFarBeyond, std::clamp((share - 1) / 1.5, 0.0, 1.0));
}

int ramp_step(double share) {
    constexpr int half = kRampSteps / 2;
    if (share <= 1) return std::clamp(static_cast<int>(share * half), 0, half - 1);
    return half + std::clamp(static_cast<int>((share - 1) / 1.5 * half), 0, half - 1);
}

QColor ramp_colour(int step) {
    constexpr int half = kRampSteps / 2;
    if (step < half) return ramp((step + 0.5) / half);
    return ramp(1.0001 + (step - half + 0.5) / half * 1.5);
}

namespace {
const std::array<QColor, 12> kSiteColours{QColor(0x1F, 0x77, 0x90), QColor(0xC8, 0x5A, 0x12), QColor(0x5E, 0x8A, 0x1E),
                                          QColor(0x7B, 0x2F, 0x7E), QColor(0xD0, 0xA2, 0x12), QColor(0x1D, 0x33, 0x78),
                                          QColor(0x8F, 0x8A, 0x7E), QColor(0x6E, 0x1F, 0x1F), QColor(0x4F, 0xA8, 0x8E),
                                          QColor(0xC4, 0x6C, 0x8E), QColor(0x2F, 0x3A, 0x2C), QColor(0x7D, 0x8F, 0xD6)};
}  // namespace

QColor site_colour(std::size_t n) { return kSiteColours[n % kSiteColours.size()]; }
std::size_t site_colour_count() { return kSiteColours.size(); }

}  // namespace otoro::desktop::theme
