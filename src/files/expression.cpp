#include "files/expression.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <variant>

#include "geo/amounts.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

using Value = std::variant<std::monostate, bool, double, std::string,
                           FieldValue>;  // missing; true or false; number; text in quotes; of a field

bool is_missing(const Value& v) { return std::holds_alternative<std::monostate>(v); }

std::optional<double> plain_decimal(std::string_view text) {
    double number = 0;
    if (text.find(',') != std::string_view::npos || !parse_number(text, number)) return std::nullopt;
    return number;
}

std::optional<double> as_number(const Value& v) {
    if (const auto* d = std::get_if<double>(&v)) return *d;
    if (const auto* s = std::get_if<std::string>(&v)) return plain_decimal(*s);
    if (const auto* f = std::get_if<FieldValue>(&v)) return f->number;
    return std::nullopt;
}

std::string as_text(const Value& v) {
    if (const auto* d = std::get_if<double>(&v)) return plain_number(*d);
    if (const auto* b = std::get_if<bool>(&v)) return *b ? "true" : "false";
    if (const auto* s = std::get_if<std::string>(&v)) return *s;
    if (const auto* f = std::get_if<FieldValue>(&v)) return f->text;
    return {};
}

bool is_quoted(const Value& v) { return std::holds_alternative<std::string>(v); }

/// Whether they are equal; nothing where one is missing. Texts in quotes are meant as they stand.
std::optional<bool> equal(const Value& a, const Value& b) {
    if (is_missing(a) || is_missing(b)) return std::nullopt;
    const auto x = as_number(a), y = as_number(b);
    if (x && y && !is_quoted(a) && !is_quoted(b)) return *x == *y;
    return as_text(a) == as_text(b);
}

/// Less than, equal to or greater than zero; nothing where one is missing.
std::optional<int> compare(const Value& a, const Value& b) {
    if (is_missing(a) || is_missing(b)) return std::nullopt;
    const auto x = as_number(a), y = as_number(b);
    if (x && y) return *x < *y ? -1 : *x > *y ? 1 : 0;
    const auto s = as_text(a), t = as_text(b);
    return s < t ? -1 : s > t ? 1 : 0;
}

/// `%` is any run of characters, `_` one. Iterative, so that no pattern takes more than the product of the lengths.
bool like(std::string_view text, std::string_view pattern) {
    std::size_t t = 0, p = 0, star = std::string_view::npos, mark = 0;
    while (t < text.size()) {
        if (p < pattern.size() && pattern[p] == '%') {
            star = p++;
            mark = t;
        } else if (p < pattern.size() && (pattern[p] == '_' || pattern[p] == text[t])) {
            ++p;
            ++t;
        } else if (star != std::string_view::npos) {
            p = star + 1;
            t = ++mark;
        } else {
            return false;
        }
    }
    while (p < pattern.size() && pattern[p] == '%') ++p;
    return p == pattern.size();
}

}  // namespace

struct Expression::Node {
    enum class Kind {
        field,
        literal,
        negate,
        add,
        subtract,
        multiply,
        divide,
        equal,
        unequal,
        less,
        at_most,
        more,
        at_least,
        between,
        in,
        like,
        is_null,
        both,
        either,
        no
    };
    Kind kind = Kind::literal;
    Value value;
    std::size_t field = 0;
    std::vector<std::unique_ptr<Node>> parts;

