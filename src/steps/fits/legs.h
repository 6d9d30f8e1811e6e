// A path round an axis in straight legs, as typed: "slide -6, turn 30, slide 2".
#pragma once
#include "base/problem.h"
#include <string>
#include <vector>

namespace lp {

/// Turned and slid at the same time; one of them may be 0.
struct PathLeg {
    double turn_deg = 0, slide_mm = 0;
    bool operator==(const PathLeg&) const = default;
};

/// The way a thing is led along, in a part's coordinates.
struct LedWay {
    Vec3 point = Vec3::Zero(), axis = Vec3::UnitZ();
    std::vector<PathLeg> legs;
};

/// Legs by commas, each "turn DEGREES", "slide MM" or both.
Expected<std::vector<PathLeg>> legs_from_text(const std::string& text);

} // namespace lp
