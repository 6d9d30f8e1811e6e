#include "base/expression.h"
#include "base/dimensions.h"
#include "base/geometry.h"
#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <functional>
#include <muParser.h>
#include <regex>
#include <set>

namespace lp {
namespace {

constexpr size_t longest_expression = 500;

struct Word {
    std::string text;
    size_t at;
    bool after_number; ///< directly follows a number: a unit
    bool is_call;      ///< directly followed by "("
};

bool word_start(char c) {
    return std::isalpha(static_cast<unsigned char>(c)) || c == '_';
}
bool word_part(char c) {
    return std::isalnum(static_cast<unsigned char>(c)) || c == '_';
}

/// Splits the words out of an expression; numbers with an exponent ("1e-3") are no words.
std::vector<Word> words_of(const std::string& text) {
    std::vector<Word> words;
    bool number_before = false;
    for (size_t i = 0; i < text.size();) {
        char c = text[i];
        if (std::isdigit(static_cast<unsigned char>(c)) || c == '.') {
            while (i < text.size() && (std::isdigit(static_cast<unsigned char>(text[i])) || text[i] == '.')) ++i;
            if (i < text.size() && (text[i] == 'e' || text[i] == 'E')) {
                size_t k = i + 1;
                if (k < text.size() && (text[k] == '+' || text[k] == '-')) ++k;
                if (k < text.size() && std::isdigit(static_cast<unsigned char>(text[k]))) {
                    i = k;
                    while (i < text.size() && std::isdigit(static_cast<unsigned char>(text[i]))) ++i;
                }
            }
            number_before = true;
        } else if (word_start(c)) {
            size_t start = i;
            while (i < text.size() && word_part(text[i])) ++i;
            size_t next = text.find_first_not_of(' ', i);
            words.push_back(
                {text.substr(start, i - start), start, number_before, next != std::string::npos && text[next] == '('});
            number_before = false;
        } else {
            if (!std::isspace(static_cast<unsigned char>(c))) number_before = c == ')';
            ++i;
        }
    }
    return words;
}

double sine(double d) {
    return std::sin(radians(d));
}
double cosine(double d) {
    return std::cos(radians(d));
}
double tangent(double d) {
    return std::tan(radians(d));
}
double arc_sine(double v) {
    return degrees(std::asin(v));
}
double arc_cosine(double v) {
    return degrees(std::acos(v));
}
double arc_tangent(double v) {
    return degrees(std::atan(v));
}
double arc_tangent2(double y, double x) {
    return degrees(std::atan2(y, x));
}
double square_root(double v) {
    return std::sqrt(v);
}
double absolute(double v) {
    return std::fabs(v);
}
double rounded(double v) {
    return std::round(v);
}
double floored(double v) {
    return std::floor(v);
}
double raised(double v) {
    return std::ceil(v);
}
double natural_log(double v) {
    return std::log(v);
}
double decimal_log(double v) {
    return std::log10(v);
}
double exponential(double v) {
    return std::exp(v);
}
double either(double condition, double yes, double no) {
    return condition != 0 ? yes : no;
}
double least(const double* v, int n) {
    return *std::min_element(v, v + n);
}
double greatest(const double* v, int n) {
    return *std::max_element(v, v + n);
}
double from_mm(double v) {
    return v;
}
double from_cm(double v) {
    return v * 10;
}
double from_m(double v) {
    return v * 1000;
}
double from_inch(double v) {
    return v * 25.4;
}

const std::set<std::string>& function_names() {
    static const std::set<std::string> names{"sin",   "cos",   "tan",  "asin", "acos", "atan", "atan2", "sqrt", "abs",
                                             "round", "floor", "ceil", "min",  "max",  "ln",   "log",   "exp",  "if"};
    return names;
}

void define_vocabulary(mu::Parser& parser) {
    parser.ClearFun();
    parser.ClearConst();
    parser.EnableBuiltInOprt(true);
    parser.DefineFun("sin", sine);
    parser.DefineFun("cos", cosine);
    parser.DefineFun("tan", tangent);
    parser.DefineFun("asin", arc_sine);
    parser.DefineFun("acos", arc_cosine);
    parser.DefineFun("atan", arc_tangent);
    parser.DefineFun("atan2", arc_tangent2);
    parser.DefineFun("sqrt", square_root);
    parser.DefineFun("abs", absolute);
    parser.DefineFun("round", rounded);
    parser.DefineFun("floor", floored);
    parser.DefineFun("ceil", raised);
    parser.DefineFun("ln", natural_log);
    parser.DefineFun("log", decimal_log);
    parser.DefineFun("exp", exponential);
    parser.DefineFun("if", either);
    parser.DefineFun("min", least);
    parser.DefineFun("max", greatest);
    parser.DefineConst("pi", std::numbers::pi);
    parser.DefinePostfixOprt("mm", from_mm);
    parser.DefinePostfixOprt("cm", from_cm);
    parser.DefinePostfixOprt("m", from_m);
    parser.DefinePostfixOprt("in", from_inch);
    parser.DefinePostfixOprt("deg", from_mm);
}

/// A length makes no angle and an angle no length, but in a ratio (360 * rise / pitch) or a function (sin(30 deg)).
std::optional<Problem> check_kinds(const std::string& text, QuantityKind kind, const ParameterValues& values) {
    if (kind != QuantityKind::Length && kind != QuantityKind::Angle) return std::nullopt;
    auto kind_of = [&](const std::string& word, bool unit) -> std::optional<QuantityKind> {
        if (unit) {
            const Unit* its = find_unit(word);
            return its ? std::optional(its->kind) : std::nullopt;
        }
        auto found = values.find(word);
        return found == values.end() ? std::nullopt : std::optional(found->second.kind);
    };
    auto measures = dimensions_of(text, [&](const std::string& word, bool unit) -> std::optional<Dimensions> {
        if (!unit && word == "pi") return Dimensions{0, 0, true};
        auto its = kind_of(word, unit);
        if (!its) return std::nullopt;
        return Dimensions{double(*its == QuantityKind::Length), double(*its == QuantityKind::Angle),
                          *its != QuantityKind::Length && *its != QuantityKind::Angle};
    });
    if (measures && (kind == QuantityKind::Length ? measures->angle == 0 : measures->length == 0)) return std::nullopt;
    auto words = words_of(text);
    if (!measures && std::any_of(words.begin(), words.end(), [](const Word& w) { return w.is_call; }))
        return std::nullopt;
    for (const Word& word : words) {
        auto its = kind_of(word.text, word.after_number);
        if (its && (*its == QuantityKind::Length || *its == QuantityKind::Angle) && *its != kind) {
            const char* wanted = kind == QuantityKind::Length ? "a length" : "an angle";
            return Problem{ProblemCode::Wording,
                           "\"" + text + "\" has \"" + word.text + "\" in it, and this is " + wanted + ".",
                           kind == QuantityKind::Length ? "Use mm, cm or in." : "Use deg."};
        }
    }
    return std::nullopt;
}

/// What people type or paste, as the parser wants it. Longest first where one begins another.
std::string with_plain_signs(const std::string& text) {
    static const std::vector<std::pair<std::string_view, std::string_view>> signs{
        {"°", " deg"}, {"×", "*"},    {"−", "-"},      {"\"", " in"},  {"½", " 1/2"},
        {"¼", " 1/4"}, {"¾", " 3/4"}, {"\u00a0", " "}, {"\u202f", " "}}; // no-break spaces, as before units in print
    std::string result;
    for (size_t i = 0; i < text.size();) {
        auto sign = std::find_if(signs.begin(), signs.end(),
                                 [&](const auto& s) { return text.compare(i, s.first.size(), s.first) == 0; });
        result += sign == signs.end() ? std::string_view(&text[i], 1) : sign->second;
        i += sign == signs.end() ? 1 : sign->first.size();
    }
    return result;
}

bool is_digit(const std::string& text, size_t i) {
    return i < text.size() && std::isdigit(static_cast<unsigned char>(text[i]));
}

/// Where a comma stands between digits for a decimal point: not among the arguments of a function, which it parts.
std::vector<size_t> decimal_commas(const std::string& text) {
    std::vector<size_t> places;
    std::vector<bool> call; // of each open bracket
    for (size_t i = 1; i < text.size(); ++i) {
        if (text[i] == '(') {
            const size_t before = text.find_last_not_of(' ', i - 1);
            call.push_back(before != std::string::npos && word_part(text[before]));
        } else if (text[i] == ')' && !call.empty()) {
            call.pop_back();
        } else if (text[i] == ',' && is_digit(text, i - 1) && is_digit(text, i + 1) &&
                   std::find(call.begin(), call.end(), true) == call.end()) {
            places.push_back(i);
        }
    }
    return places;
}

/// Whether a comma may as well part thousands: up to three digits before it, no nought first, and three behind.
bool may_part_thousands(const std::string& text) {
    for (size_t comma : decimal_commas(text)) {
        size_t first = comma, last = comma;
        while (first > 0 && is_digit(text, first - 1)) --first;
        while (is_digit(text, last + 1)) ++last;
        if (comma - first <= 3 && text[first] != '0' && last - comma == 3) return true;
    }
    return false;
}

std::string with_decimal_points(std::string text) {
    for (size_t comma : decimal_commas(text)) text[comma] = '.';
    return text;
}

/// Where the number begins after a sign of a diameter; 0 without one.
size_t after_diameter_sign(const std::string& text) {
    const size_t first = text.find_first_not_of(' ');
    if (first == std::string::npos) return 0;
    for (std::string_view sign : {"⌀", "Ø", "ø", "∅"}) // ISO 129-1's sign, and what keyboards have instead
        if (text.compare(first, sign.size(), sign) == 0) return first + sign.size();
    return 0;
}

std::string normalised(const std::string& text) {
    std::string result = with_decimal_points(with_plain_signs(text.substr(after_diameter_sign(text))));
    // "1 1/2 in" is one and a half inches.
    static const std::regex mixed(R"((^|[^\w.\s)])(\s*)(\d+)\s+(\d+)\s*/\s*(\d+)(?![\d.]))");
    result = std::regex_replace(result, mixed, "$1$2($3+$4/$5)");
    // A unit binds to the number before it, but "1/4 in" is a quarter of an inch: plain fractions are taken together.
    static const std::regex fraction(R"((^|[^\w.\s)])(\s*)(\d+(?:\.\d+)?\s*/\s*\d+(?:\.\d+)?)\s*(mm|cm|m|in|deg)\b)");
    return std::regex_replace(result, fraction, "$1$2($3) $4");
}

} // namespace

/// "12", "-0.25 mm": most of what is ever asked, without the parser, which costs a hundred times this. Nothing for
/// everything else, what is wrong included: the parser says how.
static std::optional<double> plain_value(const std::string& text, QuantityKind kind) {
    const char *at = text.data(), *end = at + text.size();
    auto skip = [&] {
        while (at != end && *at == ' ') ++at;
    };
    skip();
    if (at == end || !(std::isdigit(static_cast<unsigned char>(*at)) || *at == '-' || *at == '.')) return std::nullopt;
    double value = 0;
    auto [after, error] = std::from_chars(at, end, value, std::chars_format::fixed);
    if (error != std::errc()) return std::nullopt;
    at = after;
    skip();
    const char* unit = at;
    while (at != end && std::isalpha(static_cast<unsigned char>(*at))) ++at;
    if (unit != at) {
        const Unit* found = find_unit(std::string_view(unit, size_t(at - unit)));
        if (!found || found->kind != kind) return std::nullopt;
        value *= found->factor;
    }
    skip();
    if (at != end || !std::isfinite(value)) return std::nullopt;
    if (kind == QuantityKind::Count && value != std::round(value)) return std::nullopt;
    return value;
}

bool is_told_as_diameter(const std::string& text) {
    return after_diameter_sign(text) > 0;
}

Expected<double> evaluate_expression(const std::string& raw, QuantityKind kind, const ParameterValues& values) {
    if (auto plain = plain_value(raw, kind)) return *plain;
    if (raw.find_first_not_of(" \t") == std::string::npos)
        return problem(ProblemCode::Wording, "There is no number here.", "Type one, such as 6 mm.");
    if (raw.size() > longest_expression)
        return problem(ProblemCode::Wording, "The expression is longer than 500 characters.",
                       "Split it into parameters.");
    if (may_part_thousands(raw))
        return problem(ProblemCode::Wording,
                       "\"" + raw + "\" can be read in two ways: a comma may part thousands or decimals.",
                       "Leave it out, or use a point for decimals.");
    if (is_told_as_diameter(raw) && kind != QuantityKind::Length)
        return problem(ProblemCode::Wording, "\"" + raw + "\" is a diameter, and this is no length.",
                       "Leave the sign out.");
    std::string text = normalised(raw);
    for (const Word& word : words_of(text)) {
        if (word.after_number && find_unit(word.text)) continue;
        if (word.after_number)
            return problem(ProblemCode::Wording, "\"" + word.text + "\" after a number is no unit known here.",
                           "Units are mm, cm, m, in and deg; to multiply, write *.");
        if (function_names().count(word.text) || word.text == "pi" || values.count(word.text)) continue;
        return problem(ProblemCode::Missing, "There is no number called \"" + word.text + "\".",
                       word.text == "nan" || word.text == "inf" || check_parameter_name(word.text)
                           ? "Type a number, such as 6 mm."
                           : "Name it in the parameters, or type " + word.text + " = 6 mm here.");
    }
    if (auto wrong = check_kinds(text, kind, values)) return pass_on(*wrong);
    double value = 0;
    try {
        mu::Parser parser;
        define_vocabulary(parser);
        for (const auto& [name, parameter] : values) parser.DefineConst(name, parameter.value);
        parser.SetExpr(text);
        int count = 0;
        parser.Eval(count);
        if (count != 1)
            return problem(ProblemCode::Wording, "\"" + raw + "\" holds " + std::to_string(count) + " numbers.",
                           "Use a point, not a comma, for decimals.");
        value = parser.Eval();
    } catch (const mu::ParserError& error) {
        std::string where = error.GetToken().empty() ? "at its end" : "at \"" + error.GetToken() + "\"";
        return problem(ProblemCode::Wording, "\"" + raw + "\" cannot be read " + where + ".",
                       "Write it like 2 * wall + 0.4 mm.");
    }
    if (!std::isfinite(value))
        return problem(ProblemCode::Range, "\"" + raw + "\" comes to no number.", "Look for a division by zero.");
    if (kind == QuantityKind::Count && std::fabs(value - std::round(value)) > 1e-9)
        return problem(ProblemCode::Range,
                       "\"" + raw + "\" comes to " + format_number(value) + ", and a count is whole.",
                       "Use round(...) if that is meant.");
    return value;
}

std::vector<std::string> names_in_expression(const std::string& raw) {
    std::set<std::string> names;
    for (const Word& word : words_of(normalised(raw)))
        if (!word.after_number && !function_names().count(word.text) && word.text != "pi") names.insert(word.text);
    return {names.begin(), names.end()};
}

std::string rename_in_expression(const std::string& text, const std::string& from, const std::string& to) {
    std::string result = text;
    auto words = words_of(text);
    for (auto word = words.rbegin(); word != words.rend(); ++word)
        if (!word->after_number && word->text == from) result.replace(word->at, from.size(), to);
    return result;
}

QuantityKind kind_of_expression(const std::string& raw) {
    const std::string text = normalised(raw);
    bool angle = false;
    for (const Word& word : words_of(text))
        if (const Unit* unit = word.after_number ? find_unit(word.text) : nullptr) {
            if (unit->kind != QuantityKind::Angle) return QuantityKind::Length;
            angle = true;
        }
    return angle ? QuantityKind::Angle : QuantityKind::Length;
}

bool is_plain_number(const std::string& raw) {
    std::string text = normalised(raw);
    for (const Word& word : words_of(text))
        if (!word.after_number) return false;
    size_t start = text.find_first_not_of(" +-");
    return start != std::string::npos && text.find_first_of("+-*/^(),", start) == std::string::npos;
}

std::optional<Problem> check_parameter_name(const std::string& name) {
    auto no = [&](const std::string& why) {
        return Problem{ProblemCode::Wording, why, "Use letters, digits and _, such as peg_d."};
    };
    if (name.empty() || !word_start(name[0]) || !std::all_of(name.begin(), name.end(), word_part))
        return no("\"" + name + "\" cannot be the name of a number.");
    if (name.size() > 60) return no("The name is longer than 60 characters.");
    if (find_unit(name) || function_names().count(name) || name == "pi")
        return no("\"" + name + "\" already means something in expressions" +
                  (function_names().count(name) ? ": it is a function." : "."));
    return std::nullopt;
}

Expected<ParameterValues> evaluate_parameters(const std::vector<Parameter>& parameters) {
    std::map<std::string, const Parameter*> by_name;
    for (const Parameter& parameter : parameters) {
        if (auto wrong = check_parameter_name(parameter.name)) return pass_on(*wrong);
        if (!by_name.emplace(parameter.name, &parameter).second)
            return problem(ProblemCode::Wording, "Two numbers are called \"" + parameter.name + "\".", "Rename one.");
    }
    ParameterValues values;
    std::vector<std::string> path; // names being worked out, outermost first
    std::function<std::optional<Problem>(const std::string&)> visit =
        [&](const std::string& name) -> std::optional<Problem> {
        if (values.count(name)) return std::nullopt;
        if (auto loop = std::find(path.begin(), path.end(), name); loop != path.end()) {
            std::string names;
            for (auto it = loop; it != path.end(); ++it) names += *it + " → ";
            return Problem{ProblemCode::Wording, "These numbers need each other in a circle: " + names + name + ".",
                           "Give one of them a plain value."};
        }
        if (path.size() > 200)
            return Problem{ProblemCode::Wording, "More than 200 numbers need each other in a row.",
                           "Shorten the chain."};
        const Parameter& parameter = *by_name.at(name);
        path.push_back(name);
        for (const std::string& used : names_in_expression(parameter.expression))
            if (by_name.count(used))
                if (auto failed = visit(used)) return failed;
        path.pop_back();
        auto value = evaluate_expression(parameter.expression, parameter.kind, values);
        if (!value) {
            Problem why = value.error();
            why.sentence = "Parameter " + name + ": " + why.sentence;
            return why;
        }
        values[name] = {*value, parameter.kind};
        return std::nullopt;
    };
    for (const Parameter& parameter : parameters)
        if (auto failed = visit(parameter.name)) return pass_on(*failed);
    return values;
}

} // namespace lp