    [[nodiscard]] Value at(const FieldOf& field_of) const {
        const auto part = [&](std::size_t i) { return parts[i]->at(field_of); };
        switch (kind) {
            case Kind::field: {
                auto found = field_of(field);
                return found ? Value(std::move(*found)) : Value();
            }
            case Kind::literal:
                return value;
            case Kind::negate: {
                const auto v = as_number(part(0));
                return v ? Value(-*v) : Value();
            }
            case Kind::add:
            case Kind::subtract:
            case Kind::multiply:
            case Kind::divide:
                return arithmetic(part(0), part(1));
            case Kind::between:
                return conjunction(truth(compare(part(0), part(1)), [](int c) { return c >= 0; }),
                                   truth(compare(part(0), part(2)), [](int c) { return c <= 0; }));
            case Kind::in:
                return any_of(part(0), field_of);
            case Kind::like: {
                const Value a = part(0), b = part(1);
                return is_missing(a) || is_missing(b) ? Value() : Value(like_(as_text(a), as_text(b)));
            }
            case Kind::is_null:
                return is_missing(part(0));
            case Kind::both:
                return conjunction(part(0), part(1));
            case Kind::either:
                return negation(conjunction(negation(part(0)), negation(part(1))));
            case Kind::no:
                return negation(part(0));
            case Kind::equal:
            case Kind::unequal: {
                const auto same = equal(part(0), part(1));
                return same ? Value(*same == (kind == Kind::equal)) : Value();
            }
            default:
                return truth(compare(part(0), part(1)), [this](int c) { return holds_for(c); });
        }
    }

private:
    static bool like_(const std::string& text, const std::string& pattern) { return otoro::files::like(text, pattern); }
    template <class Test>
    static Value truth(const std::optional<int>& c, Test&& test) {
        return c ? Value(test(*c)) : Value();
    }
    [[nodiscard]] bool holds_for(int c) const {
        switch (kind) {
            case Kind::less:
                return c < 0;
            case Kind::at_most:
                return c <= 0;
            case Kind::more:
                return c > 0;
            default:
                return c >= 0;
        }
    }
    [[nodiscard]] Value arithmetic(const Value& a, const Value& b) const {
        const auto x = as_number(a), y = as_number(b);
        if (!x || !y) return {};
        const double v = kind == Kind::add        ? *x + *y
                         : kind == Kind::subtract ? *x - *y
                         : kind == Kind::multiply ? *x * *y
                                                  : *x / *y;
        return std::isfinite(v) ? Value(v) : Value();
    }
    [[nodiscard]] Value any_of(const Value& v, const FieldOf& field_of) const {
        bool unknown = is_missing(v);
        for (std::size_t i = 1; i < parts.size(); ++i) {
            const auto same = equal(v, parts[i]->at(field_of));
            if (same && *same) return true;
            unknown = unknown || !same;
        }
        return unknown ? Value() : Value(false);
    }
    /// True, false or unknown.
    static std::optional<bool> logic(const Value& v) {
        if (const auto* b = std::get_if<bool>(&v)) return *b;
        if (const std::string s = as_text(v); is_quoted(v) || std::holds_alternative<FieldValue>(v)) {
            if (s == "true" || s == "1") return true;
            if (s == "false" || s == "0") return false;
        }
        if (const auto* d = std::get_if<double>(&v)) return *d != 0;
        return std::nullopt;
    }
    static Value conjunction(const Value& a, const Value& b) {
        const auto x = logic(a), y = logic(b);
        if ((x && !*x) || (y && !*y)) return false;
        return x && y ? Value(true) : Value();
    }
    static Value negation(const Value& a) {
        const auto x = logic(a);
        return x ? Value(!*x) : Value();
    }
};

/// Recursive descent over the text.
class ExpressionParser {
public:
    using Node = Expression::Node;
    using Kind = Node::Kind;
    using Ptr = std::unique_ptr<Node>;

    explicit ExpressionParser(std::string_view text) : text_(text) {
        if (text.size() > kLongest) fail("it is over 10,000 characters long");
    }

    Expression parse() {
        advance();
        Expression out;
        out.root_ = either();
        if (!token_.empty()) fail(fmt::format("'{}' is not expected", token_));
        out.fields_ = std::move(fields_);
        return out;
    }

private:
    static constexpr std::size_t kLongest = 10'000;
    static constexpr int kDeepest = 200;

    [[noreturn]] void fail(const std::string& what) const {
        throw InputError(
            {"", std::nullopt,
             fmt::format("the condition or formula cannot be understood at character {}: {}", begin_ + 1, what),
             "Write it like: class IN ('residential', 'service') AND speed >= 30"});
    }

