#include "hardware/hardware.h"
#include "base/files.h"
#include "base/text.h"
#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <regex>
#include <set>

// The tables ship inside the program.
__asm__(".section .rodata\n"
        "lp_table_hardware: .incbin \"" LP_TABLE_DIR "/hardware.json\"\n"
        "lp_table_hardware_end: .byte 0\n"
        ".previous\n");
extern "C" const char lp_table_hardware[], lp_table_hardware_end[];

namespace lp {
namespace {

using json = nlohmann::ordered_json; ///< letters stay in the order of the table

std::string lower(std::string text) {
    for (char& c : text) c = char(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

std::vector<std::string> parts_of(const std::string& text) {
    std::vector<std::string> parts;
    std::string part;
    for (char c : lower(text) + " ")
        if (c == ' ' || c == ',') {
            if (!part.empty()) parts.push_back(std::move(part));
            part.clear();
        } else {
            part += c;
        }
    return parts;
}

std::optional<double> number(const std::string& text) {
    char* end = nullptr;
    const double value = std::strtod(text.c_str(), &end);
    if (text.empty() || *end || !std::isfinite(value)) return std::nullopt;
    return value;
}

/// "m3" 3, "1/4-20" 6.35, "7x2" 7, "#6-32": nothing.
std::optional<double> across(const std::string& size) {
    const std::string text = !size.empty() && std::isalpha(static_cast<unsigned char>(size[0])) ? size.substr(1) : size;
    const std::string first = text.substr(0, text.find_first_of("x-"));
    if (const size_t slash = first.find('/'); slash != std::string::npos) {
        const auto a = number(first.substr(0, slash)), b = number(first.substr(slash + 1));
        return a && b && *b > 0 ? std::optional(*a / *b * 25.4) : std::nullopt;
    }
    return number(first);
}

std::filesystem::path own_file() {
    const char* config = std::getenv("XDG_CONFIG_HOME");
    const char* home = std::getenv("HOME");
    if (config && *config) return std::filesystem::path(config) / "loose-peg/hardware.json";
    return std::filesystem::path(home ? home : "") / ".config/loose-peg/hardware.json";
}

} // namespace

const double* HardwareRow::size_of(const std::string& letter) const {
    for (const HardwareSize& size : sizes)
        if (size.letter == letter) return &size.value;
    return nullptr;
}

/// What was asked for, in pieces.
struct Hardware::Query {
    std::vector<std::string> words, sizes; ///< pieces without and with a digit
    static Query of(const std::string& text);
    /// Whether the table is meant by the words; sizes that are numbers of its standard are taken out of `left`.
    bool means(const Table& table, std::vector<std::string>& left) const;
    bool names_a_standard() const {
        static const std::set<std::string> bodies{"iso", "din", "en", "iec", "asme"};
        return std::any_of(words.begin(), words.end(), [](const std::string& w) { return bodies.count(w) > 0; });
    }
    /// "aa": another name of a row.
    static bool is_row_word(const Table& table, const std::string& word) {
        return std::any_of(table.rows.begin(), table.rows.end(), [&](const auto& row) {
            const auto parts = parts_of(row.first);
            return std::find(parts.begin() + 1, parts.end(), word) != parts.end();
        });
    }
    bool names_a_row(const Table& table) const {
        return std::any_of(words.begin(), words.end(), [&](const std::string& w) { return is_row_word(table, w); });
    }
};

Hardware::Query Hardware::Query::of(const std::string& text) {
    static const std::set<std::string> fillers{"a",   "an",   "of", "the", "for",    "with",
                                               "and", "size", "mm", "x",   "pocket", "room"};
    static const std::regex times("([0-9])\\s*(?:x|×|\\*)\\s*([0-9])"), unit("([0-9])\\s*mm\\b"),
        standard("\\b(iso|din|en|iec)([0-9])"); // "iso4032"
    std::string plain = std::regex_replace(lower(text.substr(0, 200)), times, "$1x$2");
    plain = std::regex_replace(plain, unit, "$1");
    plain = std::regex_replace(plain, standard, "$1 $2");
    Query query;
    for (std::string& part : parts_of(plain)) {
        if (part.find_first_of("0123456789") != std::string::npos)
            query.sizes.push_back(std::move(part));
        else if (!fillers.count(part))
            query.words.push_back(std::move(part));
    }
    return query;
}

bool Hardware::Query::means(const Table& table, std::vector<std::string>& left) const {
    auto known = [&](const std::string& word) {
        const std::string one = word.size() > 3 && word.back() == 's' ? word.substr(0, word.size() - 1) : word;
        return std::any_of(table.words.begin(), table.words.end(), [&](const std::string& w) {
            return w.compare(0, word.size(), word) == 0 || w.compare(0, one.size(), one) == 0;
        });
    };
    left.clear();
    for (const std::string& size : sizes)
        if (!names_a_standard() || std::find(table.words.begin(), table.words.end(), size) == table.words.end())
            left.push_back(size);
    return std::all_of(words.begin(), words.end(),
                       [&](const std::string& word) { return known(word) || is_row_word(table, word); });
}

namespace {

/// Whether the sizes asked for are those of a row called `key`; the length where the table has such.
bool same_size(const std::string& key, bool has_length, std::vector<std::string> asked,
               const std::vector<std::string>& words, double& length) {
    const auto parts = parts_of(key);
    const std::string& name = parts.front();
    // "1/4" of "1/4-20", "6" of "6x2"; M8 is not M8x1.
    const std::string short_name =
        name.substr(0, std::isdigit(static_cast<unsigned char>(name[0])) ? name.find_first_of("-x") : name.find('-'));
    bool named = false;
    std::erase_if(asked, [&](const std::string& size) {
        if (named) return false;
        if (size == name || size == short_name || size == "m" + name) return named = true;
        if (has_length && size.compare(0, name.size() + 1, name + "x") == 0)
            if (auto l = number(size.substr(name.size() + 1))) {
                length = *l;
                return named = true;
            }
        return false;
    });
    // "aa cell": by another name of the row.
    for (size_t i = 1; i < parts.size(); ++i)
        named = named || std::find(words.begin(), words.end(), parts[i]) != words.end();
    if (!asked.empty() && has_length && named && length == 0) {
        const auto l = number(asked.front()[0] == 'x' ? asked.front().substr(1) : asked.front());
        if (l) length = *l, asked.erase(asked.begin());
    }
    return named && asked.empty();
}

} // namespace

std::vector<Hardware::Table> Hardware::tables_of(const std::string& text) {
    std::vector<Table> tables;
    const json all = json::parse(text);
    for (const json& from : all.at("tables")) {
        Table table;
        table.id = from.at("id");
        table.standard = from.value("standard", std::string("own"));
        table.name = from.at("name");
        table.source = from.value("source", std::string("your own"));
        table.profile = from.value("profile", std::string());
        table.sure = from.value("sure", true);
        table.length = from.value("length", false);
        for (const auto& [letter, word] : from.at("letters").items()) table.letters.emplace_back(letter, word);
        std::string words = table.name + " " + table.standard;
        for (const std::string& word : from.value("words", std::vector<std::string>())) words += " " + word;
        table.words = parts_of(words);
        for (const auto& [key, values] : from.at("rows").items()) {
            if (parts_of(key).empty() || values.size() != table.letters.size())
                throw std::invalid_argument("row " + key);
            table.rows.emplace_back(key, values.get<std::vector<double>>());
        }
        tables.push_back(std::move(table));
    }
    return tables;
}

Hardware::Hardware() {
    tables_ = tables_of(std::string(lp_table_hardware, lp_table_hardware_end));
    std::error_code error;
    if (const auto file = own_file(); std::filesystem::exists(file, error)) {
        const auto bytes = read_file(file);
        if (bytes)
            add_own(*bytes);
        else
            passed_over_ = bytes.error().text();
    }
}

Hardware::Hardware(const std::string& own) {
    tables_ = tables_of(std::string(lp_table_hardware, lp_table_hardware_end));
    add_own(own);
}

void Hardware::add_own(const std::string& text) {
    std::vector<Table> own;
    try {
        own = tables_of(text);
    } catch (const std::exception&) {
        passed_over_ = "Your own hardware tables cannot be read; they were passed over. Compare them with "
                       "data/tables/hardware.json.";
        return;
    }
    for (const Table& mine : own)
        for (Table& table : tables_)
            if (table.id == mine.id)
                std::erase_if(table.rows, [&](const auto& row) {
                    return std::any_of(mine.rows.begin(), mine.rows.end(),
                                       [&](const auto& m) { return m.first == row.first; });
                });
    tables_.insert(tables_.begin(), own.begin(), own.end());
}

size_t Hardware::count() const {
    size_t all = 0;
    for (const Table& table : tables_) all += table.rows.size();
    return all;
}

HardwareRow Hardware::row_of(const Table& table, size_t index, double length_mm) {
    const auto& [key, values] = table.rows[index];
    HardwareRow row{.id = table.id + "-" + lower(key),
                    .standard = table.standard,
                    .name = table.name,
                    .size = key,
                    .sizes = {},
                    .source = table.source,
                    .sure = table.sure};
    std::replace(row.id.begin(), row.id.end(), ' ', '-');
    for (size_t i = 0; i < values.size(); ++i)
        row.sizes.push_back({table.letters[i].first, table.letters[i].second, values[i]});
    if (!table.profile.empty() && row.size_of("d") && row.size_of("P")) {
        // ISO 68-1 (H = P cos 30, d2 = d - 3/4 H, d1 = d - 5/4 H, d3 = d - 17/12 H); ISO 228-1 (h = 0.640327 P).
        const double d = *row.size_of("d"), p = *row.size_of("P"), h = 0.866025404 * p;
        const bool iso = table.profile == "iso";
        row.sizes.push_back({"d2", "pitch diameter", iso ? d - 0.75 * h : d - 0.640327 * p});
        row.sizes.push_back({"d1", "minor diameter of the nut", iso ? d - 1.25 * h : d - 2 * 0.640327 * p});
        if (iso) row.sizes.push_back({"d3", "root diameter of the bolt", d - 17.0 / 12 * h});
    }
    if (length_mm > 0) {
        row.sizes.push_back({"l", "length", length_mm});
        row.id += "x" + nlohmann::json(length_mm).dump();
        if (row.id.size() > 2 && row.id.compare(row.id.size() - 2, 2, ".0") == 0) row.id.resize(row.id.size() - 2);
    }
    return row;
}

Expected<std::vector<HardwareRow>> Hardware::find(const std::string& words) const {
    const Query query = Query::of(words);
    if (query.words.empty() && query.sizes.empty())
        return problem(ProblemCode::Wording, "Nothing was asked for.", "Say a size and a thing: m4 nut.");
    std::vector<HardwareRow> found;
    std::vector<const Table*> meant;
    std::vector<std::string> left;
    auto has = [](const Table& table, const std::string& word) {
        return std::find(table.words.begin(), table.words.end(), word) != table.words.end();
    };
    // Numbers of standards that were named: "4032" behind "iso".
    std::vector<std::string> standards;
    for (const std::string& size : query.names_a_standard() ? query.sizes : std::vector<std::string>())
        if (std::any_of(tables_.begin(), tables_.end(), [&](const Table& table) { return has(table, size); }))
            standards.push_back(size);
    for (const Table& table : tables_) {
        if (!query.means(table, left)) continue;
        if (!std::all_of(standards.begin(), standards.end(), [&](const std::string& s) { return has(table, s); }))
            continue;
        meant.push_back(&table);
        const bool one_row = !left.empty() || query.names_a_row(table);
        for (size_t i = 0; i < table.rows.size(); ++i) {
            double length = 0;
            if (!one_row || same_size(table.rows[i].first, table.length, left, query.words, length))
                found.push_back(row_of(table, i, length));
        }
    }
    if (!found.empty()) return found;
    std::set<std::pair<double, std::string>> near; // by how far off they are
    for (const Table* table : meant)
        for (const std::string& size : query.sizes)
            if (const auto wanted = across(size))
                for (const auto& row : table->rows)
                    if (const auto has = across(lower(row.first))) near.insert({std::fabs(*has - *wanted), row.first});
    std::vector<std::string> nearest;
    for (const auto& [off, size] : near)
        if (nearest.size() < 3 && std::find(nearest.begin(), nearest.end(), size) == nearest.end())
            nearest.push_back(size);
    std::string advice = "Say a size and a thing: m4 nut, countersunk m3 12, 1/4-20.";
    if (!nearest.empty()) {
        advice = "The nearest sizes are " + nearest[0];
        for (size_t i = 1; i < nearest.size(); ++i) advice += (i + 1 == nearest.size() ? " and " : ", ") + nearest[i];
        advice += ".";
    }
    return problem(ProblemCode::Missing, "No table has " + quoted_start(words) + ".", advice);
}

} // namespace lp
