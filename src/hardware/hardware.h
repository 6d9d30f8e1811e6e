// Bought hardware by name: rows of the standards' tables (data/tables/hardware.json) and the maker's own.
#pragma once
#include "base/problem.h"
#include <filesystem>
#include <string>
#include <vector>

namespace lp {

/// A size by the letter the standard gives it, in mm where the word says nothing else.
struct HardwareSize {
    std::string letter, word; ///< "s", "across flats"
    double value = 0;
};

struct HardwareRow {
    std::string id;       ///< "iso4032-m4"
    std::string standard; ///< "ISO 4032", or "common practice"
    std::string name;     ///< "hexagon nut, style 1"
    std::string size;     ///< "M4", "1/4-20", "7x2"
    std::vector<HardwareSize> sizes;
    std::string source;
    bool sure = true;
    /// Null when it has none of that letter.
    const double* size_of(const std::string& letter) const;
};

/// All tables, the shipped ones and the maker's own, which stand before them and replace rows of the same table and
/// size.
class Hardware {
  public:
    /// The shipped tables, and $XDG_CONFIG_HOME/loose-peg/hardware.json (or ~/.config) where it is there.
    Hardware();
    /// The shipped ones and those of a text in the same form.
    explicit Hardware(const std::string& own);

    /// Rows that the words mean: "m4 nut", "countersunk m3 12" (a screw of that length), "1/4-20", "iso 273 m5". A
    /// Problem that names the nearest sizes where there are none.
    Expected<std::vector<HardwareRow>> find(const std::string& words) const;
    size_t count() const;
    /// Why the maker's own tables were passed over; empty when they were not.
    const std::string& passed_over() const { return passed_over_; }

  private:
    struct Table {
        std::string id, standard, name, source, profile;
        std::vector<std::string> words; ///< lower case, those of its name and standard too
        std::vector<std::pair<std::string, std::string>> letters;
        bool sure = true, length = false;
        std::vector<std::pair<std::string, std::vector<double>>> rows;
    };
    struct Query;
    static std::vector<Table> tables_of(const std::string& text);
    static HardwareRow row_of(const Table& table, size_t row, double length_mm);
    void add_own(const std::string& text);
    std::vector<Table> tables_;
    std::string passed_over_;
};

} // namespace lp
