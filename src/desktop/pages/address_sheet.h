#pragma once
#include <QDialog>

class QLabel;
class QLineEdit;

namespace otoro::desktop {

/// Where data is that is no file: the address of a database or of a service, and a password, which is never shown. An
/// address that has a password or a key in it is hidden too while it stands there.
class AddressSheet : public QDialog {
    Q_OBJECT
public:
    explicit AddressSheet(QWidget* parent = nullptr);
    [[nodiscard]] QLineEdit& address() const { return *address_; }
    [[nodiscard]] QLineEdit& password() const { return *password_; }
    [[nodiscard]] QString message() const;

signals:
    void chosen(const QString& location);

private:
    void hide_secrets();
    void take();

    QLineEdit* address_;
    QLineEdit* password_;
    QLabel* message_;
};

}  // namespace otoro::desktop
