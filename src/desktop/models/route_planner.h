#pragma once
/// \file
/// The route over the study's stops, found off the interface thread under the question and plan in sight.
#include <QObject>
#include <QString>
#include <memory>

#include "desktop/models/answers.h"
#include "desktop/models/background.h"
#include "desktop/models/document.h"
#include "service/itinerary.h"

namespace otoro::desktop {

class RoutePlanner : public QObject {
    Q_OBJECT
public:
    RoutePlanner(Document& document, Answers& answers);

    /// The stops as they are seen: the study's, or with one of them in a hand.
    [[nodiscard]] const service::Route& route() const { return tried_ ? *tried_ : document_.study().route; }
    /// Whether it is looked at; of a study that was opened it is not, until it is asked for or changed.
    [[nodiscard]] bool shown() const { return shown_ && !route().stops.empty(); }
    void set_shown(bool shown);
    /// A way, and the stops that it is over.
    struct Found {
        service::Route route;
        service::Itinerary way;
    };
    /// The last that was found; nothing while there are fewer than two stops, or there is no way.
    [[nodiscard]] const std::shared_ptr<const Found>& found() const { return found_; }
    /// Whether that is what is asked for now.
    [[nodiscard]] bool up_to_date() const { return !busy_ && !again_; }
    [[nodiscard]] bool busy() const { return busy_; }
    /// Why there is no way; empty where there is one, or nothing is asked.
    [[nodiscard]] const QString& trouble() const { return trouble_; }

    // Each is a step that can be undone.
    void add(const std::vector<service::Stop>& stops);
    void take_out(std::size_t stop);
    void move_to(std::size_t stop, geo::LonLat at);
    /// From one place in the order to another.
    void reorder(std::size_t from, std::size_t to);
    /// \param order numbers of the stops, each once
    void set_order(const std::vector<std::size_t>& order);
    void set_round(bool round);
    void clear();
    /// Finds the best order of the stops and takes it; what was changed meanwhile stays as it is.
    void put_in_best_order();

    /// Shows a stop elsewhere while a hand moves it; ways follow as fast as they are found.
    void try_out(std::size_t stop, geo::LonLat at);
    void give_up_trial();
    /// Stops working; the way is found when something is asked again.
    void stop_working();

signals:
    void changed();
    void failed(const QString& why);
    void stops_changed();  ///< `route()`

private:
    /// What a way depends on.
    struct Asked {
        service::Route route;
        std::shared_ptr<const roads::Network> network;
        service::Question question;
        service::Plan plan;
        std::shared_ptr<const service::Ready> base;  ///< what of it may be taken over
        bool best = false;                           ///< also the best order
    };
    /// Roads made ready, kept from one way to the next. Only the thread that works looks at it.
    struct Kept {
        std::shared_ptr<const roads::Network> network;
        service::Question question;
        std::vector<roads::Closure> closures;
        std::shared_ptr<const service::Ready> ready;
        std::shared_ptr<const service::Prepared> prepared;  ///< of the same graph; null where there is none
    };
    void follow();
    void ask();
    [[nodiscard]] Asked asked() const;
    void run(const Asked& asked);
    void ended();
    void edit(const QString& what, const std::function<void(service::Route&)>& change);
    static std::shared_ptr<const service::Ready> make_ready(const Asked& asked, Kept& kept, const Task& task);

    Document& document_;
    Answers& answers_;
    std::optional<service::Route> tried_;
    std::shared_ptr<const Found> found_;
    QString trouble_;
    std::shared_ptr<Kept> kept_ = std::make_shared<Kept>();
    std::optional<Asked> last_;  ///< what was asked last
    quint64 of_document_ = 0;    ///< the document that was looked at last
    bool shown_ = false, busy_ = false, again_ = false;
    Background work_;
};

}  // namespace otoro::desktop
