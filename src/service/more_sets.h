#pragma once
/// \file
/// What stands beside the best set: the price of every step, others that are nearly as good, and how sure it is.
///
/// \par Method
/// *Others nearly as good*: the sets are parted by the first site of the best that they do not have, the best of each
/// part is found, and its part divided likewise, the best part first (Murty 1968, Lawler 1972); so they come in order,
/// and none is left out. *How sure*: the request is asked again under other speeds, and with every place counted once;
/// what the set that was chosen is worth then is held against the best.
///
/// \par Cost
/// One request for each site of each set that is listed; one for each step; one for each variant, with its table of
/// costs. Nothing more is begun once the task is left off; what that leaves out is said.
#include <string>
#include <vector>

#include "service/best_set.h"

namespace otoro::service {

struct StepPrices {
    std::vector<BestSet> sets;
    std::uint32_t left_off_from = 0;  ///< numbers from this one on were not looked at any more; 0: all were
    std::uint32_t enough = 0;  ///< more than so many bring nothing, up to the number asked for, proven; 0: not so
};
/// The best sets of 1, 2, ... sites, up to as many as are asked for; from as many as are required, without the numbers
/// for which no set keeps to the rules, and those that are no better than fewer. \pre a number is asked for, not a
/// budget or the fewest \throws NoSet if no number has a set; Stopped
StepPrices price_of_steps(SetChooser& chooser, const BestSetAsked& asked, const BestSetLimits& limits,
                          const Task& task);
/// Whether it has a price by steps.
inline bool has_steps(const BestSetAsked& asked) { return asked.goal != Goal::fewest && !asked.budget; }

/// How much worse the value of a set is than the best's, as a part of the best's; 0 if it is as good.
double worse_by(const BestSet& best, const BestSet& set);

struct NearSets {
    std::vector<BestSet> sets;
    bool complete = true;  ///< no other set is as near; else some part was left off before its proof, or there are more
};
/// Sets that are worse than the best by no more than a part, the better first, of equals as they are found; the best
/// itself is not among them, nor are sets that a listed one is a part of. \param most no more than so many \throws
/// Stopped
NearSets nearly_as_good(SetChooser& chooser, const BestSetAsked& asked, const BestSet& best, double part,
                        std::size_t most, const BestSetLimits& limits, const Task& task);

/// The best set under other circumstances, and what the one that was chosen is worth then.
struct Variant {
    std::string what;  ///< "at 90 % of the speed", "with Mill Lane shut"
    BestSet set;     ///< without any where nothing keeps to the request then, or none was found before it was left off
    BestSet chosen;  ///< the best of the request itself; of the fewest, with what it needs besides; likewise
};
struct HowSure {
    std::vector<Variant> variants;     ///< the first is the request itself
    std::vector<std::uint32_t> times;  ///< by site of the plan: in how many of the variants it is chosen
    std::size_t as_good = 0;           ///< other sets that are as good as the best, as asked
    bool as_good_complete = true;      ///< whether those are all
    std::uint32_t left_off = 0;        ///< so many variants were not looked at any more
};
/// Ten and twenty per cent lower and higher.
inline const std::vector<Share> kUsualSpeeds{Share::percent(80), Share::percent(90), Share::percent(110),
                                             Share::percent(120)};
/// No more are counted that are as good.
inline constexpr std::size_t kMostAsGood = 20;
/// At other speeds, by places instead of weight, and with a road shut: of each site of the best set, the first five of
/// them, the road that most come over. \param chooser of that plan \param best of the request itself \param speeds
/// shares of what speeds are, none of them 100 % \throws Stopped
HowSure how_sure(SetChooser& chooser, const std::shared_ptr<const Ready>& ready, const Plan& plan,
                 const BestSetAsked& asked, const BestSet& best, const std::vector<Share>& speeds,
                 const BestSetLimits& limits, const Task& task);

}  // namespace otoro::service
