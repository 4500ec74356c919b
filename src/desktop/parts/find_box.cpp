#include "desktop/parts/find_box.h"

#include <QAbstractItemView>
#include <QAbstractListModel>
#include <QApplication>
#include <QCompleter>
#include <QPointer>
#include <QThreadPool>

#include "desktop/models/background.h"
#include "desktop/models/behind_the_window.h"
#include "desktop/parts/elided.h"

namespace otoro::desktop {
namespace {
constexpr int kTypingPauseMs = 150;
constexpr int kMostSuggested = 12;
}  // namespace

/// Matches as a list of suggestions: what each is called, and what it is.
class MatchList : public QAbstractListModel {
public:
    using QAbstractListModel::QAbstractListModel;
    void show(std::vector<Match> matches) {
        beginResetModel();
        matches_ = std::move(matches);
        endResetModel();
    }
    [[nodiscard]] const std::vector<Match>& matches() const { return matches_; }
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(matches_.size());
    }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override {
        if (!index.isValid() || index.row() >= rowCount()) return {};
        const Match& m = matches_[static_cast<std::size_t>(index.row())];
        if (role == Qt::EditRole) return m.name;
        if (role == Qt::DisplayRole)
            return FindBox::tr("%1   (%2)")
                .arg(elided(m.name), m.kind == Match::Kind::road ? FindBox::tr("road") : elided(m.set));
        return {};
    }

private:
    std::vector<Match> matches_;
};

FindBox::FindBox(const Session& session, QWidget* parent) : QLineEdit(parent), session_(session) {
    setPlaceholderText(tr("Find a site, place or road"));
    setAccessibleName(tr("Find a site, a place or a road"));
    list_ = new MatchList(this);
    completer_ = new QCompleter(list_, this);
    completer_->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    completer_->setMaxVisibleItems(kMostSuggested);
    completer_->setWidget(this);
    completer_->popup()->setAccessibleName(tr("Suggestions"));
    soon_.setSingleShot(true);
    soon_.setInterval(kTypingPauseMs);
    connect(&soon_, &QTimer::timeout, this, [this] { look(false); });
    connect(this, &QLineEdit::textEdited, this, [this] { soon_.start(); });
    connect(this, &QLineEdit::returnPressed, this, &FindBox::go);
    connect(completer_, qOverload<const QModelIndex&>(&QCompleter::activated), this, [this](const QModelIndex& at) {
        const auto chosen = static_cast<std::size_t>(at.row());
        if (chosen >= list_->matches().size()) return;
        const Match match = list_->matches()[chosen];
        setText(match.name);
        soon_.stop();
        emit found(match, 1, 1);
    });
}

FindBox::~FindBox() = default;

const std::vector<Match>& FindBox::suggestions() const { return list_->matches(); }

bool FindBox::knows(const QString& text) const {
    return text == text_ && point_ == session_.document.point() && plan_ == session_.document.plan_index();
}

void FindBox::go() {
    soon_.stop();
    completer_->popup()->hide();
    const QString wanted = text().trimmed();
    if (wanted.isEmpty()) return;
    if (!knows(wanted)) return look(true);
    if (found_.empty()) return emit nothing_found(wanted);
    go_to(shown_ ? (at_ + 1) % found_.size() : 0);
}

void FindBox::go_to(std::size_t match) {
    at_ = match;
    shown_ = true;
    const Match there = found_[match];
    emit found(there, at_ + 1, found_.size());
}

void FindBox::look(bool go_there) {
    const QString wanted = text().trimmed();
    const quint64 number = ++looking_;
    if (wanted.isEmpty()) {
        list_->show({});
        return completer_->popup()->hide();
    }
    // Values, shared with the desk: what is edited meanwhile does not touch them.
    QThreadPool::globalInstance()->start([guard = QPointer(this), number, wanted, go_there,
                                          in = FindIn{session_.document.study(), session_.answers.shown()}] {
        stand_behind_the_window(Behind::closely);
        auto matches = find_places(in, wanted);
        QMetaObject::invokeMethod(qApp, [guard, number, wanted, go_there, matches = std::move(matches)]() mutable {
            if (guard) guard->take(number, wanted, std::move(matches), go_there);
        });
    });
    point_ = session_.document.point();
    plan_ = session_.document.plan_index();
    text_.clear();  // not known until it comes
}

void FindBox::take(quint64 number, const QString& text, std::vector<Match> matches, bool go_there) {
    if (number != looking_) return;
    if (point_ != session_.document.point()) return go_there ? look(true) : void();  // edited meanwhile
    text_ = text;
    found_ = std::move(matches);
    shown_ = false;
    if (go_there) {
        if (found_.empty()) return emit nothing_found(text);
        return go_to(0);
    }
    if (!hasFocus()) return;
    const auto most = std::min<std::size_t>(found_.size(), kMostSuggested);
    list_->show({found_.begin(), found_.begin() + static_cast<std::ptrdiff_t>(most)});
    if (most == 0) return completer_->popup()->hide();
    completer_->complete();
}

}  // namespace otoro::desktop
