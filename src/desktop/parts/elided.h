#pragma once
/// \file
/// Names of any length, where there is little room.
#include <QFontMetrics>
#include <QLabel>
#include <QString>

namespace otoro::desktop {

inline constexpr int kMostLetters = 48;

/// A name for a menu, a button or a sentence: its middle left out when it is long. The whole belongs in a tooltip.
inline QString elided(const QString& name, int most = kMostLetters) {
    if (name.size() <= most) return name;
    const int head = most * 2 / 3;
    return name.left(head) + QString::fromUtf8("\u2026") + name.right(most - head - 1);
}

/// The same text broken into lines of at most this width, for what does not wrap by itself.
inline QString broken(const QString& text, const QFontMetrics& metrics, int width) {
    QString out, line;
    for (const QString& word : text.split(' ')) {
        const QString longer = line.isEmpty() ? word : line + ' ' + word;
        if (!line.isEmpty() && metrics.horizontalAdvance(longer) > width) {
            out += line + '\n';
            line = word;
        } else {
            line = longer;
        }
    }
    return out + line;
}

/// A label that shows as much of its text as there is room for and never asks for more.
class ElidedLabel : public QLabel {
public:
    explicit ElidedLabel(const QString& text = {}, QWidget* parent = nullptr) : QLabel(parent) {
        setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
        set_whole(text);
    }
    void set_whole(const QString& text) {
        whole_ = text;
        setToolTip(text);
        setAccessibleName(text);
        fit();
    }
    [[nodiscard]] const QString& whole() const { return whole_; }

protected:
    void resizeEvent(QResizeEvent* e) override {
        QLabel::resizeEvent(e);
        fit();
    }

private:
    void fit() { setText(fontMetrics().elidedText(whole_, Qt::ElideMiddle, std::max(0, width()))); }
    QString whole_;
};

}  // namespace otoro::desktop
