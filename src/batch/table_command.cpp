#include <algorithm>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/write_answer.h"
#include "service/travel_table.h"

namespace otoro::batch {
namespace {

struct Table : Command {
    Asking asking;
    std::string out;
    std::uint32_t nearest = 0;

    void add_to(CLI::App& app) override {
        asking.add_to(app, QuestionOptions::kLimit);
        app.add_option("--out", out,
                       "where the table goes, as CSV: one row for every site and place with a way between them, within "
                       "the limit if there is one")
            ->required()
            ->type_name("FILE");
        app.add_option("--nearest", nearest, "only so many nearest sites of each place")->check(CLI::PositiveNumber);
    }
    [[nodiscard]] int run() const override;
};

int Table::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    check_output("--out", out, {".csv"}, asking.inputs());
    auto [ready, plan] = asking.ready_to_ask(console, task);
    const auto& demand = ready->inputs.demand;
    const auto sites = sites_under(ready->inputs.sites, plan, ready->question.use);
    const auto in_use = static_cast<std::size_t>(
        std::count_if(sites.begin(), sites.end(), [](const service::PlannedSite& s) { return s.in_use; }));
    if (routing::worth_ordering(*ready->graph, in_use, task)) {
        auto faster = std::make_shared<service::Ready>(*ready);
        faster->prepared = prepare_searches(*ready, nullptr, nullptr, task);
        ready = faster;
    }
    std::uint64_t rows = 0;
    const auto line = [&](SiteIndex site, std::uint32_t place, const service::PlaceOutcome& p, int rank) {
        ++rows;
        return fmt::format("{},{},{}{:.5f},{:.3f}\r\n", files::csv_cell(sites[site.value()].site.id),
                           files::csv_cell(demand.at(place).id), nearest > 0 ? fmt::format("{},", rank) : "",
                           p.time.minutes(), p.distance.metres());
    };
    files::write_atomically(out, [&](const std::string& temporary) {
        files::CheckedFile file(temporary, out);
        file.write(nearest > 0 ? "site_id,demand_id,rank,minutes,metres\r\n" : "site_id,demand_id,minutes,metres\r\n");
        if (nearest == 0) {
            service::each_site_to_all(
                *ready, plan,
                [&](SiteIndex site, std::span<const service::PlaceOutcome> places) {
                    std::string text;
                    for (std::uint32_t i = 0; i < places.size(); ++i)
                        if (places[i].served()) text += line(site, i, places[i], 0);
                    file.write(text);
                },
                task);
        } else {
            // The few best of each place so far, nearest first.
            std::vector<std::vector<std::pair<SiteIndex, service::PlaceOutcome>>> few(demand.count());
            const bool by_time = ready->question.measure() == routing::Measure::time;
            const auto cost = [&](const service::PlaceOutcome& p) {
                return by_time ? p.time.count() : p.distance.count();
            };
            service::each_site_to_all(
                *ready, plan,
                [&](SiteIndex site, std::span<const service::PlaceOutcome> places) {
                    for (std::uint32_t i = 0; i < places.size(); ++i) {
                        if (!places[i].served()) continue;
                        auto& best = few[i];
                        const auto at =
                            std::upper_bound(best.begin(), best.end(), cost(places[i]),
                                             [&](auto c, const auto& known) { return c < cost(known.second); });
                        if (best.size() == nearest && at == best.end()) continue;
                        best.insert(at, {site, places[i]});
                        if (best.size() > nearest) best.pop_back();
                    }
                },
                task);
            for (std::uint32_t i = 0; i < few.size(); ++i)
                for (std::size_t k = 0; k < few[i].size(); ++k)
                    file.write(line(few[i][k].first, i, few[i][k].second, static_cast<int>(k) + 1));
        }
        file.close();
    });
    console.note("");
    fmt::print("{} rows, from {} sites to {} places\n", rows, in_use, demand.count());
    return kDone;
}

}  // namespace

std::unique_ptr<Command> table_command() { return std::make_unique<Table>(); }

}  // namespace otoro::batch
