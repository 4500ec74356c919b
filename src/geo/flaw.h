#pragma once
/// \file
/// What was wrong with one record of a file.
#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace otoro {

/// What sort of thing is wrong, so that flaws of one sort can be counted, weighed and fixed together.
enum class FlawKind : std::uint8_t {
    other,
    shape,
    location,
    id_missing,
    id_duplicate,
    weight,
    state,
    capacity,
    speed,
    length,
    word,
    restriction,
    no_time,       ///< a time that is none: the speed is used
    doubtful_time  ///< one that is used, and hard to believe
};

/// A record set aside, or kept with something put right. Nothing is dropped without one of these.
struct Flaw {
    std::string file;
    std::int64_t record = 0;  ///< number from 0; it is said from 1
    std::string id;           ///< its id, where it has one
    std::string wrong;        ///< "its weight is empty; it counts as 0"
    bool set_aside = false;   ///< true: not part of the study; false: kept, as the text says
    FlawKind kind = FlawKind::other;
    std::optional<std::uint32_t> place;  ///< which place of the set it became, where it did
    std::int64_t more = 0;               ///< so many further records have the same, and are not listed one by one
    bool operator==(const Flaw&) const = default;
};

/// The flaws of a file, in file order: of each kind the first are listed one by one, of the others only how many there
/// are is kept, so that five million bad records take no more room than some thousand.
class FlawList {
public:
    static constexpr std::size_t kMostOfAKind = 20'000;

    void push_back(Flaw flaw) {
        OfAKind& known = kinds_[{flaw.kind, flaw.set_aside}];
        last_ = flaw;
        if (known.listed++ >= kMostOfAKind) {
            ++all_[known.last].more;
            return;
        }
        known.last = all_.size();
        all_.push_back(std::move(flaw));
    }
    [[nodiscard]] bool empty() const { return all_.empty(); }
    [[nodiscard]] std::size_t size() const { return all_.size(); }
    [[nodiscard]] auto begin() const { return all_.begin(); }
    [[nodiscard]] auto end() const { return all_.end(); }
    [[nodiscard]] const Flaw& operator[](std::size_t i) const { return all_[i]; }
    [[nodiscard]] const Flaw& at(std::size_t i) const { return all_.at(i); }
    /// The one met last, listed or not.
    [[nodiscard]] const Flaw& back() const { return last_; }
    [[nodiscard]] std::vector<Flaw> take() { return std::move(all_); }

private:
    struct OfAKind {
        std::size_t listed = 0, last = 0;
    };
    std::vector<Flaw> all_;
    std::map<std::pair<FlawKind, bool>, OfAKind> kinds_;
    Flaw last_;
};

/// How many records have a flaw, listed or not.
inline std::int64_t records_of(const Flaw& flaw) { return 1 + flaw.more; }

}  // namespace otoro
