#include "project/card_store.h"
#include "base/files.h"
#include <algorithm>
#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>

namespace lp {
namespace {

namespace fs = std::filesystem;
constexpr uintmax_t largest_card = 1 << 20;

/// A name as a file name: letters, digits, dashes; the card itself holds the name as given.
std::string file_name(const std::string& name) {
    std::string result;
    for (char c : name)
        result += std::isalnum(static_cast<unsigned char>(c)) ? char(std::tolower(static_cast<unsigned char>(c))) : '-';
    return (result.empty() ? "card" : result.substr(0, 80)) + ".json";
}

template <class Card> std::vector<Card> read_all(const fs::path& folder, std::vector<std::string>* passed_over) {
    std::vector<Card> cards;
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(folder, error)) {
        if (entry.path().extension() != ".json") continue;
        bool taken = false;
        try {
            if (entry.file_size() <= largest_card) {
                std::ifstream file(entry.path());
                Card card = nlohmann::json::parse(file).template get<Card>();
                if (!check_card(card)) {
                    cards.push_back(std::move(card));
                    taken = true;
                }
            }
        } catch (const std::exception&) { // not a card
        }
        if (!taken && passed_over) passed_over->push_back(entry.path().filename().string());
    }
    std::sort(cards.begin(), cards.end(), [](const Card& a, const Card& b) { return a.name < b.name; });
    return cards;
}

template <class Card> std::optional<Problem> write_card(const fs::path& folder, const Card& card) {
    if (auto wrong = check_card(card)) return wrong;
    std::error_code error;
    fs::create_directories(folder, error);
    return write_file_safely(folder / file_name(card.name), nlohmann::json(card).dump(1) + "\n");
}

} // namespace

CardStore::CardStore() {
    const char* config = std::getenv("XDG_CONFIG_HOME");
    const char* home = std::getenv("HOME");
    folder_ = (config && *config ? fs::path(config) : fs::path(home ? home : "/") / ".config") / "loose-peg";
}

std::vector<PrinterCard> CardStore::printers(std::vector<std::string>* passed_over) const {
    return read_all<PrinterCard>(folder_ / "printers", passed_over);
}
std::vector<MaterialCard> CardStore::materials(std::vector<std::string>* passed_over) const {
    return read_all<MaterialCard>(folder_ / "materials", passed_over);
}
std::optional<Problem> CardStore::keep(const PrinterCard& card) const {
    return write_card(folder_ / "printers", card);
}
std::optional<Problem> CardStore::keep(const MaterialCard& card) const {
    return write_card(folder_ / "materials", card);
}

} // namespace lp
