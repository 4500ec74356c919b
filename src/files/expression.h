#pragma once
/// \file
/// Which records are wanted, and numbers worked out from fields: a subset of CQL2 text (OGC 21-065r2, "Common Query Language").
///
///     class IN ('residential', 'service') AND speed >= 30
///     name LIKE 'Quay%' OR "road level" IS NULL
///     length / speed * 60
///
/// Fields are names, in double quotes where they are not plain words; texts stand in single quotes (a quote inside is doubled). There are `= <> < <= > >=`, `BETWEEN`, `IN`, `LIKE` (with `%` and `_`),
/// `IS NULL`, `AND`, `OR`, `NOT`, `+ - * /` and parentheses. Words of the language may be in any case. Two values compare as numbers where both are numbers, else as texts. As in the
/// standard, a comparison with a missing value is neither true nor false, and a record of which the condition is not true is not wanted.
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace otoro::files {

/// A parsed expression. Immutable; shared between threads.
class Expression {
public:
    /// A field's text; nothing where it is missing.
    using FieldOf = std::function<std::optional<std::string>(std::size_t field)>;

    /// \throws InputError that says where and what was expected; also for one nested too deeply or longer than 10,000 characters
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
