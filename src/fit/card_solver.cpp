#include "fit/card_solver.h"
#include "base/quantity.h"
#include "fit/gauge.h"
#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace lp {
namespace {

constexpr double typical_mm = 0.1;     ///< growth and shrink of the printer the fits are for (common practice)
constexpr double most_apart_mm = 0.15; ///< a face, between a measured size and what all results say

/// excess = growth + hole * shrink(d), both beyond the typical ones.
struct Equation {
    double excess_mm;
    double outside;     ///< 1 when an outside face has to do with it
    double hole;        ///< the same of a hole
    double diameter_mm; ///< 0: flat faces
};

std::vector<Equation> equations_of(const GaugeResult& entry, const std::vector<NamedFit>& fits,
                                   const MaterialCard& material) {
    std::vector<Equation> all;
    const GaugeContact* contact = find_gauge_contact(entry.contact);
    const GaugeLadder ladder{entry.contact, entry.nominal_mm, entry.from_mm, entry.to_mm, entry.count};
    for (const auto& [name, number] : entry.felt)
        if (const NamedFit* fit = find_fit(fits, name); fit && contact) // of a screw only the hole is printed
            all.push_back({ladder.gap_at(number) - fit_gap_of(*fit, material), entry.contact == "screw" ? 0.0 : 1.0, 1,
                           contact->round ? entry.nominal_mm : 0});
    return all;
}

Equation equation_of(const MeasuredSize& size) {
    const double grown = (size.hole ? size.drawn_mm - size.found_mm : size.found_mm - size.drawn_mm) / 2;
    return {grown - typical_mm, size.hole ? 0.0 : 1.0, size.hole ? 1.0 : 0.0,
            size.hole && size.round ? size.drawn_mm : 0};
}

double said_by(const PrinterCard& card, const Equation& e) {
    const double shrink = e.diameter_mm > 0 ? card.hole_shrink_at(e.diameter_mm) : card.hole_shrink_mm;
    return e.outside * (card.outside_growth_mm - typical_mm) + e.hole * (shrink - typical_mm);
}

} // namespace

PrinterCard solved_card(PrinterCard card, const std::vector<NamedFit>& fits, const MaterialCard& material) {
    std::vector<Equation> equations;
    for (const GaugeResult& g : card.gauges)
        for (const Equation& e : equations_of(g, fits, material)) equations.push_back(e);
    for (const MeasuredSize& size : card.measured) equations.push_back(equation_of(size));
    card.hole_shrinks.clear();
    if (equations.empty()) {
        const PrinterCard usual;
        card.outside_growth_mm = usual.outside_growth_mm;
        card.hole_shrink_mm = usual.hole_shrink_mm;
        for (const char* key : {"outside_growth_mm", "hole_shrink_mm"}) card.sources.erase(key);
        return card;
    }
    // Unknowns: how much more outside faces grow than usual, how much more holes shrink, and b of b / d for round ones.
    // Weak springs hold what nothing is said about: growth and shrink alike, no dependence on the diameter.
    const auto rows = long(equations.size());
    Eigen::MatrixXd a = Eigen::MatrixXd::Zero(rows + 3, 3);
    Eigen::VectorXd y = Eigen::VectorXd::Zero(rows + 3);
    for (long i = 0; i < rows; ++i) {
        const Equation& e = equations[size_t(i)];
        a(i, 0) = e.outside;
        a(i, 1) = e.hole;
        a(i, 2) = e.diameter_mm > 0 ? e.hole / e.diameter_mm : 0;
        y[i] = e.excess_mm;
    }
    const double weak = 1e-3;
    a(rows, 0) = weak;
    a(rows, 1) = -weak;
    a(rows + 1, 0) = a(rows + 1, 1) = weak * 1e-2;
    a(rows + 2, 2) = weak * 30; // far weaker than the results, stronger than the others: flat growth explains first
    const Eigen::Vector3d x = a.colPivHouseholderQr().solve(y);
    auto microns = [](double mm) { return std::round(mm * 1000) / 1000; }; // finer than anybody measures
    card.outside_growth_mm = microns(typical_mm + x[0]);
    card.hole_shrink_mm = microns(typical_mm + x[1]);
    if (std::fabs(x[2]) > 0.005)
        for (double d : {2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 30.0, 50.0})
            card.hole_shrinks.push_back({d, microns(typical_mm + x[1] + x[2] / d)});
    return card;
}

double spread_of(const GaugeResult& result, const PrinterCard& solved, const std::vector<NamedFit>& fits,
                 const MaterialCard& material) {
    const auto mine = equations_of(result, fits, material);
    double sum = 0;
    for (const Equation& e : mine) sum += std::pow(said_by(solved, e) - e.excess_mm, 2);
    return mine.empty() ? 0 : std::sqrt(sum / double(mine.size()));
}

double spread_of(const MeasuredSize& size, const PrinterCard& solved) {
    const Equation e = equation_of(size);
    return std::fabs(said_by(solved, e) - e.excess_mm);
}

std::optional<Problem> check_measured(const MeasuredSize& size) {
    constexpr double apart_mm = 2; // more is another size, or another unit
    for (double mm : {size.drawn_mm, size.found_mm})
        if (!(mm >= 0.1 && mm <= 5000))
            return Problem{ProblemCode::Range, "Calipers measure 0.1 to 5000 mm.", "Type what they show."};
    if (std::fabs(size.drawn_mm - size.found_mm) > apart_mm)
        return Problem{ProblemCode::Range,
                       format_fixed(size.found_mm, 2) + " mm is too far from the " + format_fixed(size.drawn_mm, 2) +
                           " mm that were drawn to come from the printer.",
                       "Look whether it is the same place, and in mm."};
    return std::nullopt;
}

Expected<PrinterCard> learn_from_measured(const PrinterCard& card, const std::vector<NamedFit>& fits,
                                          const MaterialCard& material, const MeasuredSize& size) {
    if (auto wrong = check_measured(size)) return pass_on(*wrong);
    PrinterCard next = card;
    std::erase_if(next.measured, [&](const MeasuredSize& m) { return m.what == size.what && m.date == size.date; });
    next.measured.push_back(size);
    next = solved_card(std::move(next), fits, material);
    const double spread = spread_of(size, next);
    if (spread > most_apart_mm)
        return problem(ProblemCode::Range,
                       "This contradicts what was entered before: they differ by " + format_fixed(spread, 2) +
                           " mm a face.",
                       "Measure again, or forget an older result.");
    next.measured.back().spread_mm = spread;
    next.sources[size.hole ? "hole_shrink_mm" : "outside_growth_mm"] =
        "measured on a print" + (size.date.empty() ? "" : " on " + size.date);
    if (auto wrong = check_card(next)) return pass_on(*wrong);
    return next;
}

} // namespace lp
