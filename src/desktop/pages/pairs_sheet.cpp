#include "desktop/pages/pairs_sheet.h"

#include <QAbstractTableModel>
#include <QComboBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSpinBox>
#include <QTableView>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/parts/save_place.h"
#include "desktop/parts/sheets.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "files/add_data.h"
#include "files/atomic_file.h"
#include "service/itinerary.h"

namespace otoro::desktop {
namespace {

const std::string& called(const files::PairEnd& end) { return end.name.empty() ? end.id : end.name; }

/// Why pairs are in no row: a line each.
QString all_of(const std::vector<std::string>& left_out) {
    QStringList lines;
    for (const auto& line : left_out) lines << plain(line);
    return lines.join("\n");
}

/// The first of the reasons as a sentence, and how many more there are.
QString first_of(const std::vector<std::string>& left_out) {
    if (left_out.empty()) return {};
    const QString first = " " + plain(left_out.front());
    return left_out.size() == 1 ? first + "."
                                : PairsSheet::tr("%1; and %2 more.").arg(first, number(left_out.size() - 1));
}

}  // namespace

/// Beginnings down, ends across; before them the mean and the worst of each row.
class MatrixModel : public QAbstractTableModel {
public:
    using QAbstractTableModel::QAbstractTableModel;

    void show(std::shared_ptr<const PairsSheet::Found> found, bool by_time) {
        beginResetModel();
        found_ = std::move(found);
        by_time_ = by_time;
        worst_ = found_ ? value(found_->statistics.all.time.worst, found_->statistics.all.distance.worst) : 0;
        endResetModel();
    }
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() || !found_ ? 0 : static_cast<int>(found_->matrix.rows());
    }
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() || !found_ ? 0 : static_cast<int>(found_->matrix.places()) + kSums;
    }
    [[nodiscard]] QVariant headerData(int i, Qt::Orientation way, int role) const override {
        if (!found_ || (role != Qt::DisplayRole && role != Qt::ToolTipRole)) return {};
        const auto& names = found_->between.names;
        if (way == Qt::Vertical)
            return plain(called(names.sites[found_->matrix.sites()[static_cast<std::size_t>(i)].value()]));
        if (i < kSums) return i == 0 ? PairsSheet::tr("mean") : PairsSheet::tr("worst");
        return plain(called(names.places[static_cast<std::size_t>(i - kSums)]));
    }
    [[nodiscard]] QVariant data(const QModelIndex& at, int role) const override {
        if (!found_ || !at.isValid()) return {};
        const auto row = static_cast<std::size_t>(at.row());
        if (role == Qt::TextAlignmentRole) return int(Qt::AlignRight | Qt::AlignVCenter);
        if (at.column() < kSums) {
            const auto& s = found_->statistics.by_row[row];
            if (role == Qt::BackgroundRole) return theme::kShade;
            if (role != Qt::DisplayRole || s.pairs == 0) return {};
            return at.column() == 0 ? text(value(s.time.mean, s.distance.mean))
                                    : text(value(s.time.worst, s.distance.worst));
        }
        const auto place = static_cast<std::size_t>(at.column() - kSums);
        const bool there = found_->matrix.there(row, place);
        const bool itself = found_->with_itself && found_->matrix.sites()[row].value() == place;
        if (role == Qt::ToolTipRole) {
            const auto& names = found_->between.names;
            const QString ends = PairsSheet::tr("%1 to %2")
                                     .arg(plain(called(names.sites[found_->matrix.sites()[row].value()])),
                                          plain(called(names.places[place])));
            return there ? PairsSheet::tr("%1: %2 min, %3")
                               .arg(ends, decimal(found_->matrix.time(row, place).minutes(), 1),
                                    long_length(found_->matrix.distance(row, place)))
                         : PairsSheet::tr("%1: no way within the limit").arg(ends);
        }
        if (!there) return role == Qt::DisplayRole ? QVariant(QString::fromUtf8("\u2013")) : QVariant();
        const double v = value(found_->matrix.time(row, place).count(), found_->matrix.distance(row, place).count());
        if (role == Qt::DisplayRole) return itself ? QString::fromUtf8("\u00b7") : text(v);
        if (role == Qt::BackgroundRole && !itself && worst_ > 0) {
            // The farther the darker, and always pale enough for black text.
            QColor shade = theme::kMet;
            shade.setAlphaF(static_cast<float>(0.06 + 0.34 * v / worst_));
            return shade;
        }
        return {};
    }

