#pragma once
/// \file
/// Asking where a file is to go.
#include <QString>
#include <optional>
#include <vector>

class QWidget;

namespace otoro::desktop {

/// One kind of file that can be written.
struct FileKind {
    QString name;    ///< `Table`
    QString ending;  ///< `.csv`
};

/// The path that is really written for what was typed: a typed ending of one of the kinds decides, else that of the
/// chosen kind is added.
QString with_ending(const QString& typed, const std::vector<FileKind>& kinds, int chosen);

/// Asks for a place; asks once more before a file that is there, under the name that is really written, is written
/// over. Nothing if it was given up.
std::optional<QString> ask_where_to_save(QWidget* parent, const QString& title, const QString& suggested,
                                         const std::vector<FileKind>& kinds);

}  // namespace otoro::desktop
