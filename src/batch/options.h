#pragma once
/// \file
/// Options that several commands have, and what they mean.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "batch/console.h"
#include "files/bring_in.h"
#include "service/assign.h"

namespace otoro::batch {

/// Text of an option as the value it means; what does not parse is misuse.
template <class Parse>
auto parsed(const std::string& option, const std::string& text, Parse&& parse) {
    try {
        return parse(text);
    } catch (const InputError& e) {
        throw CLI::ValidationError(option, e.parts().wrong);
    }
}

/// The options that say how one file is to be read.
struct FileOptions {
    std::string path, layer, crs, x, y, filter;

    void add_to(CLI::App& app, const std::string& what, const std::string& about, bool required, bool points) {
        auto* o = app.add_option("--" + what, path, about)->type_name("FILE");
        if (required) o->required();
        // What says how a file is read needs the file.
        app.add_option("--" + what + "-layer", layer, "layer of that file (the first that fits)")
            ->type_name("NAME")
            ->needs(o);
        app.add_option("--" + what + "-crs", crs, "its coordinate system, by EPSG code (the file's own)")
            ->type_name("EPSG")
            ->needs(o);
        app.add_option("--" + what + "-filter", filter,
                       "only records of which this is true, such as \"class IN ('residential') AND speed >= 30\"")
            ->type_name("CQL2")
            ->needs(o);
        if (!points) return;
        app.add_option("--" + what + "-x", x, "column of longitude or x in a table (found by name)")
            ->type_name("FIELD")
            ->needs(o);
        app.add_option("--" + what + "-y", y, "column of latitude or y in a table (found by name)")
            ->type_name("FIELD")
            ->needs(o);
    }
    [[nodiscard]] files::LayerChoice choice() const { return {path, layer, crs, x, y, filter}; }
};

/// The roads: one layer or several, their fields, and how they join.
struct RoadOptions {
    std::vector<std::string> paths, layers, words;
    std::string crs, filter, join = "ends", close_gaps, heights;
    files::RoadFields named;

    void add_to(CLI::App& app);
    [[nodiscard]] files::RoadChoice choice() const;
    [[nodiscard]] roads::Preparation preparation() const { return {*roads::parse_join_rule(join), {}}; }

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

/// Roads as the options say, gaps closed.
service::RoadsIn read_roads(const RoadOptions& options, const std::optional<travel::Profile>& profile,
                            const Task& task);

/// A travel profile: a standard one, or one read from a file.
travel::Profile profile_of(const std::string& word);
inline constexpr const char* kTravel = "drive, respond, walk or cycle, or a file with a travel profile";

/// Which roads demand and sites may be attached to.
struct AttachOptions {
    std::vector<std::string> never;
    std::string least_piece, road_field;

    void add_to(CLI::App& app);
    [[nodiscard]] places::AttachRule rule() const;
};

/// The options that say what is asked of what: everything but what is done with the answer.
struct Asking {
    RoadOptions roads;
    FileOptions demand, sites;
    AttachOptions attaching;
    std::string travel = "drive", speed, off_road_speed, closures, measure = "time", towards = "demand", limit,
                standard, attach_limit = "250m";
    std::string demand_id, site_id, weight, use = "open";
    bool quiet = false;

    /// What a command makes use of besides what all do. What it does not use it does not take.
    enum Uses : unsigned { kLimit = 1, kStandard = 2, kWeight = 4, kAll = 7 };
    void add_to(CLI::App& app, unsigned uses = kAll);
    [[nodiscard]] service::Question question() const;

    struct Ready {
        std::shared_ptr<const service::Ready> ready;
        service::Plan plan;
    };
    /// What was read, before anything is asked of it.
    struct Parts {
        service::RoadsIn roads;
        service::DemandIn demand;
        service::SitesIn sites;
        service::Question question;
        service::Plan plan;
    };
    Parts read(Console& console, const Task& task) const;
    /// Reads everything and makes the question ready.
    Ready bring_in(Console& console, const Task& task) const;
    /// The files that are read.
    [[nodiscard]] std::vector<std::string> inputs() const;
};

}  // namespace otoro::batch
