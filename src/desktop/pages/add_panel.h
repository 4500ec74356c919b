#pragma once
#include <QFrame>
#include <QTimer>

#include "desktop/adding/added_kind.h"
#include "desktop/models/jobs.h"
#include "desktop/models/session.h"
#include "files/add_data.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QGridLayout;
class QLayout;
class QPushButton;
class QRadioButton;

namespace otoro::desktop {
class ElidedLabel;
class PreviewView;

/// One file about to be brought in: what is in it, what it is taken for, and which field says what; every guess can be
/// changed before it counts.
class AddPanel : public QFrame {
    Q_OBJECT
public:
    AddPanel(Session& session, Background& background, QWidget* parent = nullptr);
    /// Shows a file's layers and guesses; several files queue up. The panel stays in sight until each of them was added
    /// or left.
    /// \param note said when it has been added
    void offer(const QString& path, const QString& note = {});
    /// A file's name, or an address without what is secret in it.
    [[nodiscard]] static QString shown_name(const QString& location);
    /// Whether a file is shown and its guesses can be changed and taken.
    [[nodiscard]] bool open() const { return stage_ == Stage::shown; }
    /// The files that are not dealt with yet, the one in sight first.
    [[nodiscard]] QStringList waiting() const;
    /// Takes the guesses as they stand. If it fails or is stopped, the panel is as before and says why.
    void accept();
    /// Takes this file and all that wait, each as it is recognised, until one of them needs a decision.
    void accept_all();
    /// Leaves the file out; while it is looked at or added, that is stopped too.
    void cancel();
    /// Why the file could not be added, or what must be decided; empty if nothing is wrong.
    [[nodiscard]] QString message() const;
    [[nodiscard]] QRadioButton& replace() const { return *replace_; }
    [[nodiscard]] QRadioButton& beside() const { return *beside_; }
    [[nodiscard]] QComboBox& role() const { return *role_; }
    [[nodiscard]] QComboBox& field(int i) const { return *fields_[static_cast<std::size_t>(i)]; }
    [[nodiscard]] QLineEdit& crs() const { return *crs_; }
    [[nodiscard]] QLineEdit& set_name() const { return *name_; }
    [[nodiscard]] QComboBox& layer() const { return *layer_; }
    [[nodiscard]] PreviewView& previewed() const { return *preview_; }
    [[nodiscard]] QPushButton& all_button() const { return *accept_all_; }
    [[nodiscard]] QLineEdit& filter() const { return *filter_; }
    /// What class and one-way words of the file mean: `B Road = secondary, X = as drawn`.
    [[nodiscard]] QLineEdit& words() const { return *words_; }
    /// What is said of the filter: how many records it leaves, or why it cannot be used.
    [[nodiscard]] QString filter_effect() const;

signals:
    void added_file(const QString& what, const QString& note);
    void waiting_changed();

private:
    enum class Stage : std::uint8_t { none, looking, shown, adding };
    void build_form();
    void build_rest_of_form(QGridLayout& grid, int row);
    [[nodiscard]] QLayout* build_buttons();
    void connect_parts();
    void enter(Stage stage);
    void say(const QString& text, bool trouble);
    /// Asks what is to become of what is there already under this name.
    void refresh_clash();
    [[nodiscard]] const AddedKind& kind() const;
    [[nodiscard]] AddChoice choice() const;
    /// The names that sets of this kind have already.
    [[nodiscard]] std::vector<std::string> names_taken() const;
    /// The set's name, or a free one if it is to stand beside the one there is.
    [[nodiscard]] std::string wanted_name() const;
    void show_file(const QString& path, files::FileInfo info);
    void layer_changed();
    void role_changed();
    void next();
    void count_wanted();
    void preview_soon() { preview_soon_.start(); }
    void preview();
    /// Whether the file in sight can be added without a decision: nothing that is there would be replaced.
    [[nodiscard]] bool needs_no_decision() const;
    /// Whether all layers of lines are to be merged.
    [[nodiscard]] bool all_layers() const;
    [[nodiscard]] const files::LayerInfo& shown_layer() const;
    [[nodiscard]] files::LayerChoice layer_choice() const;
    [[nodiscard]] std::string chosen_field(int i) const;

    Session& session_;
    Background& background_;
    Background counts_, previews_;
    bool all_ = false;  ///< those that wait are added as they are recognised
    QStringList queue_;
    QHash<QString, QString> notes_;
    QString path_;  // the file in sight
    Stage stage_ = Stage::none;
    quint64 looked_ = 0;  // which look at a file counts
    quint64 work_ = 0;    // the piece of work under way for it
    files::FileInfo info_;
    ElidedLabel* title_;
    ElidedLabel* about_;
    QComboBox* layer_;
    QComboBox* role_;
    QLineEdit* name_;
    QLineEdit* crs_;
    QLineEdit* filter_;
    QLabel* filter_effect_;
    QLineEdit* words_;
    QLabel* words_label_;
    QTimer count_soon_, preview_soon_;
    PreviewView* preview_;
    static constexpr std::size_t kFields = 12;  // ten, and a table's two coordinates
    std::array<QLabel*, kFields> field_labels_{};
    std::array<QComboBox*, kFields> fields_{};
    QLabel* message_;
    ElidedLabel* more_;  // what waits behind this file
    QWidget* clash_;
    QLabel* clash_text_;
    QRadioButton *replace_, *beside_;
    QWidget *form_, *scroll_;
    QPushButton *accept_, *accept_all_;
    QPushButton* cancel_;
};

}  // namespace otoro::desktop
