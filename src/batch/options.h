#pragma once
/// \file
/// Options that several commands have, and what they mean.
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "batch/command_line.h"
#include "batch/console.h"
#include "files/add_data.h"
#include "service/assign.h"

namespace otoro::batch {

/// Text of an option as the value it means; what does not parse is misuse.
template <class Parse>
auto parsed(const std::string& option, const std::string& text, Parse&& parse) {
    try {
        return parse(text);
    } catch (const InputError& e) {
        throw Misuse(option, e.parts().wrong);
    }
}

/// How much of the time each site is busy: "30%", 0 too. \throws InputError for all of it
Share parse_busy(const std::string& text);

/// The options that say how files of one kind are to be read.
struct FileOptions {
    std::vector<std::string> paths, layers;
    std::string crs, x, y, filter;

    /// How often the file may be named.
    enum class How : std::uint8_t { maybe_one, one_or_more, any };
    void add_to(Options& app, const std::string& what, const std::string& about, How how, bool points);
    /// One a file. \throws Misuse if more layers are named than files
    [[nodiscard]] std::vector<files::LayerChoice> choices() const;
    [[nodiscard]] bool given() const { return !paths.empty(); }

private:
    std::string what_;
};

/// The roads: one layer or several, their fields, and how they join.
struct RoadOptions {
    std::vector<std::string> paths, layers, words;
    std::string crs, filter, join = "ends", close_gaps, heights;
    files::RoadFields named;
    std::optional<std::string> level;  ///< empty: no field is the level
    /// The traveller, heeding heights where --heights names them and climbing costs such a one time.
    [[nodiscard]] travel::Profile heeding_heights(travel::Profile profile, Console& console) const;

    void add_to(Options& app, bool required = true);
    [[nodiscard]] files::RoadChoice choice() const;
    [[nodiscard]] roads::Preparation preparation() const { return {*roads::parse_join_rule(join), {}, {}}; }

private:
    /// Guesses, with what was named put in their place.
    [[nodiscard]] std::optional<files::RoadFields> fields(const files::LayerChoice& first) const;
};

inline std::optional<std::string> if_given(const std::string& s) { return s.empty() ? std::nullopt : std::optional(s); }

void tell_flaws(Console& console, const std::vector<Flaw>& flaws);
/// How a file was understood, and what was wrong with its records.
void tell_reading(Console& console, const service::Origin& origin);

/// Whatever can be refused is refused before anything is worked out: an output that could not be written, that is one
/// of the inputs or another output, or whose ending says nothing. \param endings what it may end with; empty: anything
/// \throws InputError
void check_output(const std::string& option, const std::string& path, const std::vector<std::string>& endings,
                  const std::vector<std::string>& taken);
/// The same of a table in a folder of tables of a study. \param taken other files that are read \throws InputError
void check_table(const service::Study& study, const std::string& path, const std::vector<std::string>& taken);

/// Roads as the options say, gaps closed.
service::RoadsIn read_roads(const RoadOptions& options, const std::optional<travel::Profile>& profile,
                            const Task& task);

/// Points with an id and a name, read as sites that are all in use: whatever else they have is not wanted. \param id
/// field of the id; empty: found by name
std::shared_ptr<const places::SiteSet> read_points(const files::LayerChoice& layer, const std::string& id,
                                                   Console& console, const Task& task);

/// A set that is attached by this rule.
template <class Set>
std::shared_ptr<const Set> with_rule(const Set& set, const places::AttachRule& rule) {
    auto out = std::make_shared<Set>(set);
    out->attaching.rule = rule;
    return out;
}

/// A travel profile: a standard one, or one read from a file.
travel::Profile profile_of(const std::string& word);
inline constexpr const char* kTravel = "drive, respond, walk or cycle, or a file with a travel profile";

/// Which roads demand and sites may be attached to.
struct AttachOptions {
    std::vector<std::string> never;
    std::string least_piece, road_field;

