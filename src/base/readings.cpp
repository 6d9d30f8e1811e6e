#include "base/readings.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace lp {

namespace {
constexpr std::array<const char*, 4> names{"none", "mean", "largest", "smallest"};
}

const char* follows_name(Follows follows) {
    return names[size_t(follows)];
}

std::optional<Follows> follows_from_name(const std::string& name) {
    auto found = std::find(names.begin(), names.end(), name);
    return found == names.end() ? std::nullopt : std::optional(Follows(found - names.begin()));
}

double mean_of(const Readings& readings) {
    return std::accumulate(readings.values.begin(), readings.values.end(), 0.0) / double(readings.values.size());
}

double spread_of(const Readings& readings) {
    auto [least, most] = std::minmax_element(readings.values.begin(), readings.values.end());
    return *most - *least;
}

std::optional<double> number_of(const Readings& readings) {
    if (readings.values.empty()) return std::nullopt;
    switch (readings.follows) {
    case Follows::None:
        return std::nullopt;
    case Follows::Mean:
        return mean_of(readings);
    case Follows::Largest:
        return *std::max_element(readings.values.begin(), readings.values.end());
    case Follows::Smallest:
        return *std::min_element(readings.values.begin(), readings.values.end());
    }
    return std::nullopt;
}

std::optional<Problem> check_readings(const Readings& readings) {
    if (readings.values.size() > most_readings)
        return Problem{ProblemCode::Range, "A number keeps at most 100 readings.", "Drop some first."};
    for (double value : readings.values)
        if (!std::isfinite(value) || std::fabs(value) > 1e5)
            return Problem{ProblemCode::Range, "A reading is a number within 100 m.", "Take it again."};
    return std::nullopt;
}

} // namespace lp
