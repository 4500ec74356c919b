#pragma once
/// \file
/// GDAL's complaints, collected instead of printed.
#include <cpl_error.h>

#include <string>

namespace otoro::files {

/// While one lives, GDAL says nothing on the terminal; its first error (not its warnings) is kept.
class Complaints {
public:
    Complaints() {
        CPLPushErrorHandlerEx(&Complaints::take, this);
        CPLErrorReset();
    }
    ~Complaints() { CPLPopErrorHandler(); }
    Complaints(const Complaints&) = delete;
    Complaints& operator=(const Complaints&) = delete;
    [[nodiscard]] const std::string& first() const { return first_; }

private:
    static void CPL_STDCALL take(CPLErr kind, CPLErrorNum, const char* text) {
        auto* self = static_cast<Complaints*>(CPLGetErrorHandlerUserData());
        if (kind >= CE_Failure && self->first_.empty()) self->first_ = text;
    }
    std::string first_;
};

}  // namespace otoro::files
