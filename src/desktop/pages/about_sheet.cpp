#include "desktop/pages/about_sheet.h"

#include <QCoreApplication>
#include <QDialogButtonBox>
#include <QTextBrowser>
#include <QVBoxLayout>

#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

struct Part {
    const char* name;
    const char* use;
    const char* licence;
};

constexpr Part kParts[] = {
    {"Qt 6", "the window", "LGPL-3"},
    {"QCustomPlot", "the curve", "GPL-3 or later"},
    {"GDAL/OGR, PROJ", "vector files and coordinate systems", "MIT"},
    {"libosmium, protozero", "OpenStreetMap files", "BSL-1.0, BSD-2-Clause"},
    {"Shapelib", "shapefiles", "MIT or LGPL-2"},
    {"SQLite", "studies", "public domain"},
    {"libzip, zlib, bzip2, Expat", "packed files and spreadsheets", "BSD-3-Clause, zlib, bzip2, MIT"},
    {"Boost", "areas, graphs", "BSL-1.0"},
    {"GeographicLib", "lengths on the globe", "MIT"},
    {"METIS", "ordering of the network", "Apache-2.0"},
    {"Highway", "vector instructions", "Apache-2.0"},
    {"oneTBB", "threads", "Apache-2.0"},
    {"fmt, CLI11, nlohmann JSON, xxHash", "texts, options, settings, digests", "MIT, BSD-3-Clause, MIT, BSD-2-Clause"},
    {"Open Sans", "the type", "OFL-1.1"},
};

}  // namespace

AboutSheet::AboutSheet(QWidget* parent) : QDialog(parent) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(tr("About Otoro"));
    resize(theme::scaled(560), theme::scaled(520));
    QString html =
        tr("<h2>Otoro %1</h2>"
           "<p>Who is served by whom, does that meet the standard, and what would a change do.</p>"
           "<p>\u00a9 2026 The Otoro developers. Free software under the GNU General Public License, version "
           "3 or later: you may use, study, share and change it. It comes without any warranty.</p>"
           "<h3>It stands on</h3>")
            .arg(QCoreApplication::applicationVersion().toHtmlEscaped());
    html += "<table cellspacing=\"5\">";
    for (const Part& p : kParts)
        html +=
            QString("<tr><td><b>%1</b></td><td>%2</td><td>%3</td></tr>")
                .arg(QString(p.name).toHtmlEscaped(), tr(p.use).toHtmlEscaped(), QString(p.licence).toHtmlEscaped());
    html += "</table>" + tr("<p>Their full licences are in /usr/share/doc on this computer.</p>");
    auto* text = new QTextBrowser(this);
    text->setAccessibleName(tr("About Otoro"));
    text->setHtml(html);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::close);
    auto* box = new QVBoxLayout(this);
    box->addWidget(text);
    box->addWidget(buttons);
}

}  // namespace otoro::desktop
