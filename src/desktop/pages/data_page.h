#pragma once
#include <QWidget>
#include <memory>

#include "desktop/models/fixer.h"
#include "desktop/pages/add_panel.h"

class QTemporaryDir;

namespace otoro::desktop {
class FindingsList;
class JoinPanel;
class SourcesList;
class VerdictView;

/// What was brought in on the left, what is wrong with it on the right.
class DataPage : public QWidget {
    Q_OBJECT
public:
    DataPage(Session& session, Jobs& jobs, QWidget* parent = nullptr);
    ~DataPage() override;
    [[nodiscard]] AddPanel& add_panel() const { return *add_; }
    [[nodiscard]] Fixer& fixer() { return fixer_; }
    [[nodiscard]] FindingsList& findings() const { return *findings_; }
    [[nodiscard]] JoinPanel& joining() const { return *joining_; }
    [[nodiscard]] SourcesList& sources() const { return *sources_; }
    [[nodiscard]] VerdictView& verdict() const { return *verdict_; }
    /// Takes a table from the clipboard as if it were a file.
    bool paste();
    /// The same, and says so if there is none.
    void paste_wanted();
    /// Takes a table that was typed; false if it is empty or cannot be kept.
    bool take_table(const QString& text, const QString& name);
    /// Opens a sheet to type places into.
    void type_places();
    /// Opens the network summary in a window of its own.
    void show_summary();

signals:
    void findings_changed(int open);
    void show_wanted(const otoro::service::SetName& set, const std::vector<std::uint32_t>& places,
                     const std::vector<otoro::geo::LonLat>& marks);
    void files_wanted();
    void profiles_wanted();
    void trouble(const QString& why);

private:
    void open_attaching(const otoro::service::SetName& set);

    Session& session_;
    QString typed_;                          ///< places that were typed and not added yet
    std::unique_ptr<QTemporaryDir> pasted_;  ///< tables that were pasted or typed; made when there is one
    Fixer fixer_;
    AddPanel* add_;
    SourcesList* sources_;
    JoinPanel* joining_;
    FindingsList* findings_;
    VerdictView* verdict_;
};

}  // namespace otoro::desktop
