#include "desktop/parts/share_delegate.h"

#include <QPainter>
#include <QStyleOption>

#include "desktop/theme.h"
#include "desktop/words.h"
#include "geo/amounts.h"

namespace otoro::desktop {

QSize ShareDelegate::sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const {
    return {120, QFontMetrics(theme::type()).height() + QFontMetrics(theme::type(0.88)).height() + 28};
}

void ShareDelegate::paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const {
    p->save();
    p->setRenderHint(QPainter::Antialiasing);
    const bool chosen = option.state & QStyle::State_Selected;
    if (chosen) {
        p->fillRect(option.rect, theme::kAccentPale);
        p->fillRect(QRect(option.rect.topLeft(), QSize(4, option.rect.height())), theme::kAccent);
    }
    if (option.state & QStyle::State_HasFocus) {
        p->setPen(theme::kAccent);
        p->drawRect(option.rect.adjusted(0, 0, -1, -1));
    }
    const QRect r = option.rect.adjusted(12, 6, -10, -6);
    const QVariant share = index.data(kShare);
    const QColor colour = index.data(kMet).toBool() ? theme::kMet : theme::kNotMet;
    const bool nobody = share.isValid() && share.toInt() == kNobodyThere;
    const QString number = nobody            ? judged_words(service::Judged::nobody)
                           : share.isValid() ? QString::fromStdString(describe(Share(share.toInt())))
                                             : QString::fromUtf8("\u2026");
    p->setFont(theme::type(1.0, QFont::DemiBold));
    const int number_width = p->fontMetrics().horizontalAdvance(number) + 6;
    p->setPen(theme::kInk);
    p->drawText(r.adjusted(0, 0, -number_width, 0), Qt::AlignTop | Qt::AlignLeft,
                p->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, r.width() - number_width));
    p->setPen(share.isValid() && !nobody ? colour : theme::kSoftInk);
    p->drawText(r, Qt::AlignTop | Qt::AlignRight, number);
    const QRectF bar(r.left(), r.top() + p->fontMetrics().height() + 3, r.width(), 7);
    p->setPen(Qt::NoPen);
    p->setBrush(QColor(0xE4, 0xDE, 0xD0));
    p->drawRect(bar);
    if (share.isValid() && !nobody) {
        p->setBrush(colour);
        p->drawRect(QRectF(bar.topLeft(), QSizeF(bar.width() * share.toInt() / 1e6, bar.height())));
    }
    if (const QVariant wanted = index.data(kWanted); wanted.isValid()) {
        p->setPen(QPen(theme::kInk, 2));
        const double x = bar.left() + bar.width() * wanted.toInt() / 1e6;
        p->drawLine(QPointF(x, bar.top() - 3), QPointF(x, bar.bottom() + 3));
    }
    p->setFont(theme::type(0.88));
    p->setPen(theme::kSoftInk);
    p->drawText(r, Qt::AlignBottom | Qt::AlignLeft,
                p->fontMetrics().elidedText(index.data(kDetail).toString(), Qt::ElideRight, r.width()));
    p->restore();
}

}  // namespace otoro::desktop
