#pragma once
/// \file
/// What an open source holds. Not for others.
#include <memory>
#include <utility>

#include "files/complaints.h"
#include "files/dbf_text.h"
#include "files/open_file.h"
#include "files/source.h"

namespace otoro::files {

struct Source::Opened {
    OpenFile file;
    Task task;
    Patience patience;
    std::unique_ptr<DbfText> digits;
    Opened(OpenFile f, const Task& t) : file(std::move(f)), task(t), patience(*file.dataset, t) {}
};

}  // namespace otoro::files
