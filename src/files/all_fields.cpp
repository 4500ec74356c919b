#include "files/all_fields.h"

#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <cctype>
#include <memory>
#include <set>

namespace otoro::files {
namespace {

AnswerColumn::Kind kind_of(OGRLayer& layer, int field) {
    const auto& definition = *layer.GetLayerDefn();
    if (field >= definition.GetFieldCount()) return AnswerColumn::Kind::whole;  // the key
    const auto* const f = definition.GetFieldDefn(field);
    const auto type = f->GetType();
    if ((type == OFTInteger || type == OFTInteger64) && f->GetSubType() != OFSTBoolean)
        return AnswerColumn::Kind::whole;
    return type == OFTReal ? AnswerColumn::Kind::number : AnswerColumn::Kind::text;
}

Cell cell_of(const Source& source, OGRFeature& record, int field, AnswerColumn::Kind kind) {
    if (field >= record.GetFieldCount()) return std::int64_t{record.GetFID()};
    if (!record.IsFieldSetAndNotNull(field)) return {};
    switch (kind) {
        case AnswerColumn::Kind::whole:
            return std::int64_t{record.GetFieldAsInteger64(field)};
        case AnswerColumn::Kind::number:
            return record.GetFieldAsDouble(field);
        case AnswerColumn::Kind::text:
            break;
    }
    return source.text(record, field);
}

}  // namespace

AllFields all_fields(const LayerChoice& choice, Shape wanted, const Task& task, const std::string& id) {
    AllFields out;
    const auto source = std::make_shared<Source>(choice, wanted, task);
    const auto& names = source->fields();
    const int id_field = id.empty() ? -1 : source->required_field(id, "the id");
    for (int i = 0; i < static_cast<int>(names.size()); ++i)
        out.columns.push_back({names[static_cast<std::size_t>(i)], kind_of(source->layer(), i)});
    // A source is read once: the first round has the one that is open, others open it afresh.
    const auto first = std::make_shared<std::shared_ptr<Source>>(source);
    out.open = [choice, wanted, first, id_field, columns = out.columns](const Task& going) -> AllFields::Records {
        std::shared_ptr<Source> reading = std::move(*first);
        if (!reading) reading = std::make_shared<Source>(choice, wanted, going);
        return [reading, columns, id_field, going]() -> std::optional<AllFields::Record> {
            const auto record = reading->next();
            if (!record) return std::nullopt;
            going.check();
            AllFields::Record row;
            row.cells.reserve(columns.size());
            for (int i = 0; i < static_cast<int>(columns.size()); ++i)
                row.cells.push_back(cell_of(*reading, *record, i, columns[static_cast<std::size_t>(i)].kind));
            if (id_field >= 0) row.id = reading->text(*record, id_field);
            return row;
        };
    };
    return out;
}

void AllFields::each_record(const Task& task, const std::function<void(std::vector<Cell>&&)>& use) const {
    const Records next = open(task);
    while (auto record = next()) use(std::move(record->cells));
}

std::vector<std::string> short_names(const std::vector<AnswerColumn>& columns) {
    constexpr std::size_t kMost = 10;
    std::set<std::string> taken;
    std::vector<std::string> out;
    const auto lower = [](std::string text) {
        std::transform(text.begin(), text.end(), text.begin(),
                       [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
        return text;
    };
    const auto cut = [](const std::string& text, std::size_t most) {
        std::size_t end = std::min(text.size(), most);
        while (end > 0 && end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U) --end;
        return text.substr(0, end);
    };
    for (const auto& c : columns) {
        std::string name = cut(c.name, kMost);
        for (int n = 2; !taken.insert(lower(name)).second; ++n) {
            const std::string number = fmt::format("_{}", n);
            name = cut(c.name, kMost - number.size()) + number;
        }
        out.push_back(std::move(name));
    }
    return out;
}

}  // namespace otoro::files