    /// Counts how deep the parser is in itself.
    struct Deeper {
        explicit Deeper(ExpressionParser& p) : parser(p) {
            if (++parser.depth_ > kDeepest) parser.fail("it is nested too deeply");
        }
        ~Deeper() { --parser.depth_; }
        Deeper(const Deeper&) = delete;
        Deeper& operator=(const Deeper&) = delete;
        ExpressionParser& parser;
    };

    void advance() {
        while (at_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[at_])) != 0) ++at_;
        begin_ = at_;
        token_.clear();
        is_text_ = is_quoted_name_ = false;
        if (at_ == text_.size()) return;
        const char c = text_[at_];
        if (c == '\'' || c == '"') return quoted(c);
        const auto word = [](char x) {
            return std::isalnum(static_cast<unsigned char>(x)) != 0 || x == '_' || x == ':' ||
                   (static_cast<unsigned char>(x) & 0x80U) != 0;
        };
        if (std::isdigit(static_cast<unsigned char>(c)) != 0 || c == '.') {
            while (at_ < text_.size() && (word(text_[at_]) || text_[at_] == '.' ||
                                          (at_ > begin_ && (text_[at_] == '-' || text_[at_] == '+') &&
                                           (text_[at_ - 1] == 'e' || text_[at_ - 1] == 'E'))))
                ++at_;
        } else if (word(c)) {
            while (at_ < text_.size() && word(text_[at_])) ++at_;
        } else {
            ++at_;
            if (at_ < text_.size() &&
                ((c == '<' && (text_[at_] == '=' || text_[at_] == '>')) || (c == '>' && text_[at_] == '=')))
                ++at_;
        }
        token_ = text_.substr(begin_, at_ - begin_);
    }
    void quoted(char quote) {
        std::string s;
        for (++at_;; ++at_) {
            if (at_ == text_.size()) fail(quote == '\'' ? "the text does not end" : "the name does not end");
            if (text_[at_] == quote) {
                if (at_ + 1 < text_.size() && text_[at_ + 1] == quote)
                    ++at_;
                else
                    break;
            }
            s += text_[at_];
        }
        ++at_;
        token_ = s.empty() ? std::string(1, '\0') : s;  // not the end
        (quote == '\'' ? is_text_ : is_quoted_name_) = true;
        quoted_ = std::move(s);
    }

    [[nodiscard]] bool is(std::string_view word) const {
        return !is_text_ && !is_quoted_name_ && token_.size() == word.size() &&
               std::equal(word.begin(), word.end(), token_.begin(),
                          [](char a, char b) { return std::toupper(static_cast<unsigned char>(b)) == a; });
    }
    bool take(std::string_view word) {
        if (!is(word)) return false;
        advance();
        return true;
    }
    void expect(std::string_view word) {
        if (!take(word))
            fail(token_.empty() ? fmt::format("'{}' is missing", word)
                                : fmt::format("'{}' was expected, not '{}'", word, token_));
    }

    template <class... Parts>
    static Ptr node(Kind kind, Parts... parts) {
        auto n = std::make_unique<Node>();
        n->kind = kind;
        (n->parts.push_back(std::move(parts)), ...);
        return n;
    }
    static Ptr literal(Value v) {
        auto n = std::make_unique<Node>();
        n->value = std::move(v);
        return n;
    }

    Ptr either() {
        const Deeper deeper(*this);
        Ptr left = both();
        while (take("OR")) left = node(Kind::either, std::move(left), both());
        return left;
    }
    Ptr both() {
        Ptr left = no();
        while (take("AND")) left = node(Kind::both, std::move(left), no());
        return left;
    }
    Ptr no() {
        const Deeper deeper(*this);
        if (take("NOT")) return node(Kind::no, no());
        return comparison();
    }
    Ptr comparison() {
        Ptr left = sum();
        const bool negated = take("NOT");
        const auto maybe_not = [&](Ptr n) { return negated ? node(Kind::no, std::move(n)) : std::move(n); };
        if (take("BETWEEN")) {
            Ptr low = sum();
            expect("AND");
            Ptr high = sum();
            return maybe_not(node(Kind::between, std::move(left), std::move(low), std::move(high)));
        }
        if (take("IN")) {
            Ptr n = node(Kind::in, std::move(left));
            expect("(");
            do n->parts.push_back(sum());
            while (take(","));
            expect(")");
            return maybe_not(std::move(n));
        }
        if (take("LIKE")) return maybe_not(node(Kind::like, std::move(left), sum()));
        if (negated) fail("BETWEEN, IN or LIKE was expected after NOT");
        if (take("IS")) {
            const bool is_not = take("NOT");
            expect("NULL");
            Ptr n = node(Kind::is_null, std::move(left));
            return is_not ? node(Kind::no, std::move(n)) : std::move(n);
        }
        for (const auto& [sign, kind] :
             {std::pair{"=", Kind::equal}, std::pair{"<>", Kind::unequal}, std::pair{"<=", Kind::at_most},
              std::pair{">=", Kind::at_least}, std::pair{"<", Kind::less}, std::pair{">", Kind::more}})
            if (take(sign)) return node(kind, std::move(left), sum());
        return left;
    }
    Ptr sum() {
        Ptr left = product();
        while (true) {
            if (take("+"))
                left = node(Kind::add, std::move(left), product());
            else if (take("-"))
                left = node(Kind::subtract, std::move(left), product());
            else
                return left;
        }
    }
    Ptr product() {
        Ptr left = factor();
        while (true) {
            if (take("*"))
                left = node(Kind::multiply, std::move(left), factor());
            else if (take("/"))
                left = node(Kind::divide, std::move(left), factor());
            else
                return left;
        }
    }
    Ptr factor() {
        const Deeper deeper(*this);
        if (take("-")) return node(Kind::negate, factor());
        if (take("(")) {
            Ptr inner = either();
            expect(")");
            return inner;
        }
        if (token_.empty()) fail("something is missing at the end");
        if (is_text_) {
            Ptr n = literal(quoted_);
            advance();
            return n;
        }
        if (is_quoted_name_) return field(quoted_);
        if (take("TRUE")) return literal(true);
        if (take("FALSE")) return literal(false);
        if (std::isdigit(static_cast<unsigned char>(token_[0])) != 0 || token_[0] == '.') {
            double v = 0;
            if (!parse_number(token_, v)) fail(fmt::format("'{}' is not a number", token_));
            advance();
            return literal(v);
        }
        if (std::isalpha(static_cast<unsigned char>(token_[0])) == 0 && token_[0] != '_' &&
            (static_cast<unsigned char>(token_[0]) & 0x80U) == 0)
            fail(fmt::format("'{}' is not expected", token_));
        return field(token_);
    }
    Ptr field(const std::string& name) {
        auto n = std::make_unique<Node>();
        n->kind = Kind::field;
        const auto known = std::find(fields_.begin(), fields_.end(), name);
        n->field = static_cast<std::size_t>(known - fields_.begin());
        if (known == fields_.end()) fields_.push_back(name);
        advance();
        return n;
    }

    std::string_view text_;
    std::size_t at_ = 0, begin_ = 0;
    int depth_ = 0;
    std::string token_, quoted_;
    bool is_text_ = false, is_quoted_name_ = false;
    std::vector<std::string> fields_;
};

FieldValue::FieldValue(std::string t) : text(std::move(t)), number(plain_decimal(text)) {}

Expression::Expression() = default;
Expression::~Expression() = default;
Expression::Expression(Expression&&) noexcept = default;
Expression& Expression::operator=(Expression&&) noexcept = default;

Expression Expression::parse(std::string_view text) { return ExpressionParser(text).parse(); }

const std::vector<std::string>& Expression::fields() const { return fields_; }

bool Expression::holds(const FieldOf& field) const {
    const Value v = root_->at(field);
    const auto* b = std::get_if<bool>(&v);
    return b != nullptr && *b;
}

std::optional<double> Expression::number(const FieldOf& field) const { return as_number(root_->at(field)); }

}  // namespace otoro::files
