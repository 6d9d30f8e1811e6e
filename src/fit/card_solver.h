// The numbers of a printer card out of everything that was felt on gauges and measured on prints.
#pragma once
#include "fit/fits.h"

namespace lp {

/// Outside growth, shrink of holes and, when round ones of different diameters were printed, how it depends on the
/// diameter (shrink = a + b / d), by least squares over all results of the card. Every number felt gives one equation:
/// its gap on the coupon equals the fit's gap plus what this printer does beyond the typical one. Every size measured
/// over outside faces gives the growth, every hole the shrink. Without any result the numbers are the usual ones.
PrinterCard solved_card(PrinterCard card, const std::vector<NamedFit>& fits, const MaterialCard& material);

/// Root mean square of what a result of the card is off its numbers, mm a face.
double spread_of(const GaugeResult& result, const PrinterCard& solved, const std::vector<NamedFit>& fits,
                 const MaterialCard& material);
double spread_of(const MeasuredSize& size, const PrinterCard& solved);

/// Problem when it is no size calipers tell, or too far from what was drawn to come from the printer.
std::optional<Problem> check_measured(const MeasuredSize& size);

/// The card corrected by one more size that was measured on a print; one of the same name and date takes the place of
/// the older. Refused when it contradicts what was entered before.
Expected<PrinterCard> learn_from_measured(const PrinterCard& card, const std::vector<NamedFit>& fits,
                                          const MaterialCard& material, const MeasuredSize& size);

} // namespace lp
