// The way a part is led out of its place, where no straight one is free: leg by leg, typed, or along a drawn line.
#pragma once
#include "project/evaluate.h"

namespace lp {

/// "up 12": where to (up, down, left, right, front, back), and how far; "along Path": a drawn line of the part.
Expected<TypedLeg> leg_typed(const std::string& text);
/// "up by 12 mm"; "along Path".
std::string leg_words(const TypedLeg& leg);
/// Its legs worked out, one after the other, mm in the assembly; a drawn line has several. Empty: it has no way of its
/// own. `made`: the part as it was made, which has its drawn lines; null: those are passed over. `place`: where it
/// stands.
Expected<std::vector<Vec3>> way_out(const Part& part, const ParameterValues& values, const PartResult* made,
                                    const Transform& place);

} // namespace lp
