#include "fit/gauge.h"
#include "base/quantity.h"
#include <Eigen/Dense>
#include <algorithm>

namespace lp {
namespace {

constexpr double typical_mm = 0.1; ///< growth and shrink of the printer the fits are for (common practice)

struct Equation {
    double excess_mm;   ///< gap on the coupon less the fit's
    double diameter_mm; ///< 0: flat faces
    bool bought;        ///< only the hole is printed
};

std::vector<Equation> equations_of(const GaugeResult& entry, const std::vector<NamedFit>& fits,
                                   const MaterialCard& material) {
    std::vector<Equation> all;
    const GaugeContact* contact = find_gauge_contact(entry.contact);
    GaugeLadder ladder{entry.contact, entry.nominal_mm, entry.from_mm, entry.to_mm, entry.count};
    for (const auto& [name, number] : entry.felt)
        if (const NamedFit* fit = find_fit(fits, name); fit && contact)
            all.push_back({ladder.gap_at(number) - fit_gap_of(*fit, material), contact->round ? entry.nominal_mm : 0,
                           entry.contact == "screw"});
    return all;
}

} // namespace

double GaugeLadder::gap_at(int number) const {
    return count < 2 ? from_mm : from_mm + (to_mm - from_mm) * (number - 1) / (count - 1);
}

const std::vector<GaugeContact>& gauge_contacts() {
    static const std::vector<GaugeContact> contacts{
        {"peg", "Round peg", "diameter of the peg", "push the peg into each hole", 8, true},
        {"pin", "Square pin", "side of the pin", "push the pin into each hole", 6, false},
        {"slot", "Card slot", "thickness of the card", "push the card into each slot", 2, false},
        {"screw", "Screw hole", "diameter of the screw", "push a screw you have into each hole", 4, true},
        {"thread", "Thread", "diameter over the crests", "turn the screw into each thread", 8, false},
        {"hinge", "Hinge in place", "diameter of the barrel", "bend each hinge", 6, false},
    };
    return contacts;
}

const GaugeContact* find_gauge_contact(const std::string& id) {
    for (const GaugeContact& contact : gauge_contacts())
        if (id == contact.id) return &contact;
    return nullptr;
}

std::optional<Problem> check_ladder(const GaugeLadder& ladder) {
    auto wrong = [](std::string sentence, std::string advice) {
        return Problem{ProblemCode::Range, std::move(sentence), std::move(advice)};
    };
    if (!find_gauge_contact(ladder.contact))
        return wrong("There is no gauge for \"" + ladder.contact + "\".", "Use peg, pin, slot, screw, thread or hinge.");
    if (ladder.count < 2 || ladder.count > 12)
        return wrong("A gauge with " + std::to_string(ladder.count) + " steps is not possible.", "Use 2 to 12.");
    if (!(ladder.from_mm >= 0 && ladder.to_mm <= 2 && ladder.from_mm < ladder.to_mm))
        return wrong("The gaps of a gauge go up from the first to the last.", "Use 0 to 2 mm.");
    if ((ladder.to_mm - ladder.from_mm) / (ladder.count - 1) < 0.01)
        return wrong("The steps of the gauge are too small to feel.", "Use fewer, or wider apart.");
    double least = ladder.contact == "slot" ? 0.4 : ladder.contact == "hinge" || ladder.contact == "thread" ? 5 : 2;
    if (!(ladder.nominal_mm >= least && ladder.nominal_mm <= 30))
        return wrong("A gauge for " + format_quantity(ladder.nominal_mm, QuantityKind::Length) + " is not possible.",
                     "Use " + format_number(least) + " to 30 mm.");
    return std::nullopt;
}

Expected<PrinterCard> learn_from_gauge(const PrinterCard& card, const std::vector<NamedFit>& fits,
                                       const MaterialCard& material, const GaugeResult& entry) {
    GaugeLadder ladder{entry.contact, entry.nominal_mm, entry.from_mm, entry.to_mm, entry.count};
    if (auto wrong = check_ladder(ladder)) return pass_on(*wrong);
    if (entry.felt.empty())
        return problem(ProblemCode::Missing, "No number was entered.", "Say which number felt like one of the fits.");
    std::vector<std::pair<double, int>> order;
    for (const auto& [name, number] : entry.felt) {
        const NamedFit* fit = find_fit(fits, name);
        if (!fit)
            return problem(ProblemCode::Missing, "There is no fit called \"" + name + "\".", "Use one of the table.");
        if (number < 1 || number > entry.count)
            return problem(ProblemCode::Range, "The gauge has no number " + std::to_string(number) + ".",
                           "Its numbers go from 1 to " + std::to_string(entry.count) + ".");
        order.emplace_back(fit_gap_of(*fit, material), number);
    }
    std::sort(order.begin(), order.end());
    for (size_t i = 1; i < order.size(); ++i)
        if (order[i].second < order[i - 1].second && order[i].first > order[i - 1].first + 1e-9)
            return problem(ProblemCode::Range,
                           "These entries contradict each other: the looser fit was felt at the smaller number.",
                           "Number 1 is the tightest. Try them again.");
    // What was printed before counts as well.
    PrinterCard next = card;
    next.gauges.push_back(entry);
    std::vector<Equation> equations;
    for (const GaugeResult& g : next.gauges)
        for (const Equation& e : equations_of(g, fits, material)) equations.push_back(e);
    // Unknowns: how much more outside faces grow than usual, how much more holes shrink, and b of b / d for round ones.
    // Weak springs hold what the gauges say nothing about: growth and shrink alike, no dependence on the diameter.
    const auto rows = long(equations.size());
    Eigen::MatrixXd a = Eigen::MatrixXd::Zero(rows + 3, 3);
    Eigen::VectorXd y = Eigen::VectorXd::Zero(rows + 3);
    for (long i = 0; i < rows; ++i) {
        const Equation& e = equations[size_t(i)];
        a(i, 0) = e.bought ? 0 : 1;
        a(i, 1) = 1;
        a(i, 2) = e.diameter_mm > 0 ? 1 / e.diameter_mm : 0;
        y[i] = e.excess_mm;
    }
    const double weak = 1e-3;
    a(rows, 0) = weak;
    a(rows, 1) = -weak;
    a(rows + 1, 0) = a(rows + 1, 1) = weak * 1e-2;
    a(rows + 2, 2) = weak * 30; // far weaker than the gauges, stronger than the others: flat growth explains first
    Eigen::Vector3d x = a.colPivHouseholderQr().solve(y);
    double sum = 0;
    size_t mine = equations_of(entry, fits, material).size();
    for (size_t i = equations.size() - mine; i < equations.size(); ++i) {
        const Equation& e = equations[i];
        double left = (e.bought ? 0 : x[0]) + x[1] + (e.diameter_mm > 0 ? x[2] / e.diameter_mm : 0) - e.excess_mm;
        sum += left * left;
    }
    double spread = std::sqrt(sum / double(mine));
    double step = (entry.to_mm - entry.from_mm) / (entry.count - 1);
    if (spread > std::max(0.15, 1.5 * step))
        return problem(ProblemCode::Range,
                       "This result contradicts what was entered before: they differ by " + format_fixed(spread, 2) +
                           " mm.",
                       "Print and feel the gauge again, or remove an older result from the card.");
    next.gauges.back().spread_mm = spread;
    next.outside_growth_mm = typical_mm + x[0];
    next.hole_shrink_mm = typical_mm + x[1];
    next.hole_shrinks.clear();
    if (std::fabs(x[2]) > 0.005)
        for (double d : {2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 30.0, 50.0})
            next.hole_shrinks.push_back({d, typical_mm + x[1] + x[2] / d});
    const GaugeContact& contact = *find_gauge_contact(entry.contact);
    std::string title = contact.title;
    title[0] = char(std::tolower(title[0]));
    std::string source = "measured with a " + title + " gauge" + (entry.date.empty() ? "" : " on " + entry.date);
    next.sources["outside_growth_mm"] = next.sources["hole_shrink_mm"] = source;
    if (auto wrong = check_card(next)) return pass_on(*wrong);
    return next;
}

} // namespace lp