private:
    static constexpr int kSums = 2;
    template <class T>
    [[nodiscard]] double value(T ms, T mm) const {
        return by_time_ ? static_cast<double>(ms) / 60'000
                        : static_cast<double>(mm) / static_cast<double>(from_long_units(1).count());
    }
    static QString text(double v) { return decimal(v, 1); }
    std::shared_ptr<const PairsSheet::Found> found_;
    bool by_time_ = true;
    double worst_ = 0;
};

PairsSheet::PairsSheet(Session& session, Jobs& jobs, QWidget* parent)
    : QDialog(parent), session_(session), jobs_(jobs), work_(this) {
    setWindowTitle(tr("All pairs"));
    setAttribute(Qt::WA_DeleteOnClose);
    resize(theme::scaled(860), theme::scaled(560));
    from_ = new QComboBox(this);
    from_->setAccessibleName(tr("Where journeys begin"));
    to_ = new QComboBox(this);
    to_->setAccessibleName(tr("Where they end"));
    unit_ = new QComboBox(this);
    unit_->setAccessibleName(tr("What the table shows"));
    unit_->addItems({tr("minutes"), long_unit()});
    nearest_ = new QSpinBox(this);
    nearest_->setAccessibleName(tr("How many nearest ends are exported for each beginning"));
    nearest_->setRange(0, 10'000);
    nearest_->setSpecialValueText(tr("all"));
    size_ = new QLabel(this);
    size_->setProperty("role", "soft");
    summary_ = new QLabel(this);
    summary_->setTextFormat(Qt::RichText);
    summary_->setWordWrap(true);
    show_ = new QPushButton(tr("Show"), this);
    export_ = new QPushButton(tr("Export\u2026"), this);
    table_ = new QTableView(this);
    table_->setAccessibleName(tr("Times or lengths between all pairs"));
    model_ = new MatrixModel(this);
    table_->setModel(model_);
    table_->horizontalHeader()->setDefaultSectionSize(theme::scaled(72));
    table_->horizontalHeader()->setTextElideMode(Qt::ElideRight);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeader()->setMaximumSectionSize(theme::scaled(170));
    table_->verticalHeader()->setMaximumWidth(theme::scaled(180));
    auto* asked = new QHBoxLayout;
    asked->addWidget(new QLabel(tr("From"), this));
    asked->addWidget(from_, 1);
    asked->addWidget(new QLabel(tr("to"), this));
    asked->addWidget(to_, 1);
    asked->addWidget(new QLabel(tr("in"), this));
    asked->addWidget(unit_);
    asked->addWidget(show_);
    auto* out = new QHBoxLayout;
    out->addWidget(size_, 1);
    out->addWidget(new QLabel(tr("nearest of each:"), this));
    out->addWidget(nearest_);
    out->addWidget(export_);
    auto* box = new QVBoxLayout(this);
    box->addLayout(asked);
    box->addWidget(summary_);
    box->addWidget(table_, 1);
    box->addLayout(out);
    connect(show_, &QPushButton::clicked, this, [this] { work_.busy() ? work_.stop() : ask(); });
    connect(export_, &QPushButton::clicked, this, &PairsSheet::choose_export);
    connect(unit_, &QComboBox::currentIndexChanged, this, &PairsSheet::refresh);
    for (auto* set : {from_, to_})
        connect(set, &QComboBox::currentIndexChanged, this, [this] {
            failed_.clear();
            work_.forget();
            size_changed();
        });
    connect(nearest_, &QSpinBox::valueChanged, this, &PairsSheet::size_changed);
    connect(&work_, &WorkedOutSignals::changed, this, &PairsSheet::refresh);
    connect(&work_, &WorkedOutSignals::failed, this, [this](const QString& why) { failed_ = why; });
    connect(&work_, &WorkedOutSignals::progressed, this, [this](const QString& step, double part) {
        if (work_.busy()) summary_->setText(tr("%1, %2 %").arg(step).arg(static_cast<int>(part * 100)));
    });
    // What is shown belongs to the study as it was.
    connect(&session_.document, &Document::settled, this, [this](Changes c) {
        if (c.document || c.search || c.plans) work_.forget();
        if (c.document || c.search) fill_sets();
    });
    no_default_buttons(*this);
    fill_sets();
    refresh();
}

QString PairsSheet::summary() const { return summary_->text(); }

void PairsSheet::fill_sets() {
    const auto& study = session_.document.study();
    for (auto* box : {from_, to_}) {
        const QSignalBlocker quiet(box);
        const QString before = box->currentText();
        box->clear();
        for (const auto& s : study.sites) box->addItem(tr("sites: %1").arg(plain(s.set->name)), plain(s.set->name));
        for (const auto& d : study.demand) box->addItem(tr("demand: %1").arg(plain(d.set->name)), plain(d.set->name));
        const auto& asked = session_.document.question().sites;
        const int usual = asked.empty() ? 0 : box->findData(plain(asked.front()));
        const int known = box->findText(before);
        box->setCurrentIndex(known >= 0 ? known : std::max(0, usual));
    }
    size_changed();
}

std::shared_ptr<const places::SiteSet> PairsSheet::Points::points() const {
    return sites ? sites : service::sites_from(service::DemandIn{demand, {}}).set;
}

files::PairsBetween PairsSheet::Asked::between(bool for_nearest, const Task& task) const {
    const auto from = begins.points();
    return files::pairs_between(network, question, from, with_itself ? from : ends.points(), for_nearest, earlier.get(),
                                task);
}

PairsSheet::Points PairsSheet::set_at(const QComboBox& box) const {
    const auto& study = session_.document.study();
    const auto i = static_cast<std::size_t>(box.currentIndex());
    if (box.currentIndex() < 0) return {};
    if (i < study.sites.size()) return {study.sites[i].set, nullptr};
    if (i - study.sites.size() < study.demand.size()) return {nullptr, study.demand[i - study.sites.size()].set};
    return {};
}

std::optional<PairsSheet::Asked> PairsSheet::asked() const {
    const auto& study = session_.document.study();
    Asked a;
    a.begins = set_at(*from_);
    a.with_itself = from_->currentIndex() == to_->currentIndex();
    a.ends = a.with_itself ? a.begins : set_at(*to_);
    if (!study.roads || !a.begins || !a.ends) return std::nullopt;
    a.network = study.roads->network;
    a.question = session_.document.question();
    a.question.serving = service::Nearest{a.question.measure()};
    a.question.own_limits = false;
    a.question.use = service::SiteUse::open;
    a.plan.closures = session_.document.plan().closures;
    a.nearest = static_cast<std::uint32_t>(nearest_->value());
    if (const auto shown = session_.answers.shown()) a.earlier = shown->ready;
    return a;
}

void PairsSheet::size_changed() {
    const auto a = asked();
    const bool usable = a.has_value();
    export_->setEnabled(usable);
    show_->setEnabled(usable || work_.busy());
    if (!usable) return size_->setText(tr("Add roads and points first."));
    const double from = a->begins.count(), to = a->ends.count();
    const double rows = from * (a->nearest > 0 ? std::min<double>(a->nearest, to) : to);
    constexpr double kBytes = 60;  // of a row as text, about
    const double megabytes = rows * kBytes / 1e6;
    size_->setText(tr("%1 by %2: up to %3 rows, %4 as CSV")
                       .arg(number(a->begins.count()), number(a->ends.count()),
                            number(static_cast<std::uint64_t>(rows)),
                            megabytes < 1 ? tr("less than 1 MB") : tr("about %1 MB").arg(decimal(megabytes, 0))));
}

void PairsSheet::ask() {
    const auto a = asked();
    if (!a) return;
    failed_.clear();
    work_.ask([a = *a](const Task& task) {
        auto between = a.between(false, task);
        auto matrix = pair_matrix(*between.ready, a.plan, task);
        auto sums = service::statistics(matrix, a.with_itself, task);
        auto why = files::left_out_words(left_out(matrix, *between.ready, a.plan), between.names, a.question, false);
        return std::make_shared<const Found>(Found{std::move(between), a.plan, std::move(matrix), std::move(sums),
                                                   a.with_itself, a.question.measure() == routing::Measure::time,
                                                   std::move(why)});
    });
}

void PairsSheet::refresh() {
    const auto& found = work_.found();
    show_->setText(work_.busy() ? tr("Stop") : tr("Show"));
    if (work_.busy()) return;
    const bool shown = found && found->matrix.rows() * found->matrix.places() <= kMostShown &&
                       std::max(found->matrix.rows(), found->matrix.places()) <= kMostAcross;
    model_->show(shown ? found : nullptr, unit_->currentIndex() == 0);
    table_->setVisible(shown || !found);
    constexpr std::size_t kFew = 60;  // of more, measuring names takes longer than a frame
    if (shown && found->matrix.places() <= kFew) table_->resizeColumnsToContents();
    if (!found && !failed_.isEmpty()) return summary_->setText(failed_);
    if (!found) {
        const auto limit = session_.document.question().limit;
        summary_->setText(
            tr("Press \u2018Show\u2019: every journey between the two, as the question in sight travels%1.")
                .arg(limit ? tr(", at most %1").arg(plain(describe(*limit))) : QString()));
        return;
    }
    const auto& all = found->statistics.all;
    summary_->setToolTip(all_of(found->left_out));
    QString text =
        tr("%1 with a way, %2 without.").arg(counted(all.pairs, tr("pair"), tr("pairs")), number(all.without));
    if (all.pairs > 0) {
        const double unit = static_cast<double>(from_long_units(1).count());
        text +=
            " " + tr("Mean <b>%1 min</b>, median %2, 90th %3, worst %4; mean %5 %9, median %6, 90th %7, worst %8.")
                      .arg(decimal(all.time.mean / 6e4, 1), decimal(static_cast<double>(all.time.median) / 6e4, 1),
                           decimal(static_cast<double>(all.time.p90) / 6e4, 1),
                           decimal(static_cast<double>(all.time.worst) / 6e4, 1), decimal(all.distance.mean / unit, 1),
                           decimal(static_cast<double>(all.distance.median) / unit, 1),
                           decimal(static_cast<double>(all.distance.p90) / unit, 1),
                           decimal(static_cast<double>(all.distance.worst) / unit, 1), long_unit());
    }
    text += first_of(found->left_out).toHtmlEscaped();
    if (!shown) text += " " + tr("Too large to be shown; it can be exported.");
    summary_->setText(text);
}

void PairsSheet::choose_export() {
    if (const auto path = ask_where_to_save(this, tr("Export all pairs"), "pairs.csv",
                                            {{tr("Table, CSV"), ".csv"},
                                             {tr("Spreadsheet, ODS"), ".ods"},
                                             {tr("Spreadsheet, XLSX"), ".xlsx"},
                                             {tr("SQLite"), ".sqlite"},
                                             {tr("GeoPackage"), ".gpkg"}}))
        export_to(*path);
}

void PairsSheet::export_to(const QString& path) {
    const auto a = asked();
    if (!a) return;
    if (const auto what = files::read_from(session_.document.study(), path.toStdString()))
        return emit trouble(tr("%1 is the file that %2 were read from. Choose another name.")
                                .arg(QFileInfo(path).fileName(), plain(*what)));
    if (files::same_file(path.toStdString(), session_.document.path().toStdString()))
        return emit trouble(tr("%1 is the study itself. Choose another name.").arg(path));
    jobs_.exporting.run([guard = QPointer(this), a = *a, path](const Task& task) -> Background::Then {
        files::check_can_write(path.toStdString());
        auto between = a.between(a.nearest > 0, task);
        const files::PairWriter writer(between.names, a.nearest > 0);
        const auto written = writer.write(*between.ready, a.plan, a.nearest, path.toStdString(), task);
        const auto why = files::left_out_words(written.left_out, between.names, a.question, false);
        return [guard, path, written, why] {
            if (!guard) return;
            QString said = tr("%1 written to %2.").arg(counted(written.rows, tr("row"), tr("rows")), path);
            if (written.without > 0) said += " " + tr("%1 without a way.").arg(number(written.without));
            emit guard->done((said + first_of(why) + " " + plain(written.remark)).trimmed());
        };
    });
}

}  // namespace otoro::desktop
