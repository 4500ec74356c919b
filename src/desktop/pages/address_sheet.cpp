#include "desktop/pages/address_sheet.h"

#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "files/address.h"
#include "geo/error.h"

namespace otoro::desktop {

AddressSheet::AddressSheet(QWidget* parent) : QDialog(parent) {
    setAttribute(Qt::WA_DeleteOnClose);
    setObjectName("address");
    setWindowTitle(tr("Add from an address"));
    auto* about = new QLabel(
        tr("A PostGIS database (postgresql://user@host/database), or a web service (https://\u2026): OGC API "
           "Features, or a WFS with service=WFS in its address."),
        this);
    about->setWordWrap(true);
    address_ = new QLineEdit(this);
    address_->setAccessibleName(tr("Address"));
    address_->setMinimumWidth(420);
    password_ = new QLineEdit(this);
    password_->setAccessibleName(tr("Password"));
    password_->setEchoMode(QLineEdit::Password);
    message_ = new QLabel(this);
    message_->setWordWrap(true);
    message_->setProperty("role", "soft");
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
    buttons->button(QDialogButtonBox::Ok)->setText(tr("Add"));
    auto* form = new QFormLayout;
    form->addRow(tr("&Address"), address_);
    form->addRow(tr("&Password"), password_);
    auto* box = new QVBoxLayout(this);
    box->addWidget(about);
    box->addLayout(form);
    box->addWidget(message_);
    box->addWidget(buttons);
    connect(address_, &QLineEdit::textChanged, this, &AddressSheet::hide_secrets);
    connect(buttons, &QDialogButtonBox::accepted, this, &AddressSheet::take);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::close);
    hide_secrets();
}

QString AddressSheet::message() const { return message_->text(); }

void AddressSheet::hide_secrets() {
    const std::string location = address_->text().trimmed().toStdString();
    const bool secret = files::without_password(location) != location;
    address_->setEchoMode(secret ? QLineEdit::Password : QLineEdit::Normal);
    message_->setText(secret ? tr("The address holds a password or a key, so it is not shown. It is not kept: neither "
                                  "in the study nor anywhere else.")
                             : tr("A password is not kept: neither in the study nor anywhere else."));
}

void AddressSheet::take() {
    const QString address = address_->text().trimmed();
    if (address.isEmpty()) return address_->setFocus();
    try {
        emit chosen(
            QString::fromStdString(files::with_password(address.toStdString(), password_->text().toStdString())));
        close();
    } catch (const InputError& e) {
        message_->setText(QString::fromUtf8(e.what()));
    }
}

}  // namespace otoro::desktop
