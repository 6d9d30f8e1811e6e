#include "hardware/iso286.h"
#include "base/quantity.h"
#include <cmath>
#include <cstring>
#include <nlohmann/json.hpp>

// The table ships inside the program.
__asm__(".section .rodata\n"
        "lp_table_iso286: .incbin \"" LP_TABLE_DIR "/iso286.json\"\n"
        "lp_table_iso286_end: .byte 0\n"
        ".previous\n");
extern "C" const char lp_table_iso286[], lp_table_iso286_end[];

namespace lp {
namespace {

const nlohmann::json& rows() {
    static const nlohmann::json table = nlohmann::json::parse(lp_table_iso286, lp_table_iso286_end).at("rows");
    return table;
}

} // namespace

Expected<IsoLimits> iso_limits(double nominal_mm, const std::string& symbol) {
    const nlohmann::json* row = nullptr;
    for (const auto& r : rows()) // the upper end belongs to a range, the lower does not
        if (nominal_mm > r.at("over").get<double>() && nominal_mm <= r.at("to").get<double>()) row = &r;
    if (!row) return problem(ProblemCode::Range, "The table goes from above 0 to 80 mm.", "Use such a diameter.");
    size_t letters = symbol.find_first_of("0123456789");
    std::string letter = symbol.substr(0, letters), grade = letters == std::string::npos ? "" : symbol.substr(letters);
    if (!row->contains("IT" + grade))
        return problem(ProblemCode::Missing, "Grade \"" + grade + "\" is not in the table.", "Use 6 to 11.");
    const double width = row->at("IT" + grade).get<double>() / 1000;
    IsoLimits limits{symbol, 0, 0};
    if (letter == "H") {
        limits.upper_mm = width;
    } else if (letter == "h") {
        limits.lower_mm = -width;
    } else if (letter == "g" || letter == "f") {
        limits.upper_mm = row->at(letter).get<double>() / 1000;
        limits.lower_mm = limits.upper_mm - width;
    } else if (letter == "p") {
        limits.lower_mm = row->at(letter).get<double>() / 1000;
        limits.upper_mm = limits.lower_mm + width;
    } else if (symbol == "k6") {
        limits.lower_mm = row->at("k6").get<double>() / 1000;
        limits.upper_mm = limits.lower_mm + width;
    } else {
        return problem(ProblemCode::Missing, "Class \"" + symbol + "\" is not in the table.",
                       "Use H for holes; f, g, h, k6 or p for shafts.");
    }
    return limits;
}

Expected<IsoFit> iso_fit(const std::string& text) {
    char* rest = nullptr;
    IsoFit fit;
    fit.nominal_mm = std::strtod(text.c_str(), &rest);
    std::string symbols = rest ? rest : "";
    std::erase(symbols, ' ');
    size_t slash = symbols.find('/');
    if (rest == text.c_str() || slash == std::string::npos || symbols.empty() || symbols[0] != 'H')
        return problem(ProblemCode::Wording, "\"" + text + "\" is no fit.", "Write it as: 8 H7/g6.");
    auto hole = iso_limits(fit.nominal_mm, symbols.substr(0, slash)),
         shaft = iso_limits(fit.nominal_mm, symbols.substr(slash + 1));
    if (!hole || !shaft) return pass_on(!hole ? hole.error() : shaft.error());
    fit.hole = *hole;
    fit.shaft = *shaft;
    fit.least_mm = hole->lower_mm - shaft->upper_mm;
    fit.most_mm = hole->upper_mm - shaft->lower_mm;
    return fit;
}

std::string iso_fit_words(const IsoFit& fit) {
    auto um = [](double mm) {
        std::string text = mm > 0 ? "+" : "";
        text.append(format_number(std::round(mm * 1e6) / 1e3, 1)).append(" µm");
        return text;
    };
    return "hole " + um(fit.hole.lower_mm) + " to " + um(fit.hole.upper_mm) + ", shaft " + um(fit.shaft.lower_mm) +
           " to " + um(fit.shaft.upper_mm) + ": clearance " + um(fit.least_mm) + " to " + um(fit.most_mm) +
           ". For bought metal parts only: filament printing holds about ±0.1 to 0.2 mm.";
}

} // namespace lp
