#include "desktop/pages/help_sheet.h"

#include <QTextBrowser>
#include <QVBoxLayout>

namespace otoro::desktop {

HelpSheet::HelpSheet(QWidget* parent) : QDialog(parent) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(tr("Keys and words"));
    resize(620, 560);
    auto* text = new QTextBrowser(this);
    text->setAccessibleName(tr("Keys and words"));
    text->setHtml(tr(
        R"(
<h3>Keys</h3>
<table cellspacing="6">
<tr><td><b>Ctrl+1, Ctrl+2, Ctrl+3</b></td><td>Data, Study, Compare</td></tr>
<tr><td><b>Ctrl+B, Ctrl+Shift+V</b></td><td>add data, a table from the clipboard</td></tr>
<tr><td><b>Ctrl+T, Ctrl+I, Ctrl+P</b></td><td>travel profiles, network summary, all pairs</td></tr>
<tr><td><b>Ctrl+F</b></td><td>find a site, a place or a road</td></tr>
<tr><td><b>Ctrl+E, Ctrl+M</b></td><td>export the answer, the map</td></tr>
<tr><td><b>Ctrl+Shift+M</b></td><td>copy the map</td></tr>
<tr><td><b>Ctrl+S, Ctrl+O, Ctrl+N</b></td><td>save, open, new study</td></tr>
<tr><td><b>Ctrl+Z, Ctrl+Shift+Z</b></td><td>undo, redo: everything can be undone</td></tr>
<tr><td><b>Map: point</b></td><td>arrows point at a spot and read it out (Shift: small steps), Page Down and )"
        R"(Page Up go )"
        R"(from site to site, Enter or Space presses there, the menu key opens its menu</td></tr>
<tr><td><b>Map: do</b></td><td>N a new site there, G takes a site in the hand and puts it down, Delete takes a )"
        R"(site of the )"
        R"(plan out, B picks places in a box, Z shows what is picked; while drawing, Space sets a point and )"
        R"(Enter ends it</td></tr>
<tr><td><b>Map: look</b></td><td>Ctrl+arrows move, + and &minus; zoom, 0 shows everything, Esc lets go of what )"
        R"(is drawn, )"
        R"(dragged, marked and picked</td></tr>
<tr><td><b>Curve</b></td><td>arrows move the standard</td></tr>
<tr><td><b>Limits of reach</b></td><td>left and right move the one that is chosen (Shift: further), up and down )"
        R"(choose another, Insert adds one, Delete takes it away</td></tr>
<tr><td><b>Questions, plans</b></td><td>F2 renames, Delete removes</td></tr>
<tr><td><b>Stops of a route</b></td><td>Alt+arrows put one earlier or later, Delete removes it, left and right )"
        R"(show and hide its turns</td></tr>
<tr><td><b>Records</b></td><td>Ctrl+C copies the picked rows</td></tr>
</table>
<h3>With the mouse</h3>
<p>Press a blank of the question to change it. Drag the handle on the curve to try another standard. Drag a )"
        R"(site to move it, and every number follows; double-click the map to add one;
pull with Shift to pick places in a box; press a site to open or close it, and read first what that would )"
        R"(change; press a road to read what is known of )"
        R"(it; the right button says what a site here would change, closes and slows roads, measures, adds )"
        R"(places and attaches a picked )"
        R"(place by hand, and shows how far one gets from here: pull the ring about, Esc lets go of it. The same )"
        R"(button, and a press on a site, make stops of a route: pull its discs about, or its list into another )"
        R"(order. In )"
        R"(the looks <i>Reach</i> and <i>Uncovered</i> ground is listed beside the map, heaviest first; in the )"
        R"(legend limits are )"
        R"(pulled, )"
        R"(added by a double press and taken away by the right button. From )"
        R"(<i>Today</i> each of these makes a new plan.</p>
<h3>Words</h3>
<p><b>Served</b>: has a route to a site (within the limit, if the question has one). <b>Beyond the limit</b>: )"
        R"(has a route, but a longer one.
<b>No road near</b>: no road that this traveller may use is within the attach limit. <b>Cut off</b>: by a )"
        R"(road, but no site can reach it, or it no site.
<b>Bad location</b>: its record gives no place on the globe.</p>
<p><b>Reach</b>: ground is inside when a place standing there would be counted inside the limit, joined to its )"
        R"(nearest road as all places are. Ground with no road near is neither reached nor uncovered.</p>
<p><b>The share</b> counts weight, not rows, and always over everybody, also those who are not served.</p>)"));
    auto* box = new QVBoxLayout(this);
    box->addWidget(text);
}

}  // namespace otoro::desktop
