#include "files/fields_beside.h"

#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <optional>
#include <utility>

#include "files/add_data.h"
#include "files/all_fields.h"

namespace otoro::files {
namespace {

class Beside {
public:
    Beside(const places::Demand& demand, const std::vector<FieldsOf>& of, Task task)
        : demand_(demand), of_(of), task_(std::move(task)) {
        for (const auto& from : of_) {
            const std::size_t before = columns_.size();
            files_.push_back(all_fields(from.layer, Shape::point, task_, from.id));
            auto& column_of = column_of_.emplace_back();
            for (const auto& field : files_.back().columns) {
                const auto end = columns_.begin() + static_cast<std::ptrdiff_t>(before);
                const auto same = std::find_if(columns_.begin(), end, [&](const AnswerColumn& c) {
                    return c.name == field.name && c.kind == field.kind;
                });
                column_of.push_back(static_cast<std::size_t>(same - columns_.begin()));
                if (same == end) {
                    column_of.back() = columns_.size();
                    columns_.push_back(field);
                }
            }
        }
    }
    [[nodiscard]] const std::vector<AnswerColumn>& columns() const { return columns_; }

    std::vector<Cell> of(DemandIndex place) {
        const std::size_t file = demand_.part_of(place.value());
        const std::uint32_t record = demand_.local(place.value());
        if (file != file_ || record + 1 < next_) {
            file_ = file;
            next_ = 0;
            records_ = files_[file].open(task_);
        }
        for (; next_ <= record; ++next_) {
            found_ = records_();
            if (!found_) changed(file, record, "is not there any more");
        }
        const std::string& id = demand_.at(place.value()).id;
        if (!of_[file].id.empty() && found_->id != id)
            changed(file, record, fmt::format("has the id '{}', and had '{}'", found_->id, id));
        std::vector<Cell> cells(columns_.size());
        for (std::size_t k = 0; k < found_->cells.size(); ++k) cells[column_of_[file][k]] = found_->cells[k];
        return cells;
    }

private:
    [[noreturn]] void changed(std::size_t file, std::uint32_t record, const std::string& how) const {
        throw InputError({of_[file].layer.path, record,
                          "the file has changed since the demand was read from it: this record " + how,
                          "Add the file to the study again"});
    }

    const places::Demand& demand_;
    std::vector<FieldsOf> of_;
    Task task_;
    std::vector<AllFields> files_;
    std::vector<std::vector<std::size_t>> column_of_;  // of each file's fields
    std::vector<AnswerColumn> columns_;
    std::size_t file_ = ~std::size_t{0};
    std::uint32_t next_ = 0;  // record of the file
    AllFields::Records records_;
    std::optional<AllFields::Record> found_;
};

}  // namespace

FieldsOf fields_of(const service::Origin& origin) {
    const auto id = origin.fields.find("id");
    return {layer_of(origin), id == origin.fields.end() ? std::string() : id->second};
}

BesidePlaces fields_beside(const places::Demand& demand, const std::vector<FieldsOf>& of, const Task& task) {
    const auto reading = std::make_shared<Beside>(demand, of, task);
    return {reading->columns(), [reading](DemandIndex place) { return reading->of(place); }};
}

}  // namespace otoro::files
