// Printer and material cards kept for the maker, beside any project: open JSON files in the user's configuration. A
// project holds its own copy of the two it uses.
#pragma once
#include "fit/cards.h"
#include <filesystem>

namespace lp {

class CardStore {
  public:
    /// $XDG_CONFIG_HOME/loose-peg, or ~/.config/loose-peg.
    CardStore();
    explicit CardStore(std::filesystem::path folder) : folder_(std::move(folder)) {}

    /// By name; files that cannot be read or make no sense are passed over and named in `passed_over`.
    std::vector<PrinterCard> printers(std::vector<std::string>* passed_over = nullptr) const;
    std::vector<MaterialCard> materials(std::vector<std::string>* passed_over = nullptr) const;
    /// Writes (or writes anew) the card under its name. Through a temporary file: never half of it.
    std::optional<Problem> keep(const PrinterCard& card) const;
    std::optional<Problem> keep(const MaterialCard& card) const;
    const std::filesystem::path& folder() const { return folder_; }

  private:
    std::filesystem::path folder_;
};

} // namespace lp
