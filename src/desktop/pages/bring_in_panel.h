#pragma once
#include <QFrame>
#include <QTimer>

#include "desktop/models/background.h"
#include "desktop/models/session.h"
#include "files/bring_in.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QFormLayout;
class QPushButton;

namespace otoro::desktop {

/// What a file is brought in as.
enum class Role : std::uint8_t { roads, demand, sites, water };

/// One file about to be brought in: what is in it, what it is taken for, and which field says what; every guess can be changed before it counts.
class BringInPanel : public QFrame {
    Q_OBJECT
public:
    BringInPanel(Session& session, Background& background, QWidget* parent = nullptr);
    /// Shows a file's layers and guesses; several files queue up.
    void offer(const QString& path);
    [[nodiscard]] bool open() const { return !path_.isEmpty(); }
    /// Takes the guesses as they stand.
    void accept();
    void cancel();
    [[nodiscard]] QComboBox& role() const { return *role_; }
    [[nodiscard]] QComboBox& field(int i) const { return *fields_[static_cast<std::size_t>(i)]; }
    [[nodiscard]] QLineEdit& crs() const { return *crs_; }
    [[nodiscard]] QLineEdit& set_name() const { return *name_; }
    [[nodiscard]] QComboBox& layer() const { return *layer_; }
    [[nodiscard]] QLineEdit& filter() const { return *filter_; }
    /// What class and one-way words of the file mean: `B Road = secondary, FT = along`.
    [[nodiscard]] QLineEdit& words() const { return *words_; }
    /// What is said of the filter: how many records it leaves, or why it cannot be used.
    [[nodiscard]] QString filter_effect() const;

signals:
    void brought_in(const QString& what);

private:
    void show_file(const QString& path, files::FileInfo info);
    void layer_changed();
    void role_changed();
    void next();
    void count_wanted();
    /// Whether all layers of lines are to be merged.
    [[nodiscard]] bool all_layers() const;
    [[nodiscard]] const files::LayerInfo& shown_layer() const;
    [[nodiscard]] files::LayerChoice layer_choice() const;
    [[nodiscard]] files::RoadChoice road_choice() const;
    [[nodiscard]] std::string chosen_field(int i) const;

    Session& session_;
    Background& background_;
    Background counts_;
    QStringList queue_;
    QString path_;
    bool taken_ = false;  // a file is shown, or about to be
    files::FileInfo info_;
    QLabel* title_;
    QLabel* about_;
    QComboBox* layer_;
    QComboBox* role_;
    QLineEdit* name_;
    QLineEdit* crs_;
    QLineEdit* filter_;
    QLabel* filter_effect_;
    QLineEdit* words_;
    QLabel* words_label_;
    QTimer count_soon_;
    static constexpr std::size_t kFields = 10;  // eight, and a table's two coordinates
    std::array<QLabel*, kFields> field_labels_{};
    std::array<QComboBox*, kFields> fields_{};
    QPushButton* accept_;
};

}  // namespace otoro::desktop
