#include "fit/gauge.h"
#include "base/quantity.h"
#include "fit/card_solver.h"
#include <algorithm>

namespace lp {

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
        return wrong("There is no gauge for \"" + ladder.contact + "\".",
                     "Use peg, pin, slot, screw, thread or hinge.");
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
    next = solved_card(std::move(next), fits, material);
    const double spread = spread_of(entry, next, fits, material);
    double step = (entry.to_mm - entry.from_mm) / (entry.count - 1);
    if (spread > std::max(0.15, 1.5 * step))
        return problem(ProblemCode::Range,
                       "This result contradicts what was entered before: they differ by " + format_fixed(spread, 2) +
                           " mm.",
                       "Print and feel the gauge again, or remove an older result from the card.");
    next.gauges.back().spread_mm = spread;
    const GaugeContact& contact = *find_gauge_contact(entry.contact);
    std::string title = contact.title;
    title[0] = char(std::tolower(title[0]));
    std::string source = "measured with a " + title + " gauge" + (entry.date.empty() ? "" : " on " + entry.date);
    next.sources["outside_growth_mm"] = next.sources["hole_shrink_mm"] = source;
    if (auto wrong = check_card(next)) return pass_on(*wrong);
    return next;
}

} // namespace lp
