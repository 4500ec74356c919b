/// What the fields of a record say: texts, numbers, ids.
#include <cpl_string.h>
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <limits>

#include "files/source_opened.h"
#include "files/table_text.h"
#include "geo/amounts.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

/// A spreadsheet's number as people write it: `1.23456789E+15` is a whole number, and so is `1001.000`.
std::string plain_cell(const std::string& cell) {
    const auto digit_or = [&](const char* others) {
        return cell.find_first_not_of(std::string("0123456789") + others) == std::string::npos;
    };
    if (cell.empty() || !digit_or("-+.eE")) return cell;
    double v = 0;
    const bool exponent = cell.find_first_of("eE") != std::string::npos;
    const auto point = cell.find('.');
    const bool zeros =
        point != std::string::npos && point > 0 && cell.find_first_not_of('0', point + 1) == std::string::npos;
    if (exponent && parse_number(cell, v)) return plain_number(v);
    return zeros ? cell.substr(0, point) : cell;
}

/// A text that was kept from being a formula by an apostrophe (write_answer.h), as it was.
std::string without_guard(std::string text) {
    if (text.size() > 1 && text[0] == '\'' && std::string_view("=+-@\t\r").find(text[1]) != std::string_view::npos)
        text.erase(0, 1);
    return text;
}

}  // namespace

std::string as_utf8(std::string_view text) {
    std::string out(text);
    if (CPLIsUTF8(out.c_str(), static_cast<int>(out.size()))) return out;
    char* recoded = CPLRecode(out.c_str(), "CP1252", CPL_ENC_UTF8);
    out = recoded;
    CPLFree(recoded);
    return out;
}

std::string Source::text(OGRFeature& record, int field) const {
    if (field < 0) return {};
    if (field == key_) return std::to_string(record.GetFID());
    if (!record.IsFieldSetAndNotNull(field)) return {};
    const auto& def = *record.GetFieldDefnRef(field);
    switch (def.GetType()) {
        case OFTReal: {
            if (opened_->digits && def.GetPrecision() == 0)
                if (auto digits = opened_->digits->at(record.GetFID(), field);
                    !digits.empty() && digits.find_first_not_of("0123456789+-") == std::string::npos)
                    return digits;
            return plain_number(record.GetFieldAsDouble(field));
        }
        case OFTStringList:
        case OFTIntegerList:
        case OFTInteger64List:
        case OFTRealList: {
            char* json = record.GetFieldAsSerializedJSon(field);
            std::string out = json == nullptr ? std::string() : as_utf8(json);
            CPLFree(json);
            return out;
        }
        default:
            break;
    }
    std::string out = as_utf8(record.GetFieldAsString(field));
    if (is_spreadsheet(*dataset_)) return plain_cell(out);
    return table_ ? without_guard(std::move(out)) : out;
}

std::optional<double> Source::number(OGRFeature& record, int field) const {
    if (field < 0) return std::nullopt;
    if (field == key_) return static_cast<double>(record.GetFID());
    if (!record.IsFieldSetAndNotNull(field)) return std::nullopt;
    switch (record.GetFieldDefnRef(field)->GetType()) {
        case OFTInteger:
        case OFTInteger64:
        case OFTReal: {
            const double v = record.GetFieldAsDouble(field);
            return std::isfinite(v) ? std::optional(v) : std::nullopt;
        }
        default:
            return number_in(record.GetFieldAsString(field), format(field));
    }
}

std::string Source::no_id(OGRFeature& record, int field) const {
    if (field < 0 || field == key_ || !record.IsFieldSetAndNotNull(field)) return {};
    const auto& def = *record.GetFieldDefnRef(field);
    switch (def.GetType()) {
        case OFTStringList:
        case OFTIntegerList:
        case OFTInteger64List:
        case OFTRealList:
            return "a list";
        case OFTBinary:
            return "bytes and no text";
        case OFTInteger64: {
            // What a reader makes of a number that is longer still.
            const auto v = record.GetFieldAsInteger64(field);
            const bool held =
                v == std::numeric_limits<std::int64_t>::max() || v == std::numeric_limits<std::int64_t>::min();
            return held ? "a number of more digits than can be held" : "";
        }
        case OFTReal: {
            constexpr double kExact = 9007199254740992;  // every whole number up to here has a double of its own
            if (opened_->digits && def.GetPrecision() == 0) return {};
            return std::abs(record.GetFieldAsDouble(field)) > kExact
                       ? "a number of more digits than its file holds exactly"
                       : "";
        }
        case OFTString: {
            if (def.GetSubType() != OFSTJSON) return {};
            const std::string_view text = record.GetFieldAsString(field);
            return text.starts_with('[') ? "a list" : text.starts_with('{') ? "an object" : "";
        }
        default:
            return {};
    }
}

}  // namespace otoro::files
