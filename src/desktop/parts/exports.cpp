#include "desktop/parts/exports.h"

#include <QApplication>
#include <QClipboard>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <memory>

#include "desktop/parts/save_place.h"
#include "files/add_data.h"
#include "files/atomic_file.h"
#include "files/route_table.h"
#include "files/write_answer.h"
#include "files/write_reach.h"
#include "files/write_surface.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {

InputError not_drawn(const QString& path) {
    return InputError({path.toStdString(), std::nullopt, "the picture could not be drawn",
                       "Make the window smaller, or close other programs"});
}

std::vector<FileKind> table_kinds() {
    return {{Exports::tr("Table, CSV"), ".csv"},
            {Exports::tr("Spreadsheet, ODS"), ".ods"},
            {Exports::tr("Spreadsheet, XLSX"), ".xlsx"}};
}

std::vector<FileKind> layer_kinds() {
    return {{Exports::tr("GeoPackage"), ".gpkg"},
            {Exports::tr("GeoJSON"), ".geojson"},
            {Exports::tr("FlatGeobuf"), ".fgb"},
            {Exports::tr("Shapefile"), ".shp"}};
}

QString no_answer_yet() { return Exports::tr("There is no answer to export yet, or it is out of date."); }

}  // namespace

Exports::Exports(Session& session, Jobs& jobs, MapView& map, QWidget* window)
    : QObject(window), session_(session), jobs_(jobs), map_(map), window_(window) {}

void Exports::add_actions_to(QMenu& menu) {
    using Shape = files::AnswerShape;
    for (const auto& [shape, text] : {std::pair{Shape::points, tr("The answer as a table or layer\u2026")},
                                      std::pair{Shape::lines, tr("Straight lines from places to sites\u2026")},
                                      std::pair{Shape::journeys, tr("Journeys along the roads\u2026")}})
        menu.addAction(text, this, [this, shape = shape] { choose_answer_file({}, shape); });
    menu.addAction(tr("The answer with all fields of its file\u2026"), this, &Exports::choose_file_with_fields);
    menu.addAction(tr("The route over stops\u2026"), this, &Exports::choose_route_file);
    menu.addAction(tr("The map as a picture\u2026"), this, &Exports::choose_map_file);
    menu.addAction(tr("The map to the clipboard"), this, &Exports::copy_map);
    menu.addSeparator();
    for (const auto& [what, text] : {std::pair{GroundFile::areas, tr("Reached ground as areas\u2026")},
                                     std::pair{GroundFile::roads, tr("Reached roads\u2026")},
                                     std::pair{GroundFile::lines, tr("Lines of equal time or distance\u2026")},
                                     std::pair{GroundFile::circles, tr("Circles, and what they promise\u2026")},
                                     std::pair{GroundFile::surface, tr("Time or distance as a surface\u2026")},
                                     std::pair{GroundFile::change, tr("Reach gained and lost\u2026")},
                                     std::pair{GroundFile::uncovered, tr("Uncovered ground\u2026")},
                                     std::pair{GroundFile::zones, tr("Zones, how far each is covered\u2026")},
                                     std::pair{GroundFile::failing, tr("Ground of zones that is not covered\u2026")}})
        menu.addAction(text, this, [this, what = what] { choose_ground_file(what); });
}

void Exports::choose_answer_file(const files::WhichPlaces& which, files::AnswerShape shape) {
    // What is written is what was shown when it was asked for, whatever is read or worked out while the place is
    // chosen.
    const auto exported = session_.answers.to_export();
    if (!exported) return emit no_answer(no_answer_yet());
    auto kinds = shape == files::AnswerShape::points ? table_kinds() : std::vector<FileKind>();
    const auto layers = layer_kinds();
    kinds.insert(kinds.end(), layers.begin(), layers.end());
    const char* const suggested = shape == files::AnswerShape::points  ? "answer.csv"
                                  : shape == files::AnswerShape::lines ? "desire-lines.gpkg"
                                                                       : "journeys.gpkg";
    if (const auto path = ask_where_to_save(window_, tr("Export the answer"), suggested, kinds))
        write(*exported, *path, {shape, which});
}

