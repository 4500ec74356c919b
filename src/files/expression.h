#pragma once
/// \file
/// Which records are wanted, and numbers worked out from fields: a subset of CQL2 text (OGC 21-065r2, "Common Query
/// Language").
///
///     class IN ('residential', 'service') AND speed >= 30
///     name LIKE 'Quay%' OR "road level" IS NULL
///     length / speed * 60
///
/// Fields are names, in double quotes where they are not plain words; texts stand in single quotes (a quote inside is
/// doubled). There are `= <> < <= > >=`, `BETWEEN`, `IN`, `LIKE` (with `%` and `_`), `IS NULL`, `AND`, `OR`, `NOT`, `+
/// - * /` and parentheses. Words of the language may be in any case. Two values compare as numbers where both are
/// numbers, else as texts; whether a value equals a text in quotes is asked of the texts, so that the id '007' is
/// not 7. As in the standard, a comparison with a missing value is neither true nor false, and a record of which the
/// condition is not true is not wanted.
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace otoro::files {

/// What stands in a field: its text as it is, and its number as its column writes them, if it is one.
struct FieldValue {
    FieldValue(std::string t, std::optional<double> n) : text(std::move(t)), number(n) {}
    /// A number where the text is one in plain decimal form with a point.
    FieldValue(std::string t);  // NOLINT(google-explicit-constructor): a text is a field's value
    std::string text;
    std::optional<double> number;
};

/// A parsed expression. Immutable; shared between threads.
class Expression {
public:
    /// A field's value; nothing where it is missing.
    using FieldOf = std::function<std::optional<FieldValue>(std::size_t field)>;

    /// \throws InputError that says where and what was expected; also for one nested too deeply or longer than 10,000
    /// characters
    static Expression parse(std::string_view text);
    ~Expression();
    Expression(Expression&&) noexcept;
    Expression& operator=(Expression&&) noexcept;

    /// The fields named, each once, as they are written. `FieldOf` is asked by place in this list.
    [[nodiscard]] const std::vector<std::string>& fields() const;
    /// Whether it is true of a record.
    [[nodiscard]] bool holds(const FieldOf& field) const;
    /// Its number; nothing if a part is missing, is no number, or is divided by zero.
    [[nodiscard]] std::optional<double> number(const FieldOf& field) const;

    struct Node;

private:
    Expression();
    std::unique_ptr<Node> root_;
    std::vector<std::string> fields_;
    friend class ExpressionParser;
};

}  // namespace otoro::files
