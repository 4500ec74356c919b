#pragma once
/// \file
/// A line of a list that has a name, a share reached, and what is wanted: used for questions and for plans.
#include <QStyledItemDelegate>

namespace otoro::desktop {

/// What an item of such a list says beside its name. The share and what is wanted are parts per million; an invalid
/// share is not known yet.
enum ShareRole { kShare = Qt::UserRole, kWanted, kMet, kDetail };
/// The share where nobody is of whom it could be one.
inline constexpr int kNobodyThere = -1;

/// Name and share on one line, the bar with the standard's mark below, a further line under that.
class ShareDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
};

}  // namespace otoro::desktop
