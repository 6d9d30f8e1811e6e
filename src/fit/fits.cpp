#include "fit/fits.h"
#include "base/quantity.h"
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

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

ResolvedFit resolve_fit(double fit_mm, bool typed, const ContactSituation& situation, const PrinterCard& card) {
    ResolvedFit result;
    result.fit_mm = fit_mm;
    if (!typed) {
        double shrink =
            situation.hole_diameter_mm ? card.hole_shrink_at(*situation.hole_diameter_mm) : card.hole_shrink_mm;
        if (situation.tool_printed) result.outside_correction_mm = card.outside_growth_mm - typical_growth_mm;
        result.hole_correction_mm = shrink - typical_shrink_mm;
        if (situation.lying) result.lying_correction_mm = card.lying_sag_mm;
    }
    result.gap_mm = fit_mm + result.outside_correction_mm + result.hole_correction_mm + result.lying_correction_mm;
    if (fit_mm >= 0) result.gap_mm = std::max(0.0, result.gap_mm); // only a fit that wants overlap may give one
    result.sum = format_fixed(fit_mm, 2) + (typed ? " mm typed" : " mm fit");
    auto add = [&](double value, const char* what) {
        if (std::fabs(value) >= 0.005)
            result.sum += (value < 0 ? " − " : " + ") + format_fixed(std::fabs(value), 2) + " mm " + what;
    };
    add(result.outside_correction_mm, "outside");
    add(result.hole_correction_mm, situation.hole_diameter_mm && !card.hole_shrinks.empty() ? "round hole" : "hole");
    add(result.lying_correction_mm, "sagging roof");
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

double fit_gap_of(const NamedFit& fit, const MaterialCard& material) {
    auto own = material.fits.find(fit.name);
    return own == material.fits.end() ? fit.gap_mm : own->second;
}

} // namespace lp
