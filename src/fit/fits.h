// Named fits, the printer and material cards, and how a fit becomes a gap in mm.
#pragma once
#include "base/problem.h"
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace lp {

/// A gap by name. `gap_mm` is a face, as modelled, on a printer whose outside faces grow by 0.1 mm and whose holes
/// shrink by 0.1 mm a face (common practice, no published source).
struct NamedFit {
    std::string name;
    double gap_mm = 0;
    std::string source;
    bool operator==(const NamedFit&) const = default;
};

/// press, snug, slide, loose, free, in-place.
std::vector<NamedFit> standard_fits();

/// What this printer really does. Lengths in mm, a face where faces are meant.
struct PrinterCard {
    std::string name = "Bench printer";
    double nozzle_mm = 0.4;
    double layer_height_mm = 0.2;
    double first_layer_mm = 0.2;
    Vec3 bed_mm{220, 220, 250};
    double outside_growth_mm = 0.1; ///< outside faces stand out by this
    double hole_shrink_mm = 0.1;    ///< walls of holes stand in by this
    double first_layer_flare_mm = 0.2;
    double smallest_open_gap_mm = 0.25; ///< below this an in-place gap fuses
    double overhang_limit_deg = 45;     ///< from vertical, printed without support
    double bridge_limit_mm = 10;
    int walls = 3;
    double infill_percent = 15;
    bool operator==(const PrinterCard&) const = default;
};

struct MaterialCard {
    std::string name = "PLA";
    double density_g_cm3 = 1.24; ///< reference/tables.md 12
    double price_per_kg = 20;    ///< common practice, no published source
    double filament_mm = 1.75;
    bool operator==(const MaterialCard&) const = default;
};

/// A fit worked out for one contact, as a sum a person can read.
struct ResolvedFit {
    double fit_mm = 0;                ///< from the table, or as typed
    double outside_correction_mm = 0; ///< this printer's outside faces against the typical one
    double hole_correction_mm = 0;
    double gap_mm = 0; ///< what is modelled: the sum, never below 0
    std::string sum;   ///< "0.25 fit + 0.03 outside + 0.02 hole = 0.30 mm"
};

/// `tool_printed` is false for bought things: only the hole is printed then. A typed gap is taken as it is.
ResolvedFit resolve_fit(double fit_mm, bool typed, bool tool_printed, const PrinterCard& card);

const NamedFit* find_fit(const std::vector<NamedFit>& fits, const std::string& name);

void to_json(nlohmann::json& json, const NamedFit& fit);
void from_json(const nlohmann::json& json, NamedFit& fit);
void to_json(nlohmann::json& json, const PrinterCard& card);
void from_json(const nlohmann::json& json, PrinterCard& card);
void to_json(nlohmann::json& json, const MaterialCard& card);
void from_json(const nlohmann::json& json, MaterialCard& card);

/// Problem when a number of the card makes no sense.
std::optional<Problem> check_card(const PrinterCard& card);

} // namespace lp
