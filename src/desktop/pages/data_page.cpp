#include "desktop/pages/data_page.h"

#include <QApplication>
#include <QClipboard>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QLabel>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPointer>
#include <QPushButton>
#include <QScrollArea>
#include <QTemporaryDir>
#include <QTextBrowser>
#include <QThreadPool>
#include <QVBoxLayout>

#include "desktop/pages/address_sheet.h"
#include "desktop/parts/attach_sheet.h"
#include "desktop/parts/elided.h"
#include "desktop/parts/findings_list.h"
#include "desktop/parts/join_panel.h"
#include "desktop/parts/save_place.h"
#include "desktop/parts/sheets.h"
#include "desktop/parts/sources_list.h"
#include "desktop/parts/verdict_view.h"
#include "desktop/theme.h"
#include "files/atomic_file.h"
#include "service/network_summary.h"
#include "service/sentence.h"

namespace otoro::desktop {

DataPage::DataPage(Session& session, Jobs& jobs, QWidget* parent)
    : QWidget(parent), session_(session), fixer_(session, jobs, this) {
    setObjectName("page");
    auto* title = new QLabel(tr("Data"), this);
    title->setFont(theme::type(1.3, QFont::DemiBold));
    auto* add = new QPushButton(tr("Add data\u2026"), this);
    add->setAccessibleName(tr("Add a file of roads, demand, sites or zones"));
    add->setToolTip(tr("Or drop files on the window"));
    auto* from = new QPushButton(tr("From elsewhere"), this);
    from->setAccessibleName(tr("Add from the clipboard, a database or a web service"));
    sources_ = new SourcesList(session, fixer_, this);
    joining_ = new JoinPanel(session, fixer_, this);
    auto* summary = new QPushButton(tr("Network summary\u2026"), this);
    summary->setAccessibleName(tr("Read the network summary"));
    summary->setToolTip(tr("Every rule, speed, tolerance and count in plain words"));
    auto* profiles = new QPushButton(tr("Travel profiles\u2026"), this);
    profiles->setAccessibleName(tr("Travel profiles: who may use which road, and how fast"));

    auto* column = new QWidget(this);
    auto* left = new QVBoxLayout(column);
    left->setContentsMargins(0, 0, 6, 0);
    left->setSpacing(8);
    const auto direction = theme::is_large() ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight;
    auto* buttons = new QBoxLayout(direction);
    buttons->setSpacing(8);
    buttons->addWidget(add, 1);
    buttons->addWidget(from);
    left->addWidget(title);
    left->addLayout(buttons);
    left->addWidget(sources_);
    left->addSpacing(6);
    left->addWidget(joining_);
    left->addSpacing(6);
    auto* sheets = new QBoxLayout(direction);
    sheets->setSpacing(8);
    sheets->addWidget(profiles);
    sheets->addWidget(summary);
    sheets->addStretch(1);
    left->addLayout(sheets);
    left->addStretch(1);
    auto* scroll = new QScrollArea(this);
    scroll->setWidget(column);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFixedWidth(theme::scaled_column(372));
    column->setObjectName("page");

    add_ = new AddPanel(session, jobs.reading, this);
    findings_ = new FindingsList(session, fixer_, this);
    auto* right = new QVBoxLayout;
    right->setSpacing(12);
    // The verdict stays in sight, so that each fix is seen to change it.
    auto* asked = new QFrame(this);
    asked->setObjectName("card");
    auto* asked_row = new QBoxLayout(direction, asked);
    asked_row->setContentsMargins(12, 4, 6, 4);
    auto* sentence = new QLabel(asked);
    sentence->setWordWrap(true);
    sentence->setMinimumWidth(1);
    sentence->setProperty("role", "soft");
    verdict_ = new VerdictView(session, asked);
    asked_row->addWidget(sentence, 1);
    asked_row->addWidget(verdict_);
    asked->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
    const auto say = [this, asked, sentence] {
        const auto& study = session_.document.study();
        // At large type a file that is being added has the room.
        asked->setVisible(study.inputs().has_value() && !(theme::is_large() && !add_->waiting().isEmpty()));
        service::Question shown = study.question();
        const auto shorten = [](std::string& name) { name = elided(QString::fromStdString(name)).toStdString(); };
        for (auto* names : {&shown.demand, &shown.sites})
            for (auto& name : *names) shorten(name);
        shorten(shown.profile.name);
        std::string counted = service::weight_name(study.demand_of(study.question()));
        sentence->setToolTip(QString::fromStdString(service::sentence(study.question(), counted)));
        shorten(counted);
        const QString text = QString::fromStdString(service::sentence(shown, counted));
        sentence->setText(session_.document.plan_index() == 0
                              ? text
                              : tr("Under the plan \u2018%1\u2019: %2")
                                    .arg(elided(QString::fromStdString(session_.document.plan().name)), text));
    };
    connect(&session.document, &Document::data_changed, this, say);
    connect(&session.document, &Document::question_changed, this, say);
    connect(&session.document, &Document::plan_chosen, this, say);
    connect(add_, &AddPanel::waiting_changed, this, say);
    say();
    right->addWidget(asked);
    right->addWidget(add_);
    right->addWidget(findings_, 1);
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(16, 14, 16, 14);
    box->setSpacing(18);
    box->addWidget(scroll);
    box->addLayout(right, 1);

    auto* elsewhere = new QMenu(from);
    elsewhere->addAction(tr("Paste a table from a spreadsheet (Ctrl+Shift+V)"), this,
                         &DataPage::paste_wanted);  // the window has the key
    elsewhere->addAction(tr("Type places\u2026"), this, &DataPage::type_places);
    elsewhere->addAction(tr("A PostGIS database or a web service\u2026"), this, [this] {
        auto* ask = new AddressSheet(this);
        connect(ask, &AddressSheet::chosen, add_, [this](const QString& location) { add_->offer(location); });
        ask->show();
    });
    from->setMenu(elsewhere);
    connect(add, &QPushButton::clicked, this, &DataPage::files_wanted);
    connect(summary, &QPushButton::clicked, this, &DataPage::show_summary);
    connect(profiles, &QPushButton::clicked, this, &DataPage::profiles_wanted);
    connect(sources_, &SourcesList::profiles_wanted, this, &DataPage::profiles_wanted);
    connect(sources_, &SourcesList::attaching_wanted, this, &DataPage::open_attaching);
    connect(findings_, &FindingsList::show_wanted, this, &DataPage::show_wanted);
    connect(&fixer_, &Fixer::findings_changed, this,
            [this] { emit findings_changed(static_cast<int>(service::count_open(fixer_.findings()))); });
}

DataPage::~DataPage() = default;

bool DataPage::paste() { return take_table(QApplication::clipboard()->text(), tr("pasted")); }

void DataPage::paste_wanted() {
    if (!paste()) emit trouble(tr("There is no table on the clipboard. Copy one in a spreadsheet first."));
}

void DataPage::type_places() {
    auto* sheet = new QDialog(this);
    sheet->setAttribute(Qt::WA_DeleteOnClose);
    sheet->setObjectName("typing");
    sheet->setWindowTitle(tr("Type places"));
    sheet->resize(520, 360);
    auto* text = new QPlainTextEdit(sheet);
    text->setAccessibleName(tr("Places, one a line"));
    text->setPlainText(typed_.isEmpty() ? QString("id,lon,lat,weight\n") : typed_);
    text->moveCursor(QTextCursor::End);
    // What was typed is there again when the sheet was closed without adding it.
    connect(text, &QPlainTextEdit::textChanged, this, [this, text] { typed_ = text->toPlainText(); });
    auto* about =
        new QLabel(tr("One place a line, under the names of the columns. They may be changed, and more added."), sheet);
    about->setProperty("role", "soft");
    about->setWordWrap(true);
    auto* take = new QPushButton(tr("Add"), sheet);
    take->setAccessibleName(tr("Add the typed places"));
    auto* box = new QVBoxLayout(sheet);
    box->addWidget(about);
    box->addWidget(text, 1);
    box->addWidget(take, 0, Qt::AlignRight);
    connect(take, &QPushButton::clicked, sheet, [this, sheet, text] {
        if (!take_table(text->toPlainText(), tr("typed"))) return;
        typed_.clear();
        sheet->close();
    });
    no_default_buttons(*sheet);
    sheet->show();
    text->setFocus();
}

bool DataPage::take_table(const QString& text, const QString& name) {
    if (text.trimmed().isEmpty()) return false;
    // A file like any other, so that it can be brought in again and its other columns exported; it may name people, and
    // goes when the window is closed.
    if (!pasted_ || !pasted_->isValid())
        pasted_ = std::make_unique<QTemporaryDir>(QDir::temp().filePath("otoro-pasted"));
    if (!pasted_->isValid()) {
        emit trouble(tr("There is no room for what was pasted: %1.").arg(pasted_->errorString()));
        return false;
    }
    const QDir folder(pasted_->path());
    const QByteArray bytes = text.toUtf8();
    QString path;
    try {
        for (int n = 1; path.isEmpty() || QFile::exists(path); ++n)
            path = folder.filePath(name + (n > 1 ? QString(" %1").arg(n) : QString()) +
                                   (text.contains('\t') ? ".tsv" : ".csv"));
        files::write_text(path.toStdString(), {bytes.constData(), static_cast<std::size_t>(bytes.size())});
    } catch (const InputError& e) {
        emit trouble(QString::fromUtf8(e.what()));
        return false;
    }
    add_->offer(path, tr("It is kept in %1 until Otoro is closed; the study keeps what was taken from it.")
                          .arg(QDir::toNativeSeparators(path)));
    return true;
}

void DataPage::show_summary() {
    auto* sheet = new QDialog(this);
    sheet->setAttribute(Qt::WA_DeleteOnClose);
    sheet->setObjectName("summary");
    sheet->setWindowTitle(tr("Network summary"));
    sheet->resize(760, 640);
    auto* text = new QTextBrowser(sheet);
    text->setAccessibleName(tr("Network summary"));
    text->setPlainText(tr("Being worked out\u2026"));
    auto* copy = new QPushButton(tr("Copy"), sheet);
    copy->setAccessibleName(tr("Copy the network summary"));
    auto* save = new QPushButton(tr("Export\u2026"), sheet);
    save->setAccessibleName(tr("Export the network summary as a text file"));
    auto* row = new QHBoxLayout;
    row->addStretch(1);
    row->addWidget(copy);
    row->addWidget(save);
    auto* box = new QVBoxLayout(sheet);
    box->addWidget(text, 1);
    box->addLayout(row);
    connect(copy, &QPushButton::clicked, sheet, [text] { QApplication::clipboard()->setText(text->toPlainText()); });
    connect(save, &QPushButton::clicked, sheet, [this, text] {
        const auto path =
            ask_where_to_save(this, tr("Export the network summary"), "network-summary.txt", {{tr("Text"), ".txt"}});
        if (!path) return;
        try {
            files::write_text(path->toStdString(), text->toPlainText().toStdString());
        } catch (const InputError& e) {
            emit trouble(QString::fromUtf8(e.what()));
        }
    });
    no_default_buttons(*sheet);
    sheet->show();
    if (!fixer_.checked()) return text->clear();
    QThreadPool::globalInstance()->start(
        [guard = QPointer(text), study = session_.document.study(), checked = fixer_.checked()] {
            QString summary;
            try {
                summary = QString::fromStdString(service::network_summary(study, *checked));
            } catch (...) {
                summary = what_went_wrong();
            }
            QMetaObject::invokeMethod(qApp, [guard, summary] {
                if (guard) guard->setPlainText(summary);
            });
        });
}

void DataPage::open_attaching(const service::SetName& set) { (new AttachSheet(session_, fixer_, set, this))->show(); }

}  // namespace otoro::desktop
