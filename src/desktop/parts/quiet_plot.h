#pragma once
/// \file
/// Small plots that stand in a page without a frame of their own.
#include <qcustomplot.h>

namespace otoro::desktop {

/// Paper behind, thin axes, small soft numbers.
void make_quiet(QCustomPlot& plot);

}  // namespace otoro::desktop
