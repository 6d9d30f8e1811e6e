#include "base/text.h"
#include <algorithm>
#include <cctype>

namespace lp {

std::string trimmed(std::string_view text) {
    constexpr std::string_view blanks = " \t\r\n\v\f";
    size_t from = text.find_first_not_of(blanks);
    if (from == std::string_view::npos) return {};
    return std::string(text.substr(from, text.find_last_not_of(blanks) - from + 1));
}

std::vector<std::string> listed(std::string_view text, char separator) {
    std::vector<std::string> items;
    for (size_t from = 0; from <= text.size();) {
        size_t to = std::min(text.find(separator, from), text.size());
        if (std::string one = trimmed(text.substr(from, to - from)); !one.empty()) items.push_back(std::move(one));
        from = to + 1;
    }
    return items;
}

std::string joined(const std::vector<std::string>& texts, std::string_view separator) {
    std::string all;
    for (size_t i = 0; i < texts.size(); ++i) {
        if (i) all += separator;
        all += texts[i];
    }
    return all;
}

std::string counted(size_t n, std::string_view one, std::string_view many) {
    return std::to_string(n).append(" ").append(n == 1 ? one : many);
}

std::string as_words(std::string name) {
    std::replace(name.begin(), name.end(), '_', ' ');
    return name;
}

std::string in_lower_case(std::string text) {
    for (char& c : text) c = char(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

long whole_number(std::string_view text) {
    if (text.empty() || text.size() > 9) return -1;
    long number = 0;
    for (char c : text) {
        if (c < '0' || c > '9') return -1;
        number = number * 10 + (c - '0');
    }
    return number;
}

std::string quoted_start(const std::string& text) {
    constexpr size_t most = 60;
    std::string result("\"");
    result.append(text, 0, most);
    result += text.size() > most ? " …\"" : "\"";
    return result;
}

} // namespace lp
