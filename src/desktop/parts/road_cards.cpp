#include "desktop/parts/road_cards.h"

#include <QApplication>
#include <QClipboard>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/words.h"
#include "service/road_reading.h"

namespace otoro::desktop {
namespace {

struct Cards {
    Q_DECLARE_TR_FUNCTIONS(Cards)
};

QFrame* card_called(const QString& name, QWidget* parent) {
    auto* card = new QFrame(parent, Qt::Popup);
    card->setObjectName("popup");
    card->setAttribute(Qt::WA_DeleteOnClose);
    card->setAccessibleName(name);
    return card;
}

}  // namespace

QFrame* way_card(const PlanAnswer& answer, const service::SpotReading& reading, service::Towards towards,
                 QWidget* parent) {
    auto* card = card_called(Cards::tr("The way, turn by turn"), parent);
    auto* box = new QVBoxLayout(card);
    auto* title = new QLabel(card);
    title->setObjectName("way");
    title->setTextFormat(Qt::PlainText);
    QFont bold = title->font();
    bold.setWeight(QFont::DemiBold);
    title->setFont(bold);
    box->addWidget(title);
    if (!reading.outcome.site) {
        title->setText(reading.attachment ? Cards::tr("Cut off: no site in use can be reached from here, or reach it")
                                          : Cards::tr("No road that this traveller may use is near"));
    } else {
        const QString site =
            QString::fromStdString(service::label(answer.outcome.sites[reading.outcome.site->value()].planned.site));
        const bool here = towards == service::Towards::demand;
        title->setText(
            (here ? Cards::tr("From %1: %2 min, %3 by road") : Cards::tr("To %1: %2 min, %3 by road"))
                .arg(site, decimal(reading.outcome.time.minutes(), 1), long_length(reading.outcome.distance)));
        QStringList lines;
        for (const auto& s : reading.steps) {
            const QString road = s.road.empty() ? Cards::tr("an unnamed road") : QString::fromStdString(s.road);
            lines << Cards::tr("%1. %2 %3, %4 m")
                         .arg(lines.size() + 1)
                         .arg(QString::fromUtf8(describe(s.turn).data()), road, decimal(s.distance.metres(), 0));
        }
        auto* list = new QPlainTextEdit(lines.join('\n'), card);
        list->setObjectName("steps");
        list->setReadOnly(true);
        list->setAccessibleName(Cards::tr("Turns"));
        list->setFrameShape(QFrame::NoFrame);
        constexpr int kWide = 380, kMostLines = 14;
        list->setMinimumWidth(kWide);
        list->setFixedHeight(static_cast<int>(std::min<qsizetype>(lines.size(), kMostLines) + 1) *
                                 list->fontMetrics().lineSpacing() +
                             6);
        box->addWidget(list);
        auto* copy = new QPushButton(Cards::tr("Copy"), card);
        copy->setAccessibleName(Cards::tr("Copy the way"));
        QObject::connect(copy, &QPushButton::clicked, card, [card, text = title->text() + "\n" + lines.join('\n')] {
            QApplication::clipboard()->setText(text);
            card->close();
        });
        box->addWidget(copy, 0, Qt::AlignLeft);
    }
    return card;
}

QFrame* road_card(const PlanAnswer& answer, LinkId link, const std::function<void()>& close, QWidget* parent) {
    const auto& network = *answer.ready->inputs.network;
    const auto reading = service::read_road(network, *answer.outcome.traces->costed, link);
    auto* card = card_called(Cards::tr("What is known of this road"), parent);
    auto* text = new QLabel(card);
    text->setObjectName("road");
    text->setTextFormat(Qt::RichText);
    QStringList lines = QString::fromStdString(service::describe(reading, network)).split('\n');
    lines[0] = "<b>" + lines[0].toHtmlEscaped() + "</b>";
    for (int i = 1; i < lines.size(); ++i) lines[i] = lines[i].toHtmlEscaped();
    text->setText(lines.join("<br>"));
    text->setToolTip(explained(lines.join(" ")));
    text->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* closing = new QPushButton(Cards::tr("Close it here, in a plan"), card);
    closing->setAccessibleName(closing->text());
    auto* box = new QVBoxLayout(card);
    box->addWidget(text);
    box->addWidget(closing, 0, Qt::AlignLeft);
    QObject::connect(closing, &QPushButton::clicked, card, [card, close] {
        card->close();
        close();
    });
    return card;
}

}  // namespace otoro::desktop
