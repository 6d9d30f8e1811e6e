// Fit gauges: a coupon with a ladder of gaps is printed, the maker says which number felt like which fit, and the
// printer card is corrected by least squares over all gauges so far.
#pragma once
#include "fit/fits.h"

namespace lp {

/// What is on a coupon.
struct GaugeLadder {
    std::string contact = "peg";       ///< see gauge_contacts()
    double nominal_mm = 8;             ///< diameter of the peg or screw, side of the pin, thickness of the card, barrel
    double from_mm = 0.1, to_mm = 0.5; ///< gaps a face at number 1 and at the last
    int count = 5;
    bool operator==(const GaugeLadder&) const = default;

    double gap_at(int number) const; ///< from 1; evenly spaced
};

struct GaugeContact {
    const char *id, *title, *nominal, *how;
    double standard_mm; ///< usual nominal size
    bool round;         ///< its holes shrink by their diameter
};
/// peg (round), pin (square), slot (for a card), screw (a hole for a bought screw), thread (printed, with its screw), hinge (in place).
const std::vector<GaugeContact>& gauge_contacts();
const GaugeContact* find_gauge_contact(const std::string& id);

/// Problem when the coupon cannot be printed or would take too long.
std::optional<Problem> check_ladder(const GaugeLadder& ladder);

/// The card corrected by one more result: outside growth, shrink of holes and, when round gauges of different diameters
/// were printed, how it depends on the diameter (shrink = a + b / d). Every number felt gives one equation: its gap on
/// the coupon equals the fit's gap plus what this printer does beyond the typical one. The entry's spread is the root
/// mean square of what is left over. Refused when the entries contradict each other.
Expected<PrinterCard> learn_from_gauge(const PrinterCard& card, const std::vector<NamedFit>& fits,
                                       const MaterialCard& material, const GaugeResult& entry);

} // namespace lp