    void add_to(Options& app);
    [[nodiscard]] places::AttachRule rule() const;
};

/// The options that say by which rule places are served.
struct ServingOptions {
    std::string measure = "time", nearest, capacity, fill, priority, recorded, together, limit_field, least;
    std::string pairs, by, pair_demand, pair_site, blend;
    std::uint32_t needed = 1;
    bool split = false, smallest = false, else_nearest = false;

    /// \param every_rule whether others than the nearest may be asked for
    void add_to(Options& app, bool every_rule, bool required);
    /// \throws Misuse for options that do not go together
    [[nodiscard]] service::Serving serving() const;
    /// That what the rule needs is there. \throws InputError that says what is not
    void check(const service::Study& study, const service::Question& question) const;

private:
    [[nodiscard]] bool fills() const { return !capacity.empty() || !fill.empty() || !priority.empty() || split; }
};

/// A site as an option may name it.
struct NamedSite {
    std::string_view id, set;
    std::optional<std::size_t> record;  ///< of its set, from 0; nothing if a plan adds it
};
/// Which site an option names by its id. \throws InputError if none has it, or several: then all of them are named
std::size_t site_named(const char* option, const std::string& id, std::span<const NamedSite> sites);

/// The options that change today: sites opened and closed by id, and closures from a file.
struct PlanOptions {
    std::vector<std::string> open, close;
    std::string closures;

    void add_to(Options& app);
    [[nodiscard]] bool given() const { return given_sites() || !closures.empty(); }
    [[nodiscard]] bool given_sites() const { return !open.empty() || !close.empty(); }
    /// A plan's changes added to those of `plan`; what closures at a point were taken for is told. \throws InputError
    /// for an id that no site has
    void add_changes(service::Plan& plan, const roads::Network& network, const places::Sites& sites, Console& console,
                     const Task& task) const;
};

/// The options that say how a question is asked: everything but its roads, places and plan.
struct QuestionOptions {
    ServingOptions serving;
    std::string travel = "drive", speed, off_road_speed, turnout, towards = "demand", limit, standard,
                attach_limit = "250m", use = "open";

    /// What a command makes use of besides what all do. What it does not use it does not take.
    enum Uses : unsigned { kLimit = 1, kStandard = 2, kWeight = 4, kAll = 7, kEveryRule = 8, kOwnLimits = 16 };
    void add_to(Options& app, unsigned uses, bool required);
    [[nodiscard]] service::Question question() const;
};

/// The options of places: demand, sites and zones, and how they are attached.
struct PlaceOptions {
    FileOptions demand, sites, zones;
    AttachOptions attaching;
    std::string demand_id, site_id, weight, group, site_limit, site_zone, site_cost, site_turnout, site_capacity;

    void add_to(Options& app, unsigned uses, bool required);
    [[nodiscard]] std::vector<std::string> inputs() const;
    /// The study with what was named read into it, and the question turned to it. \param serving names fields that its
    /// rule needs
    service::Study read_into(service::Study study, service::Question& question, const ServingOptions& serving,
                             Console& console, const Task& task) const;
};

/// The options that say what is asked of what: everything but what is done with the answer.
struct Asking {
    RoadOptions roads;
    PlaceOptions places;
    QuestionOptions asked;
    PlanOptions changes;
    bool quiet = false;

    /// \param required whether demand, sites, traveller, measure and direction must be named
    void add_to(Options& app, unsigned uses = QuestionOptions::kAll, bool required = true);

    struct Ready {
        std::shared_ptr<const service::Ready> ready;
        service::Plan plan;
    };
    /// Reads everything: a study with one question, and the plan that it is asked under.
    service::Study read(Console& console, const Task& task, service::Plan& plan) const;
    /// Reads everything and makes the question ready.
    Ready ready_to_ask(Console& console, const Task& task) const;
    /// The files that are read.
    [[nodiscard]] std::vector<std::string> inputs() const;
};

}  // namespace otoro::batch
