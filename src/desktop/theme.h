#pragma once
/// \file
/// Paper and ink: the colours, type and spacing that every part of the window uses.
#include <QColor>
#include <QFont>
#include <QImage>
#include <QString>
#include <algorithm>
#include <cmath>

class QApplication;

namespace otoro::desktop::theme {

inline const QColor kPaper{0xFB, 0xF9, 0xF4};     ///< the ground of everything
inline const QColor kSheet{0xFF, 0xFF, 0xFF};     ///< fields and lists
inline const QColor kShade{0xF0, 0xEC, 0xE2};     ///< bars and headings
inline const QColor kRule{0xD3, 0xCC, 0xBC};      ///< thin lines
inline const QColor kInk{0x23, 0x24, 0x2A};       ///< text
inline const QColor kSoftInk{0x5C, 0x5A, 0x58};   ///< lesser text; 6:1 on paper
inline const QColor kFaintInk{0x85, 0x7E, 0x70};  ///< lines and marks that stand back; 3.8:1 on paper
inline const QColor kAccent{0x6B, 0x2A, 0x62};    ///< the one accent: what can be pressed, what is picked out
inline const QColor kAccentPale{0xEE, 0xE0, 0xEC};
inline const QColor kMet{0x1D, 0x5B, 0x7A};     ///< within the standard
inline const QColor kWater{0xE4, 0xE7, 0xEA};   ///< paler than any dot
inline const QColor kShore{0x8F, 0x9C, 0xA8};   ///< where water and ground meet
inline const QColor kRipple{0xD3, 0xD9, 0xDF};  ///< level lines on water
inline const QColor kZone{0x6A, 0x5F, 0x7A};    ///< edges and names of zones; 5.6:1 on paper
inline const QColor kNotMet{0xA8, 0x43, 0x12};  ///< beyond the standard

/// Type, palette and style sheet for the whole program. \param points size of the usual type; 0: the desktop's own
void apply(QApplication& app, double points = 0);

/// The usual type's size in points, and how it stands to the size that lengths in the code are thought for.
double points();
double scale();
/// A length on the screen that grows with the type.
inline int scaled(int length) { return static_cast<int>(std::lround(length * scale())); }
/// The same for the width of a column: it grows less, so that a window of 1280 points has room at twice the type.
inline int scaled_column(int width) {
    return static_cast<int>(std::lround(width * (1 + 0.35 * std::max(0.0, scale() - 1))));
}

/// Whether type is so large that what stands side by side must stand one above another.
inline bool is_large() { return scale() > 1.4; }

/// The program's type family at a size relative to the usual one.
QFont type(double scale = 1.0, int weight = QFont::Normal);

/// Colour of one minute (or km) value: `share` is the value over the standard's limit. Within (0 to 1) runs from light
/// to darker blue-green, beyond (over 1, darkest from 2.5 on) from dark rust to near black. Lightness falls all the way
/// and drops by a step at the limit, so that grey print and colour-blind eyes see the turn; the lightest is 3.2:1 on
/// paper.
QColor ramp(double share);
inline constexpr int kRampSteps = 24;  ///< half within, half beyond
/// The step of the ramp that `ramp(share)` would fall in, and the middle colour of a step.
int ramp_step(double share);
QColor ramp_colour(int step);

/// The palette of sites that serve; which site gets which is for `site_colours` to say.
QColor site_colour(std::size_t n);
std::size_t site_colour_count();

inline QColor with_alpha(QColor colour, int alpha) {
    colour.setAlpha(alpha);
    return colour;
}

}  // namespace otoro::desktop::theme
