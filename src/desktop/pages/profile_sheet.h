#pragma once
#include <QDialog>

#include "desktop/models/session.h"

class QFormLayout;
class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QListWidget;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {

/// Travel profiles in one table: class by class who may go and how fast; one speed, one-way, climbing and turning
/// beside it. The four standard ones are shown and can be copied; copies are the study's own and can be changed, handed
/// out as a file and brought in.
class ProfileSheet : public QDialog {
    Q_OBJECT
public:
    explicit ProfileSheet(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QListWidget& list() const { return *list_; }
    [[nodiscard]] QTableWidget& table() const { return *table_; }
    /// A time of turning: left, straight, right, back, signal.
    [[nodiscard]] QDoubleSpinBox& minutes(int i) const { return *turns_[static_cast<std::size_t>(i)]; }
    [[nodiscard]] QPushButton& copy_button() const { return *copy_; }
    [[nodiscard]] QPushButton& use_button() const { return *use_; }
    void export_to(const QString& path);
    bool import_from(const QString& path);

signals:
    void trouble(const QString& why);

private:
    void build_table();
    [[nodiscard]] QFormLayout* build_rules();
    void build_buttons(QFormLayout* form);
    void connect_parts();
    static constexpr int kStandard = 4;
    void fill_list();
    void show_profile();
    void take();
    [[nodiscard]] travel::Profile current() const;
    [[nodiscard]] bool is_own() const;
    /// Which of the study's own profiles is chosen, if it is one and still there.
    [[nodiscard]] std::optional<std::size_t> own_index() const;
    void copy_current();
    void remove_current();
    void rename(int row, const QString& name);
    void use_current();

    Session& session_;
    bool showing_ = false;
    QListWidget* list_;
    QTableWidget* table_;
    QLabel* note_;
    QCheckBox *one_, *stated_, *one_way_, *slope_, *bans_;
    QDoubleSpinBox* speed_;
    std::array<QDoubleSpinBox*, 5> turns_{};
    QComboBox* back_;
    QPushButton *copy_, *remove_, *use_, *out_, *in_;
};

}  // namespace otoro::desktop