std::optional<std::vector<files::FieldsOf>> Exports::fields_of(const Answers::ToExport& exported) {
    std::vector<files::FieldsOf> of;
    for (const auto& set : exported.answer->ready->inputs.demand.sets()) {
        const auto* in = session_.document.study().find_demand(set->name);
        if (!in || in->origin.path.empty()) {
            emit trouble(tr("It is not known from which file %1 were read. Add the file again.")
                             .arg(QString::fromStdString(set->name)));
            return std::nullopt;
        }
        of.push_back(files::fields_of(in->origin));
    }
    return of;
}

void Exports::choose_file_with_fields() {
    // As with the answer alone: what is shown now is what is written.
    const auto exported = session_.answers.to_export();
    if (!exported) return emit no_answer(no_answer_yet());
    auto of = fields_of(*exported);
    if (!of) return;
    auto kinds = table_kinds();
    const auto layers = layer_kinds();
    kinds.insert(kinds.end(), layers.begin(), layers.end());
    if (const auto path = ask_where_to_save(window_, tr("Export the answer with all fields"), "answer.csv", kinds))
        write(*exported, *path, {}, std::move(*of));
}

void Exports::answer_with_fields(const QString& path) {
    const auto exported = session_.answers.to_export();
    if (!exported) return emit no_answer(no_answer_yet());
    if (auto of = fields_of(*exported)) write(*exported, path, {}, std::move(*of));
}

void Exports::choose_reassigned_file(const std::shared_ptr<const Reassigner::Found>& moved, bool flows) {
    const auto exported = session_.answers.to_export();
    if (!exported || exported->answer != moved->answer) return emit no_answer(no_answer_yet());
    if (!flows) {
        auto kinds = table_kinds();
        const auto layers = layer_kinds();
        kinds.insert(kinds.end(), layers.begin(), layers.end());
        if (const auto path =
                ask_where_to_save(window_, tr("Export places with their new site"), "reassigned.csv", kinds)) {
            files::AnswerWanted wanted;
            wanted.reassigned = moved->moved.sites;
            write(*exported, *path, std::move(wanted));
        }
        return;
    }
    choose_table_file(tr("Export the flows"), "flows.csv",
                      [moved] { return files::flows_csv(moved->answer->outcome, moved->moved); });
}

