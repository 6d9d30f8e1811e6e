#include "base/inches.h"
#include "base/dimensions.h"
#include "base/text.h"
#include <cmath>
#include <cstring>
#include <regex>

namespace lp {
namespace {

std::string places(double inches, int few, int many) {
    const int wanted = std::fabs(inches) >= 1 ? few : many;
    std::string text = format_number(inches, wanted);
    for (int more = wanted + 1; text == "0" && inches != 0 && more <= 9; ++more) text = format_number(inches, more);
    return text;
}

/// Where the numbers without a unit stand that are summands: not beside a product, a quotient or a power.
std::vector<size_t> bare_summands(const std::string& text) {
    static const std::regex number(R"((\d+\.?\d*|\.\d+))");
    std::vector<size_t> ends;
    auto neighbour = [&](long at, int step) {
        while (at >= 0 && size_t(at) < text.size() && text[size_t(at)] == ' ') at += step;
        return at >= 0 && size_t(at) < text.size() ? text[size_t(at)] : ' ';
    };
    for (auto it = std::sregex_iterator(text.begin(), text.end(), number); it != std::sregex_iterator(); ++it) {
        const long from = it->position(), to = from + it->length();
        const char before = from > 0 ? text[size_t(from - 1)] : ' ';
        if (std::isalnum(static_cast<unsigned char>(before)) || before == '_' || before == '.') continue; // in a name
        const char left = neighbour(from - 1, -1), right = neighbour(to, 1);
        const bool unit = std::isalpha(static_cast<unsigned char>(right)) || static_cast<unsigned char>(right) >= 0x80;
        if (!unit && !std::strchr("*/^", left) && !std::strchr("*/^\"", right)) ends.push_back(size_t(to));
    }
    return ends;
}

} // namespace

std::string format_inches(double mm) {
    return places(mm / inch_mm, 3, 4) + " in";
}

std::string told_in_inches(const std::string& sentence) {
    static const std::regex told(
        R"((^|[^\w.])(-?\d+(?:\.\d+)?(?:(?: x | to | of | and | … |, )-?\d+(?:\.\d+)?)*) ?([mc]m)(²|³)?(?![\w/]))");
    static const std::regex one(R"(-?\d+(?:\.\d+)?)");
    std::string result;
    auto at = sentence.cbegin();
    for (auto it = std::sregex_iterator(sentence.begin(), sentence.end(), told); it != std::sregex_iterator(); ++it) {
        const std::string power = (*it)[4], numbers = (*it)[2];
        const double unit = std::pow(inch_mm / ((*it)[3] == "cm" ? 10 : 1), power == "²" ? 2 : power == "³" ? 3 : 1);
        result.append(at, (*it)[2].first);
        auto rest = numbers.cbegin();
        for (auto n = std::sregex_iterator(numbers.begin(), numbers.end(), one); n != std::sregex_iterator(); ++n) {
            result.append(rest, (*n)[0].first);
            result += places(std::strtod(n->str().c_str(), nullptr) / unit, 3, 4);
            rest = (*n)[0].second;
        }
        result.append(rest, numbers.cend());
        result += " in" + power;
        at = (*it)[0].second;
    }
    result.append(at, sentence.cend());
    return result;
}

std::string typed_in_inches(const std::string& text, QuantityKind kind, const ParameterValues& values) {
    if (kind != QuantityKind::Length || trimmed(text).empty()) return text;
    auto measures = [&](const std::string& expression) {
        return dimensions_of(expression, [&](const std::string& word, bool unit) -> std::optional<Dimensions> {
            const Unit* its = unit ? find_unit(word) : nullptr;
            auto found = values.find(word);
            if (!its && (unit || found == values.end()))
                return word == "pi" ? std::optional(Dimensions{0, 0, true}) : std::nullopt;
            const QuantityKind is = its ? its->kind : found->second.kind;
            return Dimensions{double(is == QuantityKind::Length), double(is == QuantityKind::Angle),
                              is != QuantityKind::Length && is != QuantityKind::Angle};
        });
    };
    static const std::regex plain(R"(^[\s+\-−⌀Øø∅]*[\d.,\s/½¼¾]+$)");
    if (std::regex_match(text, plain)) return evaluate_expression(text + " in", kind, {}) ? text + " in" : text;
    auto its = measures(text);
    if (!its || !evaluate_expression(text, kind, values)) return text;
    if (its->length == 0 && its->angle == 0) return "(" + text + ") in"; // no length goes into it at all
    std::string with = text;
    auto ends = bare_summands(text);
    for (auto end = ends.rbegin(); end != ends.rend(); ++end) with.insert(*end, " in");
    auto then = measures(with);
    return then && then->length == 1 && evaluate_expression(with, kind, values) ? with : text;
}

std::string edited_in_inches(const std::string& text) {
    if (!is_plain_number(text)) return text;
    auto mm = evaluate_expression(text, QuantityKind::Length, {});
    return mm ? format_number(*mm / inch_mm, 9) + " in" : text;
}

} // namespace lp
