// How long something takes, as people write it.
#pragma once
#include "base/problem.h"
#include <string>

namespace lp {

/// Seconds of "3 h 42 min", "1 d 2 h", "45 min", "90 s", "3:42" (hours and minutes), or "29.4": hours. Fails on other
/// words, on negative times and on more than a hundred years.
Expected<double> read_duration(const std::string& text);

} // namespace lp
