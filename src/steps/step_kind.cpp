#include "steps/step_kind.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_plane.h"

namespace lp {

const char* field_kind_name(FieldKind kind) {
    switch (kind) {
    case FieldKind::Length:
        return "length";
    case FieldKind::Angle:
        return "angle";
    case FieldKind::Count:
        return "count";
    case FieldKind::Number:
        return "number";
    case FieldKind::Choice:
        return "choice";
    case FieldKind::Bodies:
        return "bodies";
    case FieldKind::Part:
        return "part";
    case FieldKind::Fit:
        return "fit";
    case FieldKind::File:
        return "file";
    case FieldKind::Text:
        return "text";
    case FieldKind::Plane:
        return "plane";
    case FieldKind::Face:
        return "face";
    case FieldKind::Steps:
        return "steps";
    case FieldKind::Faces:
        return "faces";
    case FieldKind::Edges:
        return "edges";
    case FieldKind::Outline:
        return "outline";
    case FieldKind::Outlines:
        return "outlines";
    case FieldKind::Regions:
        return "regions";
    case FieldKind::Drawing:
        return "drawing";
    }
    return "text";
}

bool is_quantity(FieldKind kind) {
    return kind <= FieldKind::Number;
}

QuantityKind quantity_of(FieldKind kind) {
    switch (kind) {
    case FieldKind::Length:
        return QuantityKind::Length;
    case FieldKind::Angle:
        return QuantityKind::Angle;
    case FieldKind::Count:
        return QuantityKind::Count;
    default:
        return QuantityKind::Number;
    }
}

const StepField* StepKind::field(const std::string& name) const {
    for (const StepField& f : fields)
        if (f.name == name) return &f;
    return nullptr;
}

const std::vector<StepKind>& step_kinds() {
    static const std::vector<StepKind> kinds{
        block_kind(),          cylinder_kind(),    prism_kind(),        cone_kind(),
        sphere_kind(),         half_sphere_kind(), wedge_kind(),        pyramid_kind(),
        ring_kind(),           dome_kind(),        outline_kind(),      raise_kind(),
        revolve_kind(),        sweep_kind(),       loft_kind(),         move_kind(),
        turn_kind(),           cut_with_kind(),    join_kind(),         cut_kind(),
        common_kind(),         bring_in_kind(),    mend_kind(),         fillet_kind(),
        chamfer_kind(),        shell_kind(),       draft_kind(),        push_kind(),
        remove_faces_kind(),   scale_kind(),       mirror_kind(),       align_kind(),
        seat_kind(),           repeat_kind(),      repeat_round_kind(), repeat_path_kind(),
        split_kind(),          pieces_kind(),      widen_kind(),        take_kind(),
        leave_out_kind(),      bend_kind(),        skew_kind(),         twist_kind(),
        taper_kind(),          lie_on_kind(),      rib_kind(),          gusset_kind(),
        meet_kind(),           full_round_kind(),  halo_kind(),         open_for_halos_kind(),
        hinge_kind(),          chain_kind(),       captive_pin_kind(),  swivel_cap_kind(),
        captive_slider_kind(), lock_groove_kind(), lock_lugs_kind(),    crop_kind()};
    return kinds;
}

const StepKind* find_step_kind(const std::string& id) {
    for (const StepKind& kind : step_kinds())
        if (kind.id == id) return &kind;
    return nullptr;
}

std::vector<StepField> placing_fields() {
    const double far = tolerance::largest_mm;
    return {
        {"on", FieldKind::Plane, "xy", 0, 0, {}, "the plane or face it stands on; its coordinates are counted there"},
        {"at_x", FieldKind::Length, "0 mm", -far, far, {}, "left to right"},
        {"at_y", FieldKind::Length, "0 mm", -far, far, {}, "front to back"},
        {"at_z", FieldKind::Length, "0 mm", -far, far, {}, "up from the plane or face"},
        {"along", FieldKind::Choice, "z", 0, 0, {"z", "x", "y", "-z", "-x", "-y"}, "which way it points"},
        {"from", FieldKind::Choice, "foot", 0, 0, {"foot", "centre"}, "what of it stands at that point"},
        {"does",
         FieldKind::Choice,
         "join",
         0,
         0,
         {"join", "cut", "common", "new"},
         "joined to the part, cut from it, kept where both are, or a body of its own"},
    };
}

Expected<StepResult> place_solid(const std::vector<StepBody>& before, const StepContext& context, double drop,
                                 const std::function<Expected<Body>(const Transform& at)>& make) {
    auto plane = find_plane(before, context, context.word("on"));
    if (!plane) return tl::make_unexpected(plane.error());
    Transform at = *plane;
    at.translate(Vec3(context.number("at_x"), context.number("at_y"), context.number("at_z")));
    auto found = context.words.find("along"); // blocks and spheres need none
    const std::string along = found == context.words.end() ? "z" : found->second;
    // A quarter turn that keeps the other axes in order, so that a block's x and y go where one expects them.
    Eigen::Matrix3d turn = Eigen::Matrix3d::Identity();
    if (along == "x") turn = Eigen::Matrix3d{{0, 0, 1}, {1, 0, 0}, {0, 1, 0}};
    if (along == "y") turn = Eigen::Matrix3d{{0, 1, 0}, {0, 0, 1}, {1, 0, 0}};
    if (along == "-z") turn = Eigen::Matrix3d{{1, 0, 0}, {0, -1, 0}, {0, 0, -1}};
    if (along == "-x") turn = Eigen::Matrix3d{{0, 0, -1}, {1, 0, 0}, {0, -1, 0}};
    if (along == "-y") turn = Eigen::Matrix3d{{0, -1, 0}, {0, 0, -1}, {1, 0, 0}};
    at.linear() = at.linear() * turn;
    at.translate(Vec3(0, 0, -drop));
    auto made = make(at);
    if (!made) return tl::make_unexpected(made.error());
    auto result = apply_solid(before, *made, context);
    if (result) result->place = StepPlace{*plane, {}, {}};
    return result;
}

double origin_drop(const StepContext& context, double height) {
    return context.growth_mm + (context.word("from") == "centre" ? height / 2 : 0);
}

void tell_pieces(StepResult& result, size_t body, int before) {
    int pieces = result.bodies[body].body.pieces();
    if (pieces <= before) return;
    result.note = "The body is in " + std::to_string(pieces) + " pieces here.";
    result.cure = FieldCure{"keep", "all", "pieces"};
}

Expected<StepResult> apply_solid(const std::vector<StepBody>& before, Body made, const StepContext& context) {
    StepResult result{before, {}, {}};
    const std::string& does = context.word("does");
    std::string name = context.words.count("name") ? context.word("name") : "";
    if (does == "new" || (before.empty() && does == "join")) {
        result.bodies.push_back({context.step_id, name, made});
        result.tools = {{Operation::Join, [made]() -> Expected<Body> { return made; }}};
        return result;
    }
    if (before.empty())
        return problem(ProblemCode::Missing,
                       "There is no body yet to " + std::string(does == "cut" ? "cut from." : "keep a part of."),
                       "Put a solid before this step.");
    Operation operation = does == "cut" ? Operation::Cut : does == "common" ? Operation::Common : Operation::Join;
    auto combined = combine(operation, before.front().body, {made}, context.task);
    if (!combined) return tl::make_unexpected(combined.error());
    result.note = combined->note;
    if (operation == Operation::Cut &&
        std::fabs(combined->body.mass().volume_mm3 - before.front().body.mass().volume_mm3) < tolerance::overlap_mm3)
        result.note = "It cuts nothing: it misses the part.";
    result.bodies.front().body = combined->body;
    tell_pieces(result, 0, before.front().body.pieces());
    result.tools = {{operation, [made]() -> Expected<Body> { return made; }}};
    return result;
}

} // namespace lp
