#include "fit/fits.h"
#include "base/quantity.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {
// The printer the table of fits was made for (docs of product facts: common practice, no published source).
constexpr double typical_growth_mm = 0.1;
constexpr double typical_shrink_mm = 0.1;
} // namespace

std::vector<NamedFit> standard_fits() {
    const char* practice = "common practice, no published source";
    return {{"press", 0.10, practice}, {"snug", 0.15, practice}, {"slide", 0.25, practice},
            {"loose", 0.40, practice}, {"free", 0.50, practice}, {"in-place", 0.35, practice}};
}

ResolvedFit resolve_fit(double fit_mm, bool typed, bool tool_printed, const PrinterCard& card) {
    ResolvedFit result;
    result.fit_mm = fit_mm;
    if (!typed) {
        if (tool_printed) result.outside_correction_mm = card.outside_growth_mm - typical_growth_mm;
        result.hole_correction_mm = card.hole_shrink_mm - typical_shrink_mm;
    }
    result.gap_mm = std::max(0.0, fit_mm + result.outside_correction_mm + result.hole_correction_mm);
    result.sum = format_fixed(fit_mm, 2) + (typed ? " typed" : " fit");
    auto add = [&](double value, const char* what) {
        if (std::fabs(value) >= 0.005)
            result.sum += (value < 0 ? " − " : " + ") + format_fixed(std::fabs(value), 2) + " " + what;
    };
    add(result.outside_correction_mm, "outside");
    add(result.hole_correction_mm, "hole");
    result.sum += " = " + format_fixed(result.gap_mm, 2) + " mm";
    return result;
}

const NamedFit* find_fit(const std::vector<NamedFit>& fits, const std::string& name) {
    for (const NamedFit& fit : fits)
        if (fit.name == name) return &fit;
    return nullptr;
}

void to_json(nlohmann::json& json, const NamedFit& fit) {
    json = {{"name", fit.name}, {"gap_mm", fit.gap_mm}, {"source", fit.source}};
}
void from_json(const nlohmann::json& json, NamedFit& fit) {
    fit.name = json.at("name").get<std::string>();
    fit.gap_mm = json.at("gap_mm").get<double>();
    fit.source = json.value("source", "typed here");
}

void to_json(nlohmann::json& json, const PrinterCard& c) {
    json = {{"name", c.name},
            {"nozzle_mm", c.nozzle_mm},
            {"layer_height_mm", c.layer_height_mm},
            {"first_layer_mm", c.first_layer_mm},
            {"bed_mm", {c.bed_mm.x(), c.bed_mm.y(), c.bed_mm.z()}},
            {"outside_growth_mm", c.outside_growth_mm},
            {"hole_shrink_mm", c.hole_shrink_mm},
            {"first_layer_flare_mm", c.first_layer_flare_mm},
            {"smallest_open_gap_mm", c.smallest_open_gap_mm},
            {"overhang_limit_deg", c.overhang_limit_deg},
            {"bridge_limit_mm", c.bridge_limit_mm},
            {"walls", c.walls},
            {"infill_percent", c.infill_percent}};
}
void from_json(const nlohmann::json& json, PrinterCard& c) {
    const PrinterCard standard;
    c.name = json.value("name", standard.name);
    c.nozzle_mm = json.value("nozzle_mm", standard.nozzle_mm);
    c.layer_height_mm = json.value("layer_height_mm", standard.layer_height_mm);
    c.first_layer_mm = json.value("first_layer_mm", standard.first_layer_mm);
    if (json.contains("bed_mm")) {
        auto bed = json.at("bed_mm").get<std::array<double, 3>>();
        c.bed_mm = {bed[0], bed[1], bed[2]};
    }
    c.outside_growth_mm = json.value("outside_growth_mm", standard.outside_growth_mm);
    c.hole_shrink_mm = json.value("hole_shrink_mm", standard.hole_shrink_mm);
    c.first_layer_flare_mm = json.value("first_layer_flare_mm", standard.first_layer_flare_mm);
    c.smallest_open_gap_mm = json.value("smallest_open_gap_mm", standard.smallest_open_gap_mm);
    c.overhang_limit_deg = json.value("overhang_limit_deg", standard.overhang_limit_deg);
    c.bridge_limit_mm = json.value("bridge_limit_mm", standard.bridge_limit_mm);
    c.walls = json.value("walls", standard.walls);
    c.infill_percent = json.value("infill_percent", standard.infill_percent);
}

void to_json(nlohmann::json& json, const MaterialCard& c) {
    json = {{"name", c.name},
            {"density_g_cm3", c.density_g_cm3},
            {"price_per_kg", c.price_per_kg},
            {"filament_mm", c.filament_mm}};
}
void from_json(const nlohmann::json& json, MaterialCard& c) {
    const MaterialCard standard;
    c.name = json.value("name", standard.name);
    c.density_g_cm3 = json.value("density_g_cm3", standard.density_g_cm3);
    c.price_per_kg = json.value("price_per_kg", standard.price_per_kg);
    c.filament_mm = json.value("filament_mm", standard.filament_mm);
}

std::optional<Problem> check_card(const PrinterCard& c) {
    auto wrong = [](const std::string& what, const std::string& limits) {
        return Problem{
            ProblemCode::Range, "The printer card's " + what + " makes no sense.", "Use " + limits + ".", {}, {}};
    };
    if (!(c.nozzle_mm > 0.05 && c.nozzle_mm < 5)) return wrong("nozzle", "0.05 to 5 mm");
    if (!(c.layer_height_mm >= 0.02 && c.layer_height_mm < 5)) return wrong("layer height", "0.02 to 5 mm");
    if (!(c.first_layer_mm >= 0.02 && c.first_layer_mm < 5)) return wrong("first layer", "0.02 to 5 mm");
    if (!(c.bed_mm.minCoeff() >= 10 && c.bed_mm.maxCoeff() <= 5000)) return wrong("bed", "10 to 5000 mm");
    if (!(std::fabs(c.outside_growth_mm) <= 2 && std::fabs(c.hole_shrink_mm) <= 2))
        return wrong("growth", "at most 2 mm");
    if (!(c.overhang_limit_deg >= 0 && c.overhang_limit_deg <= 90)) return wrong("overhang limit", "0 to 90°");
    if (c.walls < 0 || c.walls > 100) return wrong("number of walls", "0 to 100");
    if (!(c.infill_percent >= 0 && c.infill_percent <= 100)) return wrong("infill", "0 to 100 %");
    return std::nullopt;
}

} // namespace lp
