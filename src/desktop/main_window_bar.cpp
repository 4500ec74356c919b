/// The bar at the top of the window and the menu behind the study's name.
#include <QButtonGroup>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QShortcut>
#include <QVBoxLayout>

#include "desktop/main_window.h"
#include "desktop/pages/data_page.h"
#include "desktop/pages/start_page.h"
#include "desktop/parts/elided.h"
#include "desktop/parts/exports.h"
#include "desktop/parts/find_box.h"
#include "desktop/parts/shown_name.h"
#include "desktop/parts/strips.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {

void MainWindow::build_menu() {
    menu_ = new QMenu(this);
    const auto add = [this](const QString& text, const QKeySequence& key, auto&& act) {
        auto* a = menu_->addAction(text);
        a->setShortcut(key);
        a->setShortcutContext(Qt::WindowShortcut);
        addAction(a);
        connect(a, &QAction::triggered, this, act);
        return a;
    };
    add(tr("New study"), QKeySequence::New, [this] { new_study(); });
    add(tr("Open a study\u2026"), QKeySequence::Open, [this] { choose_and_open(); });
    add(tr("Open the example"), {}, [this] { open_example(); })->setVisible(!example_study().isEmpty());
    recent_ = menu_->addMenu(tr("Open recent"));
    connect(recent_, &QMenu::aboutToShow, this, [this] {
        recent_->clear();
        for (const auto& path : files_.recent())
            recent_->addAction(
                on_button(tr("%1 in %2").arg(QFileInfo(path).fileName(), QFileInfo(path).absolutePath())), this,
                [this, path] { take_file(path); });
        if (recent_->isEmpty()) recent_->addAction(tr("(none yet)"))->setEnabled(false);
    });
    add(tr("Save"), QKeySequence::Save, [this] { save(); });
    add(tr("Save as\u2026"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), [this] { save_as(); });
    add(tr("Rename the study\u2026"), {}, [this] {
        bool ok = false;
        const QString name = QInputDialog::getText(this, tr("Rename the study"), tr("Name"), QLineEdit::Normal,
                                                   QString::fromStdString(session_.document.study().name), &ok);
        if (ok && !name.trimmed().isEmpty())
            session_.document.edit(tr("rename"), [&](service::Study& s) { s.name = name.trimmed().toStdString(); });
    });
    menu_->addSeparator();
    add(tr("Add data\u2026"), QKeySequence(Qt::CTRL | Qt::Key_B), [this] { choose_files(); });
    add(tr("Travel profiles\u2026"), QKeySequence(Qt::CTRL | Qt::Key_T), [this] { show_profiles(); });
    add(tr("Network summary\u2026"), QKeySequence(Qt::CTRL | Qt::Key_I), [this] { data_->show_summary(); });
    add(tr("All pairs\u2026"), QKeySequence(Qt::CTRL | Qt::Key_P), [this] { show_pairs(); });
    add(tr("Export the answer\u2026"), QKeySequence(Qt::CTRL | Qt::Key_E), [this] { exports_->choose_answer_file(); });
    add(tr("Export the map\u2026"), QKeySequence(Qt::CTRL | Qt::Key_M), [this] { exports_->choose_map_file(); });
    add(tr("Copy the map"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_M), [this] { exports_->copy_map(); });
    menu_->addSeparator();
    auto* undo = session_.document.undo_stack().createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    auto* redo = session_.document.undo_stack().createRedoAction(this, tr("Redo"));
    redo->setShortcut(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z));
    // What a step is called may hold a name.
    const auto name_steps = [this, undo, redo] {
        const auto& stack = session_.document.undo_stack();
        undo->setText(on_button(tr("Undo %1").arg(stack.undoText()).trimmed()));
        redo->setText(on_button(tr("Redo %1").arg(stack.redoText()).trimmed()));
    };
    for (const auto changed : {&QUndoStack::undoTextChanged, &QUndoStack::redoTextChanged})
        connect(&session_.document.undo_stack(), changed, this, name_steps);
    name_steps();
    for (auto* a : {undo, redo}) {
        menu_->addAction(a);
        addAction(a);
    }
    menu_->addSeparator();
    auto* miles = menu_->addAction(tr("Lengths in miles"));
    miles->setCheckable(true);
    connect(menu_, &QMenu::aboutToShow, miles, [miles] { miles->setChecked(wording().miles); });
    connect(miles, &QAction::triggered, this, &MainWindow::choose_units);
    add(tr("Keys and words"), QKeySequence(Qt::Key_F1), [this] { show_help(); });
    add(tr("About Otoro\u2026"), {}, [this] { show_about(); });
    add(tr("Quit"), QKeySequence::Quit, [this] { close(); });
}

void MainWindow::build_bar() {
    auto* bar = new QFrame(this);
    bar->setObjectName("bar");
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(10, 2, 10, 0);
    name_ = new QPushButton(bar);
    name_->setObjectName("flat");
    name_->setFont(theme::type(1.1, QFont::DemiBold));
    name_->setMaximumWidth(kWidestNameOfStudy);
    name_->setMenu(menu_);
    name_->setAccessibleName(tr("Study menu"));
    auto* tabs = new QButtonGroup(this);
    const auto add_tab = [&](const QString& text) {
        auto* b = new QPushButton(text, bar);
        b->setObjectName("tab");
        b->setCheckable(true);
        tabs->addButton(b);
        return b;
    };
    data_tab_ = add_tab(tr("Data"));
    study_tab_ = add_tab(tr("Study"));
    compare_tab_ = add_tab(tr("Compare"));
    find_ = new FindBox(session_, bar);
    find_->setMinimumWidth(theme::scaled(120));
    find_->setMaximumWidth(theme::scaled(220));
    auto* export_to = new QPushButton(tr("Export"), bar);
    auto* out_menu = new QMenu(export_to);
    exports_->add_actions_to(*out_menu);
    export_to->setMenu(out_menu);
    export_to->setObjectName("flat");
    export_to->setAccessibleName(tr("Export the answer or the map"));
    save_ = new QPushButton(tr("Save"), bar);
    save_->setAccessibleName(tr("Save the study"));
    row->addWidget(name_);
    row->addSpacing(14);
    row->addWidget(data_tab_);
    row->addWidget(study_tab_);
    row->addWidget(compare_tab_);
    row->addStretch(1);
    row->addWidget(find_);
    row->addWidget(export_to);
    row->addWidget(save_);
    static_cast<QVBoxLayout*>(centralWidget()->layout())->insertWidget(0, bar);
    connect(data_tab_, &QPushButton::clicked, this, &MainWindow::show_data);
    connect(study_tab_, &QPushButton::clicked, this, &MainWindow::show_study);
    connect(compare_tab_, &QPushButton::clicked, this, &MainWindow::show_compare);
    connect(save_, &QPushButton::clicked, this, [this] { save(); });
    const auto key = [this](const QKeySequence& k, auto&& act) {
        connect(new QShortcut(k, this), &QShortcut::activated, this, act);
    };
    key(QKeySequence(Qt::CTRL | Qt::Key_1), [this] { show_data(); });
    key(QKeySequence(Qt::CTRL | Qt::Key_2), [this] { show_study(); });
    key(QKeySequence(Qt::CTRL | Qt::Key_3), [this] { show_compare(); });
    key(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_V), [this] { data_->paste_wanted(); });
    key(QKeySequence(Qt::CTRL | Qt::Key_F), [this] {
        find_->setFocus();
        find_->selectAll();
    });
}

}  // namespace otoro::desktop
