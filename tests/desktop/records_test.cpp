/// Records as a table: columns, sorting, filtering off the interface thread, and what is shown handed out.
#include <QClipboard>
#include <QLineEdit>
#include <QSettings>
#include <QTableView>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/records_panel.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

/// Made-up records, so many that they are put in order off the interface thread.
class Many : public RecordSource {
public:
    explicit Many(std::uint32_t n) : n_(n) { columns_ = {{"id", "id"}, {"number", "number", true, 0}}; }
    [[nodiscard]] std::uint32_t count() const override { return n_; }
    [[nodiscard]] QVariant value(std::uint32_t row, int column) const override {
        if (column == 0) return QString("R%1").arg(row);
        if (row % 10 == 3) return {};
        return (row * 7919) % 1000;
    }

private:
    std::uint32_t n_;
};

}  // namespace

TEST_CASE("Records in order of a number: equal ones as they come, those without one last, whichever way") {
    for (const std::uint32_t n : {100U, 50'000U}) {
        RecordModel model(std::make_shared<Many>(n));
        for (const auto order : {Qt::AscendingOrder, Qt::DescendingOrder}) {
            model.sort(1, order);
            REQUIRE(wait_for([&] { return !model.arranging(); }));
            REQUIRE(model.rowCount() == static_cast<int>(n));
            bool ended = false;
            for (int row = 1; row < model.rowCount(); ++row) {
                const QVariant a = model.index(row - 1, 1).data(kSortRole), b = model.index(row, 1).data(kSortRole);
                ended = ended || !a.isValid();
                REQUIRE(!(ended && b.isValid()));
                if (!a.isValid() || !b.isValid()) continue;
                const bool right = order == Qt::AscendingOrder ? a.toInt() <= b.toInt() : a.toInt() >= b.toInt();
                REQUIRE(right);
                if (a.toInt() == b.toInt()) REQUIRE(model.record(row - 1) < model.record(row));
            }
        }
        model.set_words("R7");
        model.sort(-1, Qt::AscendingOrder);
        REQUIRE(wait_for([&] { return !model.arranging(); }));
        for (int row = 0; row < model.rowCount(); ++row) {
            REQUIRE(model.index(row, 0).data().toString().contains("R7"));
            REQUIRE(model.row_of(model.record(row)) == row);
        }
        CHECK_FALSE(model.row_of(5));
        CHECK(model.rowCount() > 0);
    }
}

TEST_CASE("The filter of demand finds what its cells say, as going through all of them does") {
    Desk desk;
    desk.add_saltmere();
    desk.add(test::saltmere("zones.geojson"));
    REQUIRE(desk.settle());
    const DemandSource source(desk.session().answers.shown());
    for (const char* text : {"cut", "served", "Quay", "H0004", "12", "7.5", "town", "no road", "zzz", "4"}) {
        INFO(text);
        const QStringList words{text};
        const auto quick = source.matcher(words), slow = source.RecordSource::matcher(words);
        for (std::uint32_t i = 0; i < source.count(); i += 13) REQUIRE(quick(i) == slow(i));
    }
}

TEST_CASE("What is filtered is exported, in the order shown") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    auto& records = desk.page().records();
    records.set_open(true);
    records.filter().setText("cut off");
    records.demand_table().sortByColumn(DemandSource::kWeight, Qt::DescendingOrder);
    std::vector<DemandIndex> shown;
    QObject::connect(&records, &RecordsPanel::export_wanted, &desk.window,
                     [&](const std::vector<DemandIndex>& places) { shown = places; });
    // The dialog that asks where to save is not what is tested here.
    std::vector<DemandIndex> rows;
    for (int r = 0; r < records.demand().rowCount(); ++r) rows.emplace_back(records.demand().record(r));
    REQUIRE(rows.size() == 23);
    const auto path = desk.folder.file("cut-off.csv");
    desk.window.exports().answer(QString::fromStdString(path), rows);
    REQUIRE(desk.settle());
    const auto text = test::contents(path);
    CHECK(std::count(text.begin(), text.end(), '\n') == 24);
    const auto first = desk.session().answers.shown()->ready->inputs.demand.at(rows[0].value()).id;
    CHECK(text.find("\r\n" + first + ",") == text.find("\r\n"));
}

TEST_CASE("Columns are chosen and remembered, and copying keeps to them") {
    Desk desk;
    desk.add_saltmere();
    auto& records = desk.page().records();
    records.show_column(records.demand_table(), "straight", false);
    CHECK(records.demand_table().isColumnHidden(DemandSource::kStraight));
    records.demand_table().selectRow(0);
    records.copy();
    CHECK_FALSE(QApplication::clipboard()->text().contains("straight"));
    Desk again;
    again.add_saltmere();
    CHECK(again.page().records().demand_table().isColumnHidden(DemandSource::kStraight));
    again.page().records().show_column(again.page().records().demand_table(), "straight", true);
    CHECK_FALSE(again.page().records().demand_table().isColumnHidden(DemandSource::kStraight));
}

TEST_CASE("Everything picked lights up in the table as a few stretches") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    auto& records = desk.page().records();
    records.set_open(true);
    Picked all;
    for (std::uint32_t i = 0; i < 9000; ++i) all.places.push_back(i);
    desk.session().selection.pick(all);
    CHECK(records.demand_table().selectionModel()->selection().size() == 1);
    records.demand_table().clearSelection();
    CHECK(desk.session().selection.picked().places.empty());
    records.demand_table().selectAll();
    CHECK(desk.session().selection.picked().places.size() == 9000);
}

TEST_CASE("Another standard leaves the rows where they are") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    auto& records = desk.page().records();
    records.set_open(true);
    int resets = 0;
    QObject::connect(&records.demand(), &QAbstractItemModel::modelReset, &desk.window, [&] { ++resets; });
    desk.session().document.edit("standard",
                                 [](service::Study& s) { s.question().standard->limit = Millis::minutes(5); });
    REQUIRE(desk.settle());
    CHECK(resets == 0);
    desk.session().document.new_plan("Quay", {{service::Change::open, "C1", {}}});
    REQUIRE(desk.settle_plans());
    CHECK(resets > 0);
}
