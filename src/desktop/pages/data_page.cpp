#include "desktop/pages/data_page.h"

#include <QFileDialog>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "desktop/theme.h"
#include "geo/amounts.h"

namespace otoro::desktop {
namespace {
QString plain(const std::string& s) { return QString::fromStdString(s); }
constexpr int kMostChildren = 500;
}  // namespace

DataPage::DataPage(Session& session, Background& background, QWidget* parent) : QWidget(parent), session_(session), checks_(this) {
    setObjectName("page");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(24, 16, 24, 16);
    box->setSpacing(10);
    auto* top = new QHBoxLayout;
    auto* title = new QLabel(tr("What was brought in"), this);
    title->setFont(theme::type(1.3, QFont::DemiBold));
    auto* add = new QPushButton(tr("Bring in a file\u2026"), this);
    add->setAccessibleName(tr("Bring in a file of roads, demand or sites"));
    add->setToolTip(tr("Or drop files on the window"));
    top->addWidget(title);
    top->addStretch(1);
    top->addWidget(add);
    box->addLayout(top);
    sources_ = new QVBoxLayout;
    sources_->setSpacing(2);
    box->addLayout(sources_);
    bring_in_ = new BringInPanel(session, background, this);
    box->addWidget(bring_in_);
    auto* found = new QLabel(tr("Findings"), this);
    found->setFont(theme::type(1.3, QFont::DemiBold));
    for (auto* l : {title, found}) l->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
    box->addSpacing(6);
    box->addWidget(found);
    empty_ = new QLabel(this);
    empty_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
    empty_->setProperty("role", "soft");
    box->addWidget(empty_);
    list_ = new QTreeWidget(this);
    list_->setAccessibleName(tr("Findings, those that touch most weight first"));
    list_->setColumnCount(4);
    list_->setHeaderLabels({tr("finding"), tr("places"), tr("weight"), QString()});
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int c = 1; c < 4; ++c) list_->header()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    list_->setUniformRowHeights(false);
    box->addWidget(list_, 100);
    box->addStretch(1);  // takes the room while the list is hidden
    connect(add, &QPushButton::clicked, this, &DataPage::files_wanted);
    connect(list_, &QTreeWidget::itemActivated, this, &DataPage::show_current);
    connect(&session_, &Session::data_changed, this, &DataPage::refresh_sources);
    connect(&session_, &Session::data_changed, this, &DataPage::look_again);
    connect(&session_, &Session::question_changed, this, &DataPage::look_again);
    refresh_sources();
    show_findings({});
}

void DataPage::refresh_sources() {
    while (auto* item = sources_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    const auto line = [&](const QString& kind, const QString& text, const service::Origin& origin) {
        auto* l = new QLabel(tr("<b>%1</b>&nbsp; %2 <span style='color:#5C5A58'>from %3; %4</span>").arg(kind.toHtmlEscaped(), text.toHtmlEscaped(), plain(origin.file).toHtmlEscaped(), plain(origin.description).toHtmlEscaped()), this);
        l->setTextFormat(Qt::RichText);
        l->setWordWrap(true);
        l->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
        sources_->addWidget(l);
    };
    const auto& study = session_.study();
    const auto n = [](std::uint32_t v) { return plain(describe(Weight(std::int64_t{v} * 1'000'000))); };
    if (study.roads)
        line(tr("Roads"), tr("%1 links, %2").arg(n(study.roads->network->link_count()), plain(describe(study.roads->network->total_length()))), study.roads->origin);
    for (const auto& d : study.demand) line(tr("Demand"), tr("%1, %2 places").arg(plain(d.set->name), n(d.set->count())), d.origin);
    for (const auto& s : study.sites) line(tr("Sites"), tr("%1, %2 sites").arg(plain(s.set->name), n(s.set->count())), s.origin);
    const auto step = [&](bool there, const QString& what, const QString& about) {
        if (there) return;
        auto* l = new QLabel(tr("<b>%1</b>&nbsp; %2").arg(what, about), this);
        l->setTextFormat(Qt::RichText);
        l->setWordWrap(true);
        l->setFont(theme::type(1.1));
        l->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
        sources_->addWidget(l);
    };
    const bool roads = study.roads.has_value();
    const bool demand = !study.demand.empty();
    const bool sites = !study.sites.empty();
    if (roads && demand && sites) return;
    auto* needed = new QLabel(study.empty() ? tr("A study starts from three files. Press \u2018Bring in a file\u2019, or drop them anywhere on the window.") : tr("Still needed:"), this);
    needed->setProperty("role", "soft");
    needed->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
    sources_->addWidget(needed);
    step(roads, tr("Roads"), tr("lines to travel on, with class, speed and one-way if there are any: GeoPackage, shapefile, GeoJSON, FlatGeobuf, GML or OpenStreetMap"));
    step(demand, tr("Demand"), tr("the households, pupils or premises to be served, as points or as a table with longitude and latitude"));
    step(sites, tr("Sites"), tr("the stations, schools or depots that serve, open or candidate, as points or as a table"));
}

void DataPage::look_again() {
    checks_.stop();
    const auto study = session_.study();
    checks_.run([this, study](const Task& task) -> Background::Then {
        auto findings = find_trouble(study, task);
        return [this, findings = std::move(findings)] { show_findings(findings); };
    });
}

void DataPage::show_findings(std::vector<Finding> findings) {
    findings_ = std::move(findings);
    list_->clear();
    const auto n = [](std::uint32_t v) { return plain(describe(Weight(std::int64_t{v} * 1'000'000))); };
    for (std::size_t i = 0; i < findings_.size(); ++i) {
        const auto& f = findings_[i];
        auto* item = new QTreeWidgetItem(list_, {f.sentence, f.places > 0 ? n(f.places) : QString(), f.places > 0 ? plain(describe(f.weight)) : QString()});
        item->setData(0, Qt::UserRole, static_cast<int>(i));
        item->setFont(0, theme::type(1.0, QFont::DemiBold));
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        item->setTextAlignment(2, Qt::AlignRight | Qt::AlignVCenter);
        for (int r = 0; r < std::min<int>(static_cast<int>(f.records.size()), kMostChildren); ++r) new QTreeWidgetItem(item, {f.records[static_cast<std::size_t>(r)]});
        if (static_cast<int>(f.records.size()) > kMostChildren) new QTreeWidgetItem(item, {tr("\u2026 and %1 more").arg(static_cast<int>(f.records.size()) - kMostChildren)});
        if (f.where || !f.which.empty()) {
            auto* show = new QPushButton(tr("Show"), list_);
            show->setObjectName("flat");
            show->setAccessibleName(tr("Show on the map: %1").arg(f.sentence));
            list_->setItemWidget(item, 3, show);
            connect(show, &QPushButton::clicked, this, [this, i] { emit show_wanted(findings_[i].which, findings_[i].where); });
        }
        item->setExpanded(f.records.size() <= 6);
    }
    const bool nothing = session_.study().empty();
    empty_->setText(nothing ? tr("Nothing was brought in yet, so there is nothing to find.") : tr("Nothing wrong was found."));
    empty_->setVisible(findings_.empty());
    list_->setVisible(!findings_.empty());
    emit findings_changed(static_cast<int>(findings_.size()));
}

void DataPage::show_current() {
    const auto* item = list_->currentItem();
    if (item && item->parent()) item = item->parent();
    if (!item) return;
    const auto& f = findings_[static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt())];
    emit show_wanted(f.which, f.where);
}

}  // namespace otoro::desktop
