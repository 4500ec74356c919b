#pragma once
/// \file
/// What a file can be added as: one kind of data a file, with how it is recognised, which of its fields are asked for,
/// and how it is read.
///
/// A new kind is a file here and a line in `added_kinds()`; the panel that adds files follows.
#include <QString>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "files/add_data.h"
#include "service/study.h"

namespace otoro::desktop {

/// A field of the file that a kind asks for.
struct AskedField {
    QString label;         ///< "Weight from"
    std::string guessed;   ///< empty: none
    bool formula = false;  ///< a formula may stand in its place
};

/// A file and what was chosen for it.
struct AddChoice {
    files::LayerChoice layer;
    std::vector<files::LayerChoice> more;  ///< further layers of lines, to be merged
    std::vector<std::string> fields;       ///< one for each that was asked for; empty: none
    std::map<std::string, std::string> words;
    std::string name;  ///< what the set is to be called
};

/// What came of it: in words, and the change of the study.
struct Added {
    QString what;
    std::function<void(service::Study&)> change;
};

class AddedKind {
public:
    virtual ~AddedKind() = default;
    /// As the list of kinds says it.
    [[nodiscard]] virtual QString title() const = 0;
    [[nodiscard]] virtual files::Shape shape() const = 0;
    /// How well a layer fits; the kind that fits best is taken. \param file its name without its ending, in small
    /// letters
    [[nodiscard]] virtual int fits(const files::LayerInfo& layer, const QString& file) const = 0;
    /// What sets it becomes one of, which have names; nothing for what a study has one of.
    [[nodiscard]] virtual std::optional<service::SetKind> sets() const = 0;
    /// Of what a study has one of: what is said when it takes the place of one that is there; empty if none is there.
    [[nodiscard]] virtual QString takes_place_of(const service::Study&) const { return {}; }
    [[nodiscard]] virtual std::vector<AskedField> fields(const files::LayerInfo& layer) const = 0;
    /// Whether words of the file may be given a meaning.
    [[nodiscard]] virtual bool takes_words() const { return false; }
    /// Reads it. \throws InputError; Stopped
    [[nodiscard]] virtual Added add(const AddChoice& choice, const Task& task) const = 0;
};

/// All kinds, in the order of the list.
const std::vector<const AddedKind*>& added_kinds();
/// Their places in that list.
enum class Role : std::uint8_t { roads, demand, sites, zones, water, pairs };
/// The place in the list of the kind that a layer is most likely meant as.
int likely_kind(const files::LayerInfo& layer, const QString& path);

const AddedKind& added_roads();
const AddedKind& added_demand();
const AddedKind& added_sites();
const AddedKind& added_zones();
const AddedKind& added_water();
const AddedKind& added_pairs();

/// Whether a file's name has one of these words in it.
bool named_like(const QString& file, std::initializer_list<const char*> words);

}  // namespace otoro::desktop
