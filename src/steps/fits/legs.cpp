#include "steps/fits/legs.h"
#include "base/text.h"
#include <cmath>
#include <sstream>

namespace lp {

Expected<std::vector<PathLeg>> legs_from_text(const std::string& text) {
    std::vector<PathLeg> legs;
    std::istringstream stream(text);
    std::string one;
    while (std::getline(stream, one, ',')) {
        std::istringstream words(one);
        std::string word;
        PathLeg leg;
        bool any = false;
        while (words >> word) {
            double value = 0;
            bool turn = word == "turn", slide = word == "slide";
            if ((!turn && !slide) || !(words >> value) || !std::isfinite(value) || std::fabs(value) > 1e5)
                return problem(ProblemCode::Wording, quoted_start(one) + " is no leg of a path.",
                               "Write legs as: slide 6, turn 30, slide -3.");
            (turn ? leg.turn_deg : leg.slide_mm) = value;
            any = true;
        }
        if (any) legs.push_back(leg);
    }
    if (legs.size() > 200) return problem(ProblemCode::Range, "The path has more than 200 legs.", "Use fewer.");
    return legs;
}

} // namespace lp
