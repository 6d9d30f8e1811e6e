// Readings of one measure: several looks at the same thing with a caliper, and the number that follows from them.
#pragma once
#include "base/problem.h"
#include <string>
#include <vector>

namespace lp {

/// Which of its readings a number is; none: it is as typed, and they only stand beside it.
enum class Follows { None, Mean, Largest, Smallest };
/// "none", "mean", "largest", "smallest": the words of the file format.
const char* follows_name(Follows follows);
std::optional<Follows> follows_from_name(const std::string& name);

struct Readings {
    std::vector<double> values; ///< mm or degrees, in the order they were taken
    Follows follows = Follows::None;
    bool operator==(const Readings&) const = default;
};

inline constexpr size_t most_readings = 100;
/// A caliper told twice the same within a few hundredths; more apart than this something moved, or another place was
/// measured: common practice, no published source.
inline constexpr double wide_spread_mm = 0.1;

/// Of at least one value.
double mean_of(const Readings& readings);
double spread_of(const Readings& readings); ///< largest less smallest
/// The number that follows; nothing where none does or there are no readings.
std::optional<double> number_of(const Readings& readings);
/// Why these cannot be readings: too many, or one that is no number.
std::optional<Problem> check_readings(const Readings& readings);

} // namespace lp