void Exports::choose_table_file(const QString& title, const QString& name, std::function<std::string()> text) {
    const auto path = ask_where_to_save(window_, title, name, {{tr("Table, CSV"), ".csv"}});
    if (!path || is_ours(*path)) return;
    jobs_.exporting.run([this, path = *path, text = std::move(text)](const Task&) -> Background::Then {
        files::write_text(path.toStdString(), text());
        return [this, path] { emit done(tr("Written to %1.").arg(path)); };
    });
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

void Exports::answer(const QString& path, const files::WhichPlaces& which, files::AnswerShape shape) {
    const auto exported = session_.answers.to_export();
    if (!exported) return emit no_answer(no_answer_yet());
    write(*exported, path, {shape, which});
}

void Exports::write(const Answers::ToExport& exported, const QString& path, files::AnswerWanted wanted,
                    std::vector<files::FieldsOf> fields) {
    if (is_ours(path)) return;
    jobs_.exporting.run([this, path, exported, wanted = std::move(wanted),
                         fields = std::move(fields)](const Task& task) mutable -> Background::Then {
        const auto& ready = *exported.answer->ready;
        if (!fields.empty()) wanted.beside = fields_beside(ready.inputs.demand, fields, task);
        const auto remark =
            QString::fromStdString(write_answer(ready, exported.outcome(), path.toStdString(), wanted, task));
        return [this, path, remark] { emit done(tr("The answer was written to %1. %2").arg(path, remark).trimmed()); };
    });
}

void Exports::map(const QString& path) {
    const auto picture = map_.picture();
    if (!picture) return emit trouble(tr("There is no map to export yet."));
    if (is_ours(path)) return;
    jobs_.exporting.run(
        [this, path, picture = std::make_shared<MapPicture>(*picture)](const Task& task) -> Background::Then {
            files::check_can_write(path.toStdString());
            picture->find_ground(task);
            task.at("drawing the map", 0);
            const QByteArray bytes = path.endsWith(".svg", Qt::CaseInsensitive) ? picture->svg() : picture->png();
            task.check();
            if (bytes.isEmpty()) throw not_drawn(path);
            files::write_text(path.toStdString(), {bytes.constData(), static_cast<std::size_t>(bytes.size())});
            return [this, path] { emit done(tr("The map was written to %1.").arg(path)); };
        });
}

void Exports::choose_ground_file(GroundFile what) {
    if (!ground_for(what)) return;
    if (what == GroundFile::surface) {
        bool chosen = false;
        const double cell = QInputDialog::getDouble(window_, tr("Export a surface"), tr("Width of a cell in metres:"),
                                                    25, 0.1, 100'000, 1, &chosen);
        if (!chosen) return;
        QString size;
        try {
            const auto& ready = *session_.answers.shown()->ready;
            size = QString::fromStdString(files::SurfaceFrame::around(ready, std::nullopt, cell, "").described());
        } catch (const std::exception& e) {
            return emit trouble(QString::fromStdString(e.what()));
        }
        if (const auto path =
                ask_where_to_save(window_, tr("Export %1").arg(size), "surface.tif", {{tr("GeoTIFF"), ".tif"}}))
            ground(*path, what, cell);
        return;
    }
    if (what == GroundFile::zones) {
        if (const auto path = ask_where_to_save(window_, tr("Export zones"), "zones.csv", {{tr("CSV"), ".csv"}}))
            ground(*path, what);
        return;
    }
    const auto name = what == GroundFile::areas       ? "reach.gpkg"
                      : what == GroundFile::roads     ? "roads.gpkg"
                      : what == GroundFile::lines     ? "lines.gpkg"
                      : what == GroundFile::circles   ? "circles.gpkg"
                      : what == GroundFile::uncovered ? "uncovered.gpkg"
                      : what == GroundFile::change    ? "change.gpkg"
                                                      : "not-covered.gpkg";
    if (const auto path = ask_where_to_save(window_, tr("Export ground"), name, layer_kinds())) ground(*path, what);
}

std::optional<GroundAsked> Exports::ground_for(GroundFile what) {
    const auto exported = session_.answers.to_export();
    auto asked = exported ? map_.ground_asked(true) : std::nullopt;
    if (!asked) {
        emit no_answer(no_answer_yet());
        return std::nullopt;
    }
    asked->answer = exported->answer;
    asked->uncovered = what == GroundFile::uncovered || what == GroundFile::zones || what == GroundFile::failing;
    if (what == GroundFile::change && !asked->against) {
        emit trouble(tr("Choose in the legend what reach is compared with first."));
        return std::nullopt;
    }
    if (what != GroundFile::change) asked->against.reset();
    if (what == GroundFile::zones || what == GroundFile::failing) {
        if (!asked->zones) {
            emit trouble(tr("The study has no zones. Add some on the Data page."));
            return std::nullopt;
        }
        if (asked->view.cover == service::CoverList::patches) asked->view.cover = service::CoverList::zones;
    }
    if (what == GroundFile::uncovered) asked->view.cover = service::CoverList::patches;
    asked->view.roads = what == GroundFile::roads;
    asked->view.lines = what == GroundFile::lines;
    asked->view.circles = what == GroundFile::circles;
    return asked;
}

namespace {

/// What was found, as one file says it.
files::ShapeTable table_of(const GroundFound& found, Exports::GroundFile what) {
    using File = Exports::GroundFile;
    const auto& asked = found.asked;
    switch (what) {
        case File::roads:
            return files::roads_table(*found.ready, *found.areas, found.roads);
        case File::lines:
            return files::lines_table(*found.ready, found.lines);
        case File::circles:
            return files::circles_table(*found.ready, *found.areas, found.circles);
        case File::uncovered:
            return files::uncovered_table(*found.ready, asked.answer->outcome.sites, asked.standard, *found.uncovered);
        case File::failing:
            return files::failing_table(*asked.zones, asked.standard, found.zones);
        case File::change: {
            service::ReachRequest first, second;
            first.limits = {asked.against->limit};
            second.limits = {asked.view.limits.back()};
            service::Ready other = *found.ready;
            other.question = asked.against->question;
            return files::change_table(
                files::reach_sentence(other, first) + ", plan " + asked.against->plan.name,
                files::reach_sentence(*found.ready, second) + ", plan " + asked.answer->outcome.plan.name,
                *found.change);
        }
        case File::areas:
        case File::surface:
        case File::zones:
            break;
    }
    return files::reach_table(*found.ready, *found.areas);
}

}  // namespace

void Exports::ground(const QString& path, GroundFile what, double cell_metres) {
    auto asked = ground_for(what);
    if (!asked || is_ours(path)) return;
    jobs_.exporting.run([this, path, what, cell_metres, asked = *asked](const Task& task) -> Background::Then {
        const std::string to = path.toStdString();
        files::check_can_write(to);
        std::string remark;
        if (what == GroundFile::surface) {
            const auto& plan = asked.answer->outcome.plan;
            const auto ready = asked.from ? ready_from(asked.answer->ready, {*asked.from}, task) : asked.answer->ready;
            const auto measure = service::measure_of(asked.view.limits.front());
            const auto frame = files::SurfaceFrame::around(*ready, std::nullopt, cell_metres, "");
            task.at(frame.described(), 0);
            write_surface(
                *nearest_values(ready, plan, measure, asked.from ? std::vector<SiteIndex>() : asked.sites, task),
                measure, frame, to, std::nullopt, service::sentence(ready->question, ready->inputs.demand), task);
            remark = frame.described();
        } else {
            const auto found = find_ground(asked, 0, task);
            if (what == GroundFile::zones) {
                std::vector<service::PlannedSite> sites;
                for (const auto& s : asked.answer->outcome.sites) sites.push_back(s.planned);
                files::write_text(to, files::zones_csv(*asked.zones, sites, found->zones));
            } else {
                remark = write_table(table_of(*found, what), to, task);
            }
        }
        return [this, path, remark] {
            emit done(remark.empty() ? tr("Written to %1.").arg(path)
                                     : tr("Written to %1. %2").arg(path, QString::fromStdString(remark)));
        };
    });
}

std::shared_ptr<const RoutePlanner::Found> Exports::route_now() {
    if (session_.route.found() && session_.route.up_to_date()) return session_.route.found();
    emit trouble(session_.route.busy()
                     ? tr("The way is being found still.")
                     : tr("There is no route yet. Press the map with the right button to stop somewhere."));
    return nullptr;
}

void Exports::choose_route_file() {
    if (!route_now()) return;
    auto kinds = layer_kinds();
    kinds.push_back({tr("Text, turn by turn"), ".txt"});
    if (const auto path = ask_where_to_save(window_, tr("Export the route"), "route.gpkg", kinds)) route(*path);
}

void Exports::route(const QString& path) {
    const auto found = route_now();
    if (!found || is_ours(path)) return;
    jobs_.exporting.run([this, path, found](const Task& task) -> Background::Then {
        const std::string to = path.toStdString();
        files::check_can_write(to);
        std::string remark;
        if (path.endsWith(".txt", Qt::CaseInsensitive))
            files::write_text(to, files::route_text(found->way, found->route.stops));
        else
            remark = write_table(files::route_table(found->way), to, task);
        return [this, path, remark] {
            emit done(tr("The route was written to %1. %2").arg(path, QString::fromStdString(remark)).trimmed());
        };
    });
}

void Exports::copy_route() {
    const auto found = route_now();
    if (!found) return;
    QApplication::clipboard()->setText(QString::fromStdString(files::route_text(found->way, found->route.stops)));
    emit done(tr("The route is on the clipboard."));
}

void Exports::copy_map() {
    const auto picture = map_.picture();
    if (!picture) return emit trouble(tr("There is no map to copy yet."));
    jobs_.exporting.run([this, picture = std::make_shared<MapPicture>(*picture)](const Task& task) -> Background::Then {
        picture->find_ground(task);
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
