/// OpenStreetMap XML: the cutting of ways, tags, durations, restrictions. (The XML itself is libosmium's.)
#include <unistd.h>

#include "files/read_roads.h"
#include "fuzz/fuzz.h"
#include "geo/error.h"
#include "roads/network.h"
#include "support/files.h"

OTORO_FUZZ(text) {
    using namespace otoro;
    const test::Folder folder;
    try {
        auto r = files::read_roads({{folder.write("f.osm", std::string(text)), "", ""}, {}}, Task());
        (void)roads::join(std::move(r.lines), Task());
    } catch (const InputError&) {
    }
}
