#include "base/duration.h"
#include "base/text.h"
#include <cctype>
#include <cmath>
#include <locale>
#include <sstream>

namespace lp {
namespace {

constexpr double hour_s = 3600, day_s = 86400, most_s = 100 * 366 * day_s;

std::optional<double> seconds_of(const std::string& unit) {
    if (unit == "d" || unit == "day" || unit == "days") return day_s;
    if (unit == "h" || unit == "hour" || unit == "hours") return hour_s;
    if (unit == "min" || unit == "minute" || unit == "minutes" || unit == "m") return 60;
    if (unit == "s" || unit == "sec" || unit == "second" || unit == "seconds") return 1;
    return std::nullopt;
}

tl::unexpected<Problem> no_time(const std::string& text) {
    return problem(ProblemCode::Wording, quoted_start(text) + " is no time.",
                   "Write 3 h 42 min, 3:42, or 3.7 for hours.");
}

} // namespace

Expected<double> read_duration(const std::string& text) {
    std::istringstream in(in_lower_case(trimmed(text)));
    in.imbue(std::locale::classic());
    double all = 0, last_unit = most_s;
    bool any = false;
    while (in >> std::ws && !in.eof()) {
        if (!std::isdigit(in.peek()) && in.peek() != '.') return no_time(text);
        double value = 0;
        if (!(in >> value)) return no_time(text);
        if (in.peek() == ':') { // hours and minutes
            long minutes = 0;
            in.get();
            if (any || value != std::floor(value) || !std::isdigit(in.peek()) || !(in >> minutes) || minutes > 59 ||
                !(in >> std::ws).eof())
                return no_time(text);
            all = value * hour_s + double(minutes) * 60;
            any = true;
            break;
        }
        std::string unit;
        in >> std::ws;
        while (std::isalpha(in.peek())) unit += char(in.get());
        const auto seconds = unit.empty() && !any ? std::optional(hour_s) : seconds_of(unit);
        if (!seconds || *seconds >= last_unit) return no_time(text); // "3 min 2 h" is a slip
        last_unit = *seconds;
        all += value * *seconds;
        any = true;
    }
    if (!any || !(all <= most_s)) return no_time(text);
    return all;
}

} // namespace lp
