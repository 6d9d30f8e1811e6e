// Named fits and how a fit becomes a gap in mm on one printer.
#pragma once
#include "base/problem.h"
#include "fit/cards.h"

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

/// What the contact is like that a gap is wanted for.
struct ContactSituation {
    bool tool_printed = true;               ///< false for bought things: only the hole is printed then
    std::optional<double> hole_diameter_mm; ///< of round holes: small ones shrink more
    bool lying =
        false; ///< in the host's print pose it has a roof that sags: a round hole on its side, a flat face above
};

/// A fit worked out for one contact, as a sum a person can read.
struct ResolvedFit {
    double fit_mm = 0;                ///< from the table, or as typed
    double outside_correction_mm = 0; ///< this printer's outside faces against the typical one
    double hole_correction_mm = 0;
    double lying_correction_mm = 0; ///< roofs that sag
    double gap_mm = 0;              ///< what is modelled: the sum; below 0 for a press fit that wants overlap
    std::string sum;                ///< "0.25 fit + 0.03 outside + 0.02 hole = 0.30 mm"
};

/// A typed gap is taken as it is.
ResolvedFit resolve_fit(double fit_mm, bool typed, const ContactSituation& situation, const PrinterCard& card);

const NamedFit* find_fit(const std::vector<NamedFit>& fits, const std::string& name);
/// The gap a named fit has with this material: its own, or the material card's in place of it.
double fit_gap_of(const NamedFit& fit, const MaterialCard& material);

void to_json(nlohmann::json& json, const NamedFit& fit);
void from_json(const nlohmann::json& json, NamedFit& fit);

} // namespace lp
