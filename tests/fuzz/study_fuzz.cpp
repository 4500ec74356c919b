/// A whole study file: a GeoPackage through reading, checking, answering every plan, and saving again.
#include "files/study_file.h"
#include "fuzz/fuzz.h"
#include "geo/error.h"
#include "service/findings.h"
#include "support/files.h"

OTORO_FUZZ(text) {
    using namespace otoro;
    const test::Folder folder;
    try {
        const auto study = files::open_study(folder.write("f.gpkg", std::string(text)), Task());
        (void)findings_of(study, *check_study(study, Task()));
        if (const auto inputs = study.inputs()) {
            const auto ready = service::prepare(*inputs, study.question(), nullptr, Task());
            for (const auto& plan : study.plans) (void)service::answer(*ready, plan, Task());
        }
        files::save_study(study, folder.file("again.gpkg"), Task());
        (void)files::open_study(folder.file("again.gpkg"), Task());
    } catch (const InputError&) {
    }
}
