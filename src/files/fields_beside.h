#pragma once
/// \file
/// The fields of the files that demand was read from, each place with those of its own record.
///
/// \par Memory
/// Files are read again as places are asked for, in order; one record is held.
#include <string>
#include <vector>

#include "files/source.h"
#include "files/write_answer.h"
#include "service/study.h"

namespace otoro::files {

/// Where a set's records stand.
struct FieldsOf {
    LayerChoice layer;
    std::string id;  ///< the field that has the id; empty: ids are the records' numbers
};
/// As a set of a study was read.
FieldsOf fields_of(const service::Origin& origin);

/// Of several files, fields of one name and kind are one column.
/// \param of one for each set of the demand, which must outlive the result \throws InputError if a file cannot be read;
/// when a place is asked for whose record is not there any more, or has another id; Stopped
BesidePlaces fields_beside(const places::Demand& demand, const std::vector<FieldsOf>& of, const Task& task);

}  // namespace otoro::files
