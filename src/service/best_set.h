#pragma once
/// \file
/// The best set of sites to open: *Choose 2 of the candidate posts, keeping all open posts, so that most residents are
/// within 8 min.*
///
/// \par Problem
/// Of the candidates of a plan, and of its open sites too where they are not kept, so many are chosen, or as many as a
/// budget pays for, so that a goal is reached best. What is chosen is a plan like any other.
///
/// \par Exact
/// The costs are those of the answer, to the unit; values are what the answer under that plan says. A bound is proven
/// always; `proven` says that nothing is better. Of sets that are equally good one is given, the
/// same on any number of threads, unless it is left off before (`Task::leave_off`).
///
/// \par No passengers
/// Where fewer than are asked for are as good, fewer are chosen (`BestSet::spare`): no site of a set can be left out at
/// no loss. Of those that are counted by number, and by who is within a limit or by the worst case, no smaller set is
/// as good either, where a search of a few thousand nodes decides that.
///
/// \par Cost
/// The table of costs: `site_blocks.h`; a bit a place and site where a limit decides, else 20 bytes. Choosing:
/// `optimise/choice_search.h`.
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "geo/error.h"
#include "optimise/choice.h"
#include "service/assign.h"

namespace otoro::service {

/// What is to be as good as can be.
enum class Goal : std::uint8_t {
    cover,     ///< most weight within the limit of one site (Church, ReVelle 1974)
    backup,    ///< the same, and counted again where a second site is within it (Hogan, ReVelle 1986)
    expected,  ///< most weight within it of a site that is not busy (Daskin 1983)
    travel,    ///< least total travel (Hakimi 1964)
    worst,     ///< least worst case (Hakimi 1964)
    fewest,    ///< fewest sites that cover all that can be covered (Toregas et al. 1971), or a share of it all
};
/// `cover`, `travel`, ...: in options and files.
std::string_view name(Goal goal);
std::optional<Goal> parse_goal(std::string_view word);
/// Whether a limit decides it.
inline bool has_limit(Goal goal) { return goal != Goal::travel && goal != Goal::worst; }

struct BestSetAsked {
    Goal goal = Goal::cover;
    std::optional<Amount> within;     ///< of goals that a limit decides
    std::optional<Share> share;       ///< of *fewest*: so much of the whole weight is enough; nothing: all that can be
    Share busy = Share::percent(30);  ///< of *expected*: how much of the time each site is busy
    std::uint32_t choose = 1;
    std::optional<Weight> budget;  ///< counts instead of `choose`: what those chosen may cost in all
    /// Of *cover*: no site takes more than its capacity, whoever is nearest; who finds no room is not covered. Places
    /// may be parted among sites. Sites without a capacity take all.
    bool heed_room = false;
    bool keep_open = true;                       ///< whether the open sites stay open, or may be chosen like candidates
    std::optional<std::uint32_t> close_at_most;  ///< then no more than so many of them are closed
    // Of the plan's sites:
    std::vector<SiteIndex> required, forbidden;
    std::vector<std::pair<SiteIndex, SiteIndex>> conflicts;  ///< not both
    std::vector<std::vector<SiteIndex>> one_of;              ///< at least one of each
    std::optional<Millimetres> apart;  ///< no two of those that are open in the end nearer, by the straight line, but
                                       ///< for two that are kept
};

/// The best set so far. `value` and `bound` are whole numbers of the goal's unit: millionths of a weight (by *expected*
/// a thousand-millionth of that), those times ms or mm, ms or mm, sites.
struct BestSet {
    Goal goal = Goal::cover;
    routing::Measure measure = routing::Measure::time;
    std::vector<SiteIndex> chosen;  ///< ascending, those kept apart
    std::vector<SiteIndex> kept;
    Wide value = 0, bound = 0;
    bool any = false;                       ///< whether there is a set yet that keeps to the rules
    std::uint32_t spare = 0;                ///< so many more might be chosen, and bring nothing
    bool left_off = false;                  ///< before all was looked at
    std::optional<InputError::Parts> none;  ///< where there is no set, why
    // Everybody is in one of these four. What is reached is reached by those in the set: within the limit of goals that
    // have one, and finding room where room is heeded.
    Weight reached;
    Weight not_reached;        ///< by none in the set, but by some that may be open
    Tally beyond_all;          ///< of goals with a limit: reached, but within the limit of none that may be open
    Tally unreachable;         ///< reached by no site that may be open
    Weight least_not_reached;  ///< of goals without a limit: no set leaves less
    Weight all;                ///< whole weight
    [[nodiscard]] bool proven() const { return any && value == bound; }
    /// How far the value may be from the best, as a part of it.
    [[nodiscard]] double gap() const;
};

/// Whether the least value is the best.
bool least_is_best(Goal goal);
/// Of goals without a limit: whom a set does not reach at all. Travel of fewer is no travel of all.
Weight lost(const BestSet& set);
/// Whether a set is better than another of the same request: of goals without a limit first by whom it reaches.
bool is_better(const BestSet& a, const BestSet& b);

/// On the scale of files: weight; weight times minutes or metres; minutes or metres; sites.
double shown_value(const BestSet& set, Wide value);
/// "1,234 residents", "12.3 min", "5 sites".
std::string value_words(const BestSet& set, Wide value, const std::string& counted);
/// "Choose 2 of the candidate posts, keeping all open ones, so that most residents are within 8 min."
std::string sentence(const Inputs& inputs, const Question& question, const BestSetAsked& asked);

struct BestSetLimits {
    double gap = 0;                                 ///< of the value: no more than this is good enough
    std::function<void(const BestSet&)> told = {};  ///< of every set that is better
    /// Whether the proof is gone through by `optimise/proof.h`. \throws std::logic_error if it does not hold
    bool check_proof = optimise::kCheckProofs;
    bool as_few_as_help = true;  ///< else as many as are asked for, whether or not they bring anything
};

/// No set keeps to everything that is asked.
class NoSet : public InputError {
public:
    using InputError::InputError;
};

/// Costs of one plan, once for several requests.
class SetChooser {
public:
    /// \param ready its question's sites in use do not count: open ones and candidates are in question
    /// \throws Stopped; InputError if there are more pairs than can be held
    SetChooser(std::shared_ptr<const Ready> ready, Plan plan, const Task& task);
    ~SetChooser();

