#include "files/dbf_text.h"

#include <shapefil.h>

#include <limits>

#include "files/table_text.h"

namespace otoro::files {

std::unique_ptr<DbfText> DbfText::beside(const std::string& path) {
    DBFHandle handle = DBFOpen(path.c_str(), "rb");
    return handle == nullptr ? nullptr : std::unique_ptr<DbfText>(new DbfText(handle));
}

DbfText::~DbfText() { DBFClose(static_cast<DBFHandle>(handle_)); }

std::string DbfText::at(long long row, int field) const {
    auto* handle = static_cast<DBFHandle>(handle_);
    if (row < 0 || row >= DBFGetRecordCount(handle) || field < 0 || field >= DBFGetFieldCount(handle)) return {};
    const char* text = DBFReadStringAttribute(handle, static_cast<int>(row), field);
    return text == nullptr ? std::string() : trimmed_text(text);
}

}  // namespace otoro::files
