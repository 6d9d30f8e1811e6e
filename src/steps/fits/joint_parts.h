// What joints that come off the bed already joined are made of: turned profiles, rows of knuckles.
#pragma once
#include "outline/curve.h"
#include "steps/step_kind.h"

namespace lp {

/// As turned_profile of profile_shape.h, for piece number `salt` of a joint.
Expected<Body> turned_profile(const std::vector<Curve>& profile, double growth_mm, const Transform& at,
                              const StepContext& context, uint64_t salt);
/// A closed polygon in x and y raised from z 0 to `height`, its outline first moved outward.
Expected<Body> raised_profile(const std::vector<Vec2>& corners, double height, double growth_mm, const Transform& at,
                              const StepContext& context, uint64_t salt);
std::vector<Curve> closed_line(const std::vector<Vec2>& corners);

/// Names the faces of a joint's own pieces apart: a source for piece number `salt`.
struct TagSource joint_tags(const StepContext& context, uint64_t salt);

Expected<Body> joined(const std::vector<Body>& bodies, const StepContext& context);
Expected<Body> without(const Body& body, const std::vector<Body>& tools, const StepContext& context);

/// Where a joint stands: its fields at_x, at_y, at_z and turn about z.
std::vector<StepField> joint_place_fields();
Transform joint_place(const StepContext& context);
/// The gap of the `fit` field; refused when it is too small to stay open or too large for the sizes.
Expected<double> joint_gap(const StepContext& context, double largest_mm);
/// The bodies added to the part, named; the first carries its halo.
StepResult add_joint(const std::vector<StepBody>& before, std::vector<StepBody> made, const std::string& note);

/// Knuckles on an axis that lies along y at x 0, `radius` above which the bed cuts them flat so that nothing hangs
/// beyond the limit.
struct KnuckleRow {
    double radius_mm = 4, gap_mm = 0.35;
    bool cones = false;            ///< else balls
    double limit_deg = 45;         ///< steepest overhang, from vertical
    double axis_z_mm() const;      ///< height of the axis above the bed
    double bump_radius_mm() const; ///< of its foot on the knuckle's end
    double bump_height_mm() const;
};
/// A knuckle from y `from` to `to`, bumps on the ends that are said to have one, larger by `growth_mm`; standing on the
/// bed (z 0).
Expected<Body> knuckle(const KnuckleRow& row, double from, double to, bool bump_from, bool bump_to, double growth_mm,
                       const StepContext& context, uint64_t salt);

/// A length field of a joint.
StepField joint_length(const char* name, const char* standard, const char* hint, double low = 0.5);
/// A kind with its own fields, the fit and where the joint stands.
StepKind joint_kind(const char* id, const char* title, const char* purpose, std::vector<StepField> own);
/// How a joint's sentence ends.
inline constexpr const char* joint_standing = ", fit {fit}, at {at_x}, {at_y}, {at_z}[, turned {turn}][, foot {foot}]";
/// "1.20 mm", for sentences.
std::string in_mm(double value);
/// Problem when a pin is too thin for the lines it is printed of.
std::optional<Problem> check_pin(const StepContext& context, const char* what, double width_mm);
/// Problem when an arm that bends is thinner than two lines.
std::optional<Problem> check_spring(const StepContext& context, double thick_mm);
/// "of 2 %", or that it is more than the material card allows; `breaks` says what breaks.
std::string strain_words(const StepContext& context, double percent, const char* breaks);
/// Says more of a step that may have something to say already.
void add_note(StepResult& result, const std::string& more);
/// A solid that is meant to bend, placed and turned by its fields: `make` gets where its foot stands, `bends` what of
/// it bends there. Of what is cut away or remade larger nothing bends.
struct BendingSolid {
    std::function<Expected<Body>(const Transform& at)> make;
    std::function<std::vector<Bending>(const Transform& at)> bends;
    std::vector<SizeHandle> handles = {};
};
Expected<StepResult> place_bending(const std::vector<StepBody>& before, const StepContext& context,
                                   const BendingSolid& solid);
/// Whether a placed solid is there, to be told of: neither cut away nor remade larger.
bool is_told(const StepContext& context);
/// Overhang the joint is drawn with: a degree within the limit, so that facets are too.
double steepest(const StepContext& context, double least, double most);
Expected<Body> joint_block(const Vec3& low, const Vec3& high, const StepContext& context, uint64_t salt);
/// "flap pin" of a step named flap; "pin" of one without a name.
std::string piece_name(const StepContext& context, const char* piece);
/// Moves pieces to where the joint stands and adds them to the part; their feet are chamfered where they face each
/// other, unless they are already or are wanted plain.
Expected<StepResult> stand_joint(const std::vector<StepBody>& before, std::vector<StepBody> made,
                                 const std::string& note, const StepContext& context, bool chamfered = false);
/// Whether the foot is wanted as it is drawn, without a chamfer.
bool plain_foot(const StepContext& context);
/// The knuckles of the fields `bumps` and `fit`, `barrel_mm` across; refused when they do not hold.
Expected<KnuckleRow> knuckle_row(const StepContext& context, double barrel_mm);
/// How to print it and how far the bumps hold.
std::string hold_note(const KnuckleRow& row);

} // namespace lp
