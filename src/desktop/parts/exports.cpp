#include "desktop/parts/exports.h"

#include <QApplication>
#include <QClipboard>
#include <QFileInfo>
#include <memory>

#include "desktop/parts/save_place.h"
#include "files/add_data.h"
#include "files/atomic_file.h"
#include "files/write_answer.h"

namespace otoro::desktop {
namespace {

InputError not_drawn(const QString& path) {
    return InputError({path.toStdString(), std::nullopt, "the picture could not be drawn",
                       "Make the window smaller, or close other programs"});
}

QString no_answer_yet() { return Exports::tr("There is no answer to export yet, or it is out of date."); }

}  // namespace

Exports::Exports(Session& session, Jobs& jobs, MapView& map, QWidget* window)
    : QObject(window), session_(session), jobs_(jobs), map_(map), window_(window) {}

void Exports::choose_answer_file(const files::WhichPlaces& which) {
    // What is written is what was shown when it was asked for, whatever is read or worked out while the place is
    // chosen.
    const auto exported = session_.answers.to_export();
    if (!exported) return emit no_answer(no_answer_yet());
    if (const auto path =
            ask_where_to_save(window_, tr("Export the answer"), "answer.csv",
                              {{tr("Table"), ".csv"}, {tr("GeoPackage"), ".gpkg"}, {tr("GeoJSON"), ".geojson"}}))
        write(*exported, *path, which);
}

void Exports::choose_map_file() {
    if (const auto path = ask_where_to_save(window_, tr("Export the map"), "map.png",
                                            {{tr("Picture"), ".png"}, {tr("Drawing"), ".svg"}}))
        map(*path);
}

bool Exports::is_ours(const QString& path) {
    if (files::same_file(path.toStdString(), session_.document.path().toStdString())) {
        emit trouble(tr("%1 is the study itself. Choose another name.").arg(path));
        return true;
    }
    const auto what = files::read_from(session_.document.study(), path.toStdString());
    if (what)
        emit trouble(tr("%1 is the file that %2 were read from. Choose another name.")
                         .arg(QFileInfo(path).fileName(), QString::fromStdString(*what)));
    return what.has_value();
}

void Exports::answer(const QString& path, const files::WhichPlaces& which) {
    const auto exported = session_.answers.to_export();
    if (!exported) return emit no_answer(no_answer_yet());
    write(*exported, path, which);
}

void Exports::write(const Answers::ToExport& exported, const QString& path, const files::WhichPlaces& which) {
    if (is_ours(path)) return;
    jobs_.exporting.run([this, path, exported, which](const Task& task) -> Background::Then {
        files::write_answer(*exported.answer->ready, exported.outcome(), path.toStdString(), files::AnswerShape::points,
                            task, which);
        return [this, path] { emit done(tr("The answer was written to %1.").arg(path)); };
    });
}

void Exports::map(const QString& path) {
    const auto picture = map_.picture();
    if (!picture) return emit trouble(tr("There is no map to export yet."));
    if (is_ours(path)) return;
    jobs_.exporting.run(
        [this, path, picture = std::make_shared<const MapPicture>(*picture)](const Task& task) -> Background::Then {
            files::check_can_write(path.toStdString());
            task.at("drawing the map", 0);
            const QByteArray bytes = path.endsWith(".svg", Qt::CaseInsensitive) ? picture->svg() : picture->png();
            task.check();
            if (bytes.isEmpty()) throw not_drawn(path);
            files::write_text(path.toStdString(), {bytes.constData(), static_cast<std::size_t>(bytes.size())});
            return [this, path] { emit done(tr("The map was written to %1.").arg(path)); };
        });
}

void Exports::copy_map() {
    const auto picture = map_.picture();
    if (!picture) return emit trouble(tr("There is no map to copy yet."));
    jobs_.exporting.run(
        [this, picture = std::make_shared<const MapPicture>(*picture)](const Task& task) -> Background::Then {
            task.at("drawing the map", 0);
            const QImage image = picture->image();
            task.check();
            if (image.isNull()) throw not_drawn({});
            return [this, image] {
                QApplication::clipboard()->setImage(image);
                emit done(tr("The map is on the clipboard."));
            };
        });
}

}  // namespace otoro::desktop
