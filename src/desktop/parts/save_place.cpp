#include "desktop/parts/save_place.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <algorithm>

namespace otoro::desktop {

QString with_ending(const QString& typed, const std::vector<FileKind>& kinds, int chosen) {
    for (const auto& k : kinds)
        if (typed.endsWith(k.ending, Qt::CaseInsensitive)) return typed;
    const QString& ending =
        kinds[static_cast<std::size_t>(std::clamp(chosen, 0, static_cast<int>(kinds.size()) - 1))].ending;
    // An ending of two parts may have been typed in half: x.gpkg for .otoro.gpkg.
    const qsizetype last = ending.lastIndexOf('.');
    if (last > 0 && typed.endsWith(ending.mid(last), Qt::CaseInsensitive)) return typed;
    return typed + ending;
}

std::optional<QString> ask_where_to_save(QWidget* parent, const QString& title, const QString& suggested,
                                         const std::vector<FileKind>& kinds) {
    QStringList filters;
    for (const auto& k : kinds) filters << QString("%1 (*%2)").arg(k.name, k.ending);
    QString start = suggested;
    QString filter = filters.front();
    while (true) {
        const QString typed = QFileDialog::getSaveFileName(parent, title, start, filters.join(";;"), &filter,
                                                           QFileDialog::DontConfirmOverwrite);
        if (typed.isEmpty()) return std::nullopt;
        const QString path = with_ending(typed, kinds, static_cast<int>(filters.indexOf(filter)));
        if (!QFileInfo::exists(path)) return path;
        const auto answer = QMessageBox::question(
            parent, title,
            QFileDialog::tr("\u2018%1\u2019 is there already. Replace it?").arg(QFileInfo(path).fileName()),
            QMessageBox::Yes | QMessageBox::No | QMessageBox::Cancel, QMessageBox::No);
        if (answer == QMessageBox::Yes) return path;
        if (answer != QMessageBox::No) return std::nullopt;
        start = path;
    }
}

}  // namespace otoro::desktop
