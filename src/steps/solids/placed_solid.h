// Solids made somewhere and joined, cut or kept: what every solid step shares.
#pragma once
#include "outline/curve.h"
#include "steps/step_kind.h"

namespace lp {

/// Which of the placing fields a solid has.
struct Placing {
    bool along = true;                               ///< which way it points; blocks and balls need none
    std::vector<std::string> from{"foot", "centre"}; ///< what of it may stand at the point; empty: always its foot
    const char* from_standard = "foot";
};
/// The fields every solid shares: where it stands, which way it points and what it does.
std::vector<StepField> placing_fields(const Placing& placing = {});
/// Joined to the part, cut from it, kept where both are, or a body of its own.
StepField does_field();

/// Adds what a solid step made to the bodies as its `does` field says: join, cut, common or new.
Expected<StepResult> apply_solid(const std::vector<StepBody>& before, Body made, const StepContext& context);
/// Makes a solid where its placing fields say and adds it as `does` says. The local z axis is turned to the `along`
/// field and moved to at_x, at_y, at_z of the plane or face in `on`; `drop` shifts it along the axis first. `handles`
/// stand in the solid's own frame.
Expected<StepResult> place_solid(const std::vector<StepBody>& before, const StepContext& context, double drop,
                                 const std::function<Expected<Body>(const Transform& at)>& make,
                                 std::vector<SizeHandle> handles = {});
/// The handle of a size along an own axis: of one that grows both ways from the middle, or one way from `from`.
SizeHandle size_both_ways(const char* field, const Vec3& middle, const Vec3& way);
SizeHandle size_one_way(const char* field, const Vec3& from, const Vec3& way);
/// Of a height above the foot, both ways where the solid stands at its centre.
SizeHandle height_handle(const StepContext& context, const char* field);
/// Of a diameter at a height above the foot.
SizeHandle diameter_handle(const char* field, double height);
/// Height above the foot at which the solid's own origin lies for the `from` field: 0 (foot) or half the height.
double origin_drop(const StepContext& context, double height);

/// A kind for a solid of a fixed profile that stands on its foot.
StepKind profile_solid(const char* id, const char* title, const char* purpose, std::vector<StepField> own);
/// A length field of such a solid.
StepField solid_length(const char* name, const char* standard, const char* hint, double low = 0.001);
/// How its sentence ends.
inline constexpr const char* profile_solid_place = " at {at_x}, {at_y}, {at_z}[ on {on}], along {along}, {does}";

} // namespace lp
