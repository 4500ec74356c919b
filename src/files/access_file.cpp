#include "files/access_file.h"

#include <fmt/format.h>

#include "files/shape_table.h"
#include "geo/amounts.h"

namespace otoro::files {

std::string access_csv(const service::Ready& ready, const service::Outcome& o,
                       const service::FloatingCatchment& access) {
    std::string text = fmt::format("demand_id,weight,access{}", kCsvEnd);
    for (std::uint32_t i = 0; i < access.access.size(); ++i)
        text += fmt::format("{},{},{:.9g}{}", csv_cell(ready.inputs.demand.at(i).id),
                            plain_number(o.weights[i].value()), access.access[i], kCsvEnd);
    return text;
}

std::string supply_csv(const service::Outcome& o, const service::FloatingCatchment& access) {
    std::string text = fmt::format("site_id,name,supply,demand,a_head{}", kCsvEnd);
    for (const auto& s : access.sites) {
        const auto& site = o.sites[s.site.value()].planned.site;
        text += fmt::format("{},{},{},{},{:.9g}{}", csv_cell(site.id), csv_cell(service::label(site)),
                            plain_number(s.supply), plain_number(s.demand.value()), s.a_head, kCsvEnd);
    }
    return text;
}

}  // namespace otoro::files