    /// The plan's sites, in use or not, in the order of its indices.
    [[nodiscard]] const std::vector<SiteOutcome>& sites() const;
    /// Open ones, candidates that a road is near. By index.
    [[nodiscard]] bool is_open(SiteIndex site) const;
    [[nodiscard]] bool in_question(SiteIndex site) const;

    /// The best set by when the task is left off. Without any, `none` says what contradicts what, or what the most is
    /// that can be had. \throws InputError where something is missing; Stopped
    [[nodiscard]] BestSet find(const BestSetAsked& asked, const BestSetLimits& limits, const Task& task);
    /// The same. \throws NoSet where there is none; InputError where something is missing; Stopped
    [[nodiscard]] BestSet best(const BestSetAsked& asked, const BestSetLimits& limits, const Task& task);

    /// A set that was found, without what can be left out of it at no loss.
    [[nodiscard]] BestSet without_passengers(const BestSetAsked& asked, BestSet set, const Task& task);
    /// The set of just these sites, and those that are kept; without any where that does not keep to the request.
    [[nodiscard]] BestSet of_just(const BestSetAsked& asked, const std::vector<SiteIndex>& sites, const Task& task);

private:
    /// How many are to be chosen instead of what is asked; and a set that is to be equalled, where less is of no use.
    struct Instead {
        std::uint32_t choose;
        const BestSet* as_good_as;
    };
    [[nodiscard]] BestSet search(const BestSetAsked& asked, const BestSetLimits& limits, const Task& task,
                                 const Instead* instead = nullptr);
    [[nodiscard]] BestSet leaving_out(const BestSetAsked& asked, BestSet set, const Task& task);
    struct State;
    std::unique_ptr<State> state_;
};

/// The open sites that a set closes: neither kept nor chosen, ascending.
std::vector<SiteIndex> closed_by(const std::vector<SiteOutcome>& sites, const BestSet& set);
/// Those of the chosen that are not open yet, ascending.
std::vector<SiteIndex> opened_by(const std::vector<SiteOutcome>& sites, const BestSet& set);
/// The plan in which a set is open: candidates chosen are opened, open sites neither kept nor chosen closed.
Plan plan_with(const Plan& base, const std::vector<SiteOutcome>& sites, const BestSet& set, std::string name);

}  // namespace otoro::service
