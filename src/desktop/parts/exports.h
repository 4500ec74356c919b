#pragma once
/// \file
/// Handing out: the answer as a file, the map as a picture, to a file or to the clipboard.
#include <QObject>

#include "desktop/map/map_view.h"
#include "desktop/models/ground_finder.h"
#include "desktop/models/jobs.h"
#include "desktop/models/reassigner.h"
#include "desktop/models/session.h"
#include "files/fields_beside.h"
#include "files/write_answer.h"

class QMenu;

namespace otoro::desktop {

/// Each is drawn or written off the interface thread, by the job of exporting. Nothing is written over a file that the
/// study was read from, or over the study.
class Exports : public QObject {
    Q_OBJECT
public:
    /// \param window over which files are asked for
    Exports(Session& session, Jobs& jobs, MapView& map, QWidget* window);
    /// One action for each thing that can be handed out.
    void add_actions_to(QMenu& menu);
    /// Asks where to. \param which places, if not all: of the answer that is shown now
    void choose_answer_file(const files::WhichPlaces& which = {},
                            files::AnswerShape shape = files::AnswerShape::points);
    /// With all the fields of the files that the demand was read from.
    void choose_file_with_fields();
    void answer_with_fields(const QString& path);
    void choose_map_file();
    /// Writes the answer to a file, by its ending.
    void answer(const QString& path, const files::WhichPlaces& which = {},
                files::AnswerShape shape = files::AnswerShape::points);
    /// Writes the map as it is seen now, `.png` or `.svg`.
    void map(const QString& path);
    /// What of ground is handed out.
    enum class GroundFile : std::uint8_t { areas, roads, lines, circles, surface, uncovered, change, zones, failing };
    /// Asks where to, and for a surface how wide a cell is.
    void choose_ground_file(GroundFile what);
    /// By the ending of the path, of ground as it is looked at now.
    void ground(const QString& path, GroundFile what, double cell_metres = 25);
    /// Asks where the route is to go: as a line, or as text to travel by.
    void choose_route_file();
    void route(const QString& path);
    void copy_route();
    /// Asks where those who move are to go: each place with its new site, or the flows between sites.
    void choose_reassigned_file(const std::shared_ptr<const Reassigner::Found>& moved, bool flows);
    /// Asks where a table of text is to go. \param text makes it, off the interface thread
    void choose_table_file(const QString& title, const QString& name, std::function<std::string()> text);
    /// Puts the map as it is seen now on the clipboard.
    void copy_map();

signals:
    void done(const QString& said);
    void trouble(const QString& why);
    void no_answer(const QString& why);

private:
    /// Whether something of the study was read from this file, or it is the study, which is then said.
    bool is_ours(const QString& path);
    /// Where the records of an answer's demand stand; nothing, and said why, where that is not known.
    std::optional<std::vector<files::FieldsOf>> fields_of(const Answers::ToExport& exported);
    /// The route as it is now; null, and said why, while there is none.
    std::shared_ptr<const RoutePlanner::Found> route_now();
    /// What is asked of ground for such a file, whatever look the map has; nothing, and said why, where it cannot be.
    std::optional<GroundAsked> ground_for(GroundFile what);
    /// \param fields where records stand whose fields go beside; empty: nowhere
    void write(const Answers::ToExport& exported, const QString& path, files::AnswerWanted wanted,
               std::vector<files::FieldsOf> fields = {});

    Session& session_;
    Jobs& jobs_;
    MapView& map_;
    QWidget* window_;
};

}  // namespace otoro::desktop
